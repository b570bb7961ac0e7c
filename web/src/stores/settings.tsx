// How stock is kept in this house: a manager says how far ahead parts are held, what is approved, and whether work that waits is planned.
import { useState } from 'react';
import { keepStoreSettings } from '#api/stock.ts';
import type { Answer } from '#api/contract.ts';
import type { readStoreSettings } from '#api/stock.ts';
import { WireMoney, WireNumber, WireTick } from '../parts/wire-fields.tsx';
import { useWireForm, WireForm } from '../parts/wire-form.tsx';
import { plural } from '../parts/words.ts';
import { useReader } from '../shell/reader.tsx';
import { amountOf } from './counted.tsx';
import { storesApi } from './endpoints.ts';

type Settings = Answer<typeof readStoreSettings>;

function SettingsForm({ settings, onDone }: { settings: Settings; onDone: () => void }) {
  const [keep] = storesApi.useKeepStoreSettingsMutation();
  const form = useWireForm(keepStoreSettings, settings);
  return (
    <WireForm
      form={form}
      name="How stock is kept"
      save="Keep it so"
      send={(body) => keep({ body })}
      onDone={onDone}
      onCancel={onDone}
      sheet
    >
      <div className="grid grid-cols-3 gap-3">
        <WireNumber name="holdDays" label="Held for work within, days" min={0} />
        <WireNumber name="reviewDays" label="Looked at for orders every, days" min={0} />
        <WireMoney name="approvalLimit" label="Approved above" currency="EUR" hint="Empty: nothing is." />
      </div>
      <WireTick name="planWaiting" label="Work that waits for parts is planned all the same" className="pt-1" />
    </WireForm>
  );
}

export function StoreSettings() {
  const reader = useReader();
  const { data } = storesApi.useReadStoreSettingsQuery();
  const [editing, setEditing] = useState(false);
  if (!data) return null;
  const { holdDays, reviewDays, approvalLimit, planWaiting } = data;
  return (
    <section className="mt-8 max-w-3xl">
      <h2 className="flex items-baseline gap-4">
        How stock is kept
        {reader.may(keepStoreSettings) && !editing && (
          <button className="link-ink font-normal" onClick={() => setEditing(true)}>
            change…
          </button>
        )}
      </h2>
      {editing ? (
        <SettingsForm settings={data} onDone={() => setEditing(false)} />
      ) : (
        <p className="quiet">
          Parts are held for work of the next {plural(holdDays, 'day')}; what runs low is looked for every{' '}
          {plural(reviewDays, 'day')}.{' '}
          {approvalLimit === null
            ? 'Purchase orders are sent without approval.'
            : `Purchase orders above EUR ${amountOf(approvalLimit)} are approved first.`}{' '}
          {planWaiting
            ? 'Work that waits for parts is planned all the same.'
            : 'Work that waits for parts is planned from the day they are promised for.'}
        </p>
      )}
    </section>
  );
}
