// Meters of an asset: what they stand at, and taking a reading; a lower one is asked about.
import { useState } from 'react';
import type { MeterOut } from '#api/assets.ts';
import { LOWER_MEANINGS, type LowerMeans } from '#core/meters.ts';
import { formatInstant, toWallTime, type Instant, type Zone } from '#core/time/index.ts';
import { NumberField, SelectField, TextField, useSubmit } from '../parts/fields.tsx';
import { Form } from '../parts/form.tsx';
import { sayMoment } from '../parts/words.ts';
import { Dialog } from '../shell/dialog.tsx';
import { assetsApi } from './endpoints.ts';
import { readWall, TimeOfEvent } from '../parts/time-of-event.tsx';

const clockText = (minutes: number): string =>
  `${String(Math.floor(minutes / 60)).padStart(2, '0')}:${String(minutes % 60).padStart(2, '0')}`;

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
  const wall = toWallTime(zone, now);
  const [when, setWhen] = useState<{ date: string; time: string }>({ date: wall.date, time: clockText(wall.minutes) });
  const [value, setValue] = useState(NaN);
  const [means, setMeans] = useState<LowerMeans | ''>('');
  const [add, { isLoading }] = assetsApi.useAddReadingMutation();
  const { errors, submit } = useSubmit(['value', 'at', 'lowerMeans']);
  const at = readWall(when.date, when.time, zone);
  const lower = meter.last !== null && value < meter.last.value;
  return (
    <Dialog title={`Reading of ${meter.name}`} onClose={onClose}>
      <Form
        name="Meter reading"
        save="Record the reading"
        onSave={async () => {
          if (at === null) return;
          const body = {
            at: formatInstant(at > now ? now : at),
            value,
            // Chosen also when the server knew of a later reading than this dialog was opened with.
            lowerMeans: means === '' ? null : means,
          };
          if (await submit(add({ params: { id: String(meter.id) }, body }))) onClose();
        }}
        onCancel={onClose}
        errors={errors}
        disabled={isLoading || at === null}
      >
        <h1>{meter.name}</h1>
        <NumberField
          label={`Reading, ${meter.unit}`}
          value={value}
          onChange={setValue}
          error={errors.of('value')}
          step="any"
          hint={meter.last ? `The last one was ${meter.last.value} ${meter.unit}.` : 'The first one.'}
        />
        {(lower || errors.of('lowerMeans')) && (
          <SelectField
            label="Lower than the last one: what does that mean?"
            value={means}
            onChange={(v) => setMeans(v as LowerMeans | '')}
            error={errors.of('lowerMeans')}
            options={[['', 'choose'], ...LOWER_MEANINGS.map((m) => [m, m] as const)]}
          />
        )}
        <TimeOfEvent value={when} onChange={setWhen} zone={zone} error={errors.of('at')} />
      </Form>
    </Dialog>
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
  const [draft, setDraft] = useState({ name: '', unit: '' });
  const [add] = assetsApi.useAddMeterMutation();
  const { errors, submit } = useSubmit(['name', 'unit']);
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
      {adding && (
        <Form
          name="Meter"
          save="Add the meter"
          onSave={async () => {
            if (await submit(add({ params: { id: String(assetId) }, body: draft }))) {
              setAdding(false);
              setDraft({ name: '', unit: '' });
            }
          }}
          onCancel={() => setAdding(false)}
          errors={errors}
        >
          <div className="grid grid-cols-2 gap-2">
            <TextField
              label="Meter"
              value={draft.name}
              onChange={(name) => setDraft({ ...draft, name })}
              error={errors.of('name')}
            />
            <TextField
              label="Unit"
              value={draft.unit}
              onChange={(unit) => setDraft({ ...draft, unit })}
              error={errors.of('unit')}
            />
          </div>
        </Form>
      )}
      {reading && <ReadingDialog meter={reading} zone={zone} now={now} onClose={() => setReading(null)} />}
    </section>
  );
}
