// Meters of an asset: what they stand at, and taking a reading; a lower one is asked about.
import { useState } from 'react';
import { addMeter, addReading, type MeterOut } from '#api/assets.ts';
import { LOWER_MEANINGS, type LowerMeans } from '#core/meters.ts';
import { formatInstant, parseInstant, type Instant, type Zone } from '#core/time/index.ts';
import { SelectField } from '../parts/fields.tsx';
import { WireMoment, WireNumber, WireText } from '../parts/wire-fields.tsx';
import { useWireForm, Wire, WireForm } from '../parts/wire-form.tsx';
import { sayMoment } from '../parts/words.ts';
import { Dialog } from '../shell/dialog.tsx';
import { assetsApi } from './endpoints.ts';

function ReadingDialog({
  meter,
  zone,
  now,
  onClose,
}: {
  meter: MeterOut;
  zone: Zone;
  now: Instant;
  onClose: () => void;
}) {
  const [add] = assetsApi.useAddReadingMutation();
  const form = useWireForm(addReading, { at: formatInstant(now), value: NaN, lowerMeans: null });
  const lower = meter.last !== null && form.watch('value') < meter.last.value;
  return (
    <Dialog title={`Reading of ${meter.name}`} onClose={onClose}>
      <WireForm
        form={form}
        name="Meter reading"
        save="Record the reading"
        send={(body) => {
          const at = parseInstant(body.at);
          // The minute that is typed may not be over yet.
          return add({
            params: { id: String(meter.id) },
            body: { ...body, at: at !== null && at > now ? formatInstant(now) : body.at },
          });
        }}
        onDone={onClose}
        onCancel={onClose}
      >
        <h1>{meter.name}</h1>
        <WireNumber
          name="value"
          label={`Reading, ${meter.unit}`}
          step="any"
          hint={meter.last ? `The last one was ${meter.last.value} ${meter.unit}.` : 'The first one.'}
        />
        {/* Asked also when the server knows of a later reading than this dialog was opened with. */}
        <Wire<LowerMeans | null> name="lowerMeans">
          {({ value, change, error }) =>
            (lower || error) && (
              <SelectField
                label="Lower than the last one: what does that mean?"
                value={value ?? ''}
                onChange={(v) => change(v === '' ? null : (v as LowerMeans))}
                error={error}
                options={[['', 'choose'], ...LOWER_MEANINGS.map((m) => [m, m] as const)]}
              />
            )
          }
        </Wire>
        <WireMoment name="at" zone={zone} />
      </WireForm>
    </Dialog>
  );
}

function NewMeter({ assetId, onDone }: { assetId: number; onDone: () => void }) {
  const [add] = assetsApi.useAddMeterMutation();
  const form = useWireForm(addMeter, { name: '', unit: '' });
  return (
    <WireForm
      form={form}
      name="Meter"
      save="Add the meter"
      send={(body) => add({ params: { id: String(assetId) }, body })}
      onDone={onDone}
      onCancel={onDone}
    >
      <div className="grid grid-cols-2 gap-2">
        <WireText name="name" label="Meter" />
        <WireText name="unit" label="Unit" />
      </div>
    </WireForm>
  );
}

export function Meters({
  assetId,
  meters,
  zone,
  now,
  may,
}: {
  assetId: number;
  meters: readonly MeterOut[];
  zone: Zone;
  now: Instant;
  may: boolean;
}) {
  const [reading, setReading] = useState<MeterOut | null>(null);
  const [adding, setAdding] = useState(false);
  return (
    <section>
      <h2 className="mt-5">Meters</h2>
      {meters.length === 0 && <p className="quiet">None yet.</p>}
      {meters.map((m) => (
        <details key={m.id} className="border-b border-hairline py-1">
          <summary className="flex items-baseline gap-2">
            <span className="flex-1">{m.name}</span>
            <span className="tabular-nums">
              {m.last ? `${m.last.value.toLocaleString('en-GB')} ${m.unit}` : 'not read yet'}
            </span>
            {m.last && <span className="quiet w-24 text-right">{sayMoment(m.last.at, now, zone)}</span>}
          </summary>
          {may && (
            <button className="quiet link-ink" onClick={() => setReading(m)} aria-label={`Read ${m.name}`}>
              Take a reading…
            </button>
          )}
          <p className="quiet">
            {m.total.toLocaleString('en-GB')} {m.unit} since the first reading
          </p>
          <ul className="quiet">
            {m.readings.map((r) => (
              <li key={`${r.at}/${r.value}`} className={r.struckOut ? 'line-through' : ''}>
                {sayMoment(r.at, now, zone)}: {r.value.toLocaleString('en-GB')} ({r.source}
                {r.who ? `, ${r.who}` : ''}
                {r.anew ? `, ${r.anew}` : ''})
              </li>
            ))}
          </ul>
        </details>
      ))}
      {may && !adding && (
        <button className="quiet link-ink mt-1" onClick={() => setAdding(true)}>
          Add a meter…
        </button>
      )}
      {adding && <NewMeter assetId={assetId} onDone={() => setAdding(false)} />}
      {reading && <ReadingDialog meter={reading} zone={zone} now={now} onClose={() => setReading(null)} />}
    </section>
  );
}
