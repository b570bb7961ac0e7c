// How the house bills: from which day, in whose name, into which account, above what goodwill two people look, and what becomes of what
// is not paid.
import { changeSettleSettings, type readSettleSettings } from '#api/billing.ts';
import type { Answer } from '#api/contract.ts';
import { MOST_LEVELS, type ReminderLevel } from '#core/settle/index.ts';
import { WireDate, WireLongText, WireMoney, WireNumber, WireText, WireTick } from '../parts/wire-fields.tsx';
import { useWireForm, WireForm } from '../parts/wire-form.tsx';
import { Waiting } from '../shell/waiting.tsx';
import { settleApi } from './endpoints.ts';

type Held = Answer<typeof readSettleSettings>;
type Typed = {
  version: number;
  billsFrom: string | null;
  hasLimit: boolean;
  limit: number;
  follows: boolean;
  graceDays: number;
  reminderLevels: ReminderLevel[];
  account: string;
  seller: { name: string; address: string; country: string; taxNumber: string };
};

/** Offered where nothing follows yet. */
const USUAL_GRACE = 14;
const NOBODY = { name: '', address: '', country: '', taxNumber: '' };

function Form({ held }: { held: Held }) {
  const [change] = settleApi.useChangeSettleSettingsMutation();
  const bodyOf = ({ hasLimit, limit, follows, graceDays, ...rest }: Typed) => ({
    ...rest,
    ...{ secondAbove: hasLimit ? limit : null, graceDays: follows ? graceDays : null },
  });
  const form = useWireForm(
    changeSettleSettings,
    {
      ...{ version: held.version, billsFrom: held.billsFrom, hasLimit: held.secondAbove !== null },
      ...{ follows: held.graceDays !== null, graceDays: held.graceDays ?? USUAL_GRACE },
      reminderLevels: held.reminderLevels.map((l) => ({ ...l })),
      ...{ limit: held.secondAbove ?? 0, account: held.account, seller: { ...(held.seller ?? NOBODY) } },
    },
    bodyOf,
  );
  return (
    <WireForm
      form={form}
      name="Billing"
      save="Keep it"
      send={(typed, seen) => change({ body: { ...bodyOf(typed), version: seen ?? held.version } })}
      onDone={() => undefined}
    >
      <h2>In whose name</h2>
      <WireText name="seller.name" label="Name on documents" />
      <WireLongText name="seller.address" label="Address" />
      <div className="grid grid-cols-3 gap-3">
        <WireText name="seller.country" label="Country, two letters" />
        <WireText name="seller.taxNumber" label="Tax number" />
        <WireText name="account" label="Account to pay into" />
      </div>
      <h2 className="mt-4">What is billed here</h2>
      <div className="grid grid-cols-2 gap-3">
        <WireDate
          name="billsFrom"
          label="From the day"
          empty={null}
          hint="Orders done and fees due from then on; what was before was billed elsewhere."
        />
      </div>
      <h2 className="mt-4">Goodwill</h2>
      <WireTick name="hasLimit" label="A second person looks at large goodwill" className="" />
      {form.watch('hasLimit') && <WireMoney name="limit" label="Above" currency="EUR" />}
      <h2 className="mt-4">What is not paid</h2>
      <WireTick
        name="follows"
        label="Whether customers are over their credit terms follows from what they owe"
        className=""
      />
      {form.watch('follows') && (
        <div className="grid grid-cols-2 gap-3">
          <WireNumber
            name="graceDays"
            label="After so many days past due"
            min={0}
            hint="Also at once when more is open than their credit limit."
          />
        </div>
      )}
      <Levels levels={form.watch('reminderLevels')} set={(levels) => form.setValue('reminderLevels', levels, DIRTY)} />
    </WireForm>
  );
}

const DIRTY = { shouldDirty: true } as const;

/** Reminders, level by level: how long past due, and how long after the one before. */
function Levels({ levels, set }: { levels: ReminderLevel[]; set: (levels: ReminderLevel[]) => void }) {
  const last = levels.at(-1);
  return (
    <fieldset className="mt-3">
      <legend>Reminders</legend>
      {levels.map((_, i) => (
        <div key={i} className="grid grid-cols-2 gap-3">
          <WireNumber name={`reminderLevels.${i}.days`} label={`Level ${i + 1}: days past due`} min={1} />
          <WireNumber name={`reminderLevels.${i}.wait`} label="And days after the level before" min={0} />
        </div>
      ))}
      <div className="form-acts mt-1">
        {levels.length < MOST_LEVELS && (
          <button
            type="button"
            className="act"
            onClick={() => set([...levels, { days: (last?.days ?? 0) + 14, wait: last ? 14 : 0 }])}
          >
            Add a level
          </button>
        )}
        {last && (
          <button type="button" className="act" onClick={() => set(levels.slice(0, -1))}>
            Leave out level {levels.length}
          </button>
        )}
      </div>
    </fieldset>
  );
}

export function BillingSettings() {
  const query = settleApi.useReadSettleSettingsQuery();
  return (
    <div className="max-w-2xl">
      <Waiting query={query}>{(held) => <Form key={held.version} held={held} />}</Waiting>
    </div>
  );
}
