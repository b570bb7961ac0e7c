// Service levels: per priority the targets for response, arrival and restoration, in elapsed time or working time of a calendar.
import { useState } from 'react';
import { changeServiceLevel } from '#api/setup.ts';
import type { ServiceLevelIn, ServiceLevelOut } from '#api/setup.ts';
import {
  PAUSE_REASONS,
  PRIORITIES,
  TARGETS,
  type PauseReason,
  type Pledge,
  type Priority,
  type Target,
} from '#core/service-levels/index.ts';
import { addDays } from '#core/time/index.ts';
import { TextField, Ticks, useSubmit } from '../parts/fields.tsx';
import { DateField } from '../parts/date-field.tsx';
import { Form } from '../parts/form.tsx';
import { plural, sayDate, sayMinutes } from '../parts/words.ts';
import { useReader } from '../shell/reader.tsx';
import { setupApi } from './endpoints.ts';
import { Waiting } from '../shell/waiting.tsx';
import { PledgeFields, sayPledge } from './pledge-fields.tsx';

type Cell = { length: string; in: string };
const EMPTY: Cell = { length: '', in: 'elapsed' };

/** "30 min", "4 h", "2 d" (of 24 hours) or bare hours; null when it cannot be read. */
export function readLength(text: string): number | null {
  const found = /^(\d+(?:[.,]\d+)?)\s*(min|m|h|d)?$/i.exec(text.trim());
  if (!found) return null;
  const n = Number(found[1]?.replace(',', '.'));
  const unit = (found[2] ?? 'h').toLowerCase();
  return Math.round(n * (unit === 'd' ? 1440 : unit === 'h' ? 60 : 1));
}

/** Minutes as they are typed: whole days or hours where they are, else minutes. */
export function writeLength(minutes: number): string {
  if (minutes % 60 !== 0) return `${minutes} min`;
  return minutes % 1440 === 0 && minutes > 1440 ? `${minutes / 1440} d` : `${minutes / 60} h`;
}

function cellsOf(level: ServiceLevelOut | null): Partial<Record<string, Cell>> {
  return Object.fromEntries(
    Object.entries(level?.targets ?? {}).flatMap(([p, promises]) =>
      TARGETS.flatMap((t) => {
        const promise = promises[t];
        return promise
          ? [
              [
                `${p}${t}`,
                {
                  length: writeLength(promise.minutes),
                  in: promise.measure === 'elapsed' ? 'elapsed' : String(promise.calendarId),
                },
              ],
            ]
          : [];
      }),
    ),
  );
}

function ServiceLevelForm({ level, onDone }: { level: ServiceLevelOut | null; onDone: () => void }) {
  const { data: reference } = setupApi.useReadReferenceQuery();
  const [name, setName] = useState(level?.name ?? '');
  const [pauses, setPauses] = useState<PauseReason[]>(
    level?.pauses ?? ['no access', 'customer asked for a later date'],
  );
  const [holdsFrom, setHoldsFrom] = useState<string>(reference ? addDays(reference.today, 1) : '');
  const [change, changing] = setupApi.useChangeServiceLevelMutation();
  const [pledge, setPledge] = useState<Pledge | null>(level?.pledge ?? null);
  const [cells, setCells] = useState<Partial<Record<string, Cell>>>(() => cellsOf(level));
  const [unread, setUnread] = useState<string | null>(null);
  const [add, { isLoading }] = setupApi.useAddServiceLevelMutation();
  const { errors, submit } = useSubmit(['name', 'targets', 'holdsFrom', 'pledge']);
  const cell = (p: Priority, t: Target): Cell => cells[`${p}${t}`] ?? EMPTY;
  const send = async (): Promise<void> => {
    const targets: { [P in Priority]?: NonNullable<ServiceLevelIn['targets'][P]> } = {};
    for (const p of PRIORITIES) {
      for (const t of TARGETS) {
        const { length, in: measure } = cell(p, t);
        if (length.trim() === '') continue;
        const minutes = readLength(length);
        if (minutes === null) return setUnread(`${t} of priority ${p}`);
        targets[p] = {
          ...targets[p],
          [t]:
            measure === 'elapsed'
              ? { measure: 'elapsed', minutes }
              : { measure: 'working', minutes, calendarId: Number(measure) },
        };
      }
    }
    setUnread(null);
    const body = { name, pauses, targets, pledge: pledge && { ...pledge, tiers: [...pledge.tiers] } };
    const sent = level
      ? change({ params: { id: String(level.id) }, body: { version: level.version, holdsFrom, ...body } })
      : add({ body });
    if (await submit<unknown>(sent)) onDone();
  };
  return (
    <Form
      name="Service level"
      save="Save the service level"
      onSave={() => send()}
      onCancel={onDone}
      errors={errors}
      disabled={isLoading || changing.isLoading}
      sheet
    >
      <div className="grid grid-cols-[2fr_1fr] gap-3">
        <TextField label="Name" value={name} onChange={setName} error={errors.of('name')} />
        {level && (
          <DateField label="Holds from" value={holdsFrom} onChange={setHoldsFrom} error={errors.of('holdsFrom')} />
        )}
      </div>
      {level && <p className="quiet">Orders raised before that day keep what they were promised.</p>}
      <p className="quiet">
        Write lengths as 30 min, 4 h or 2 d (of 24 hours); leave a field empty where nothing is promised.
      </p>
      <table className="dense">
        <thead>
          <tr>
            <th>Priority</th>
            {TARGETS.map((t) => (
              <th key={t} className="first-letter:uppercase">
                {t}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {PRIORITIES.map((p) => (
            <tr key={p}>
              <th scope="row">{p}</th>
              {TARGETS.map((t) => (
                <td key={t}>
                  <span className="flex gap-1">
                    <input
                      aria-label={`${t}, priority ${p}`}
                      className="box-field max-w-24"
                      value={cell(p, t).length}
                      onChange={(e) => setCells({ ...cells, [`${p}${t}`]: { ...cell(p, t), length: e.target.value } })}
                    />
                    <select
                      aria-label={`${t}, priority ${p}, counted in`}
                      className="box-select"
                      value={cell(p, t).in}
                      onChange={(e) => setCells({ ...cells, [`${p}${t}`]: { ...cell(p, t), in: e.target.value } })}
                    >
                      <option value="elapsed">elapsed time</option>
                      {reference?.calendars.map((c) => (
                        <option key={c.id} value={c.id}>
                          working: {c.name}
                        </option>
                      ))}
                    </select>
                  </span>
                </td>
              ))}
            </tr>
          ))}
        </tbody>
      </table>
      {(unread || errors.of('targets')) && (
        <p className="text-missed">
          ✕ {unread ? `The length for ${unread} cannot be read; write it as 30 min, 4 h or 2 d.` : errors.of('targets')}
        </p>
      )}
      <Ticks label="Pauses that stop the clocks" values={PAUSE_REASONS} chosen={pauses} onChange={setPauses} />
      <PledgeFields pledge={pledge} change={setPledge} error={errors.of} />
    </Form>
  );
}

export function ServiceLevels() {
  const reader = useReader();
  const query = setupApi.useReadReferenceQuery();
  const [editing, setEditing] = useState<ServiceLevelOut | 'new' | null>(null);
  return (
    <Waiting query={query}>
      {(reference) => (
        <>
          {reader.may(changeServiceLevel) && !editing && (
            <button className="act-main" onClick={() => setEditing('new')}>
              Add a service level
            </button>
          )}
          {editing && (
            <ServiceLevelForm
              key={editing === 'new' ? 0 : editing.id}
              level={editing === 'new' ? null : editing}
              onDone={() => setEditing(null)}
            />
          )}
          {reference.serviceLevels.length === 0 ? (
            <p className="quiet mt-3">No service level yet. Without one nothing is promised and no clock runs.</p>
          ) : (
            reference.serviceLevels.map((l) => (
              <section key={l.id} className="mt-4">
                <h2>
                  {l.name} <span className="quiet font-normal">pauses for: {l.pauses.join(', ') || 'nothing'}</span>{' '}
                  {l.holdsFrom && (
                    <span className="quiet font-normal">
                      · from {sayDate(l.holdsFrom)}, {plural(l.past.length, 'earlier version')}
                    </span>
                  )}{' '}
                  {reader.may(changeServiceLevel) && (
                    <button className="link-ink text-[0.87rem] font-normal" onClick={() => setEditing(l)}>
                      change
                    </button>
                  )}
                </h2>
                {l.pledge && (
                  <p className="quiet first-letter:uppercase">
                    {sayPledge(l.pledge, (id) => reference.calendars.find((c) => c.id === id)?.name ?? '')}
                  </p>
                )}
                <table className="dense mt-1">
                  <thead>
                    <tr>
                      <th className="w-24">Priority</th>
                      {TARGETS.map((t) => (
                        <th key={t} className="first-letter:uppercase">
                          {t}
                        </th>
                      ))}
                    </tr>
                  </thead>
                  <tbody>
                    {Object.entries(l.targets).map(([p, promises]) => (
                      <tr key={p}>
                        <td>{p}</td>
                        {TARGETS.map((t) => {
                          const promise = promises[t];
                          return (
                            <td key={t}>
                              {promise ? (
                                <>
                                  {sayMinutes(promise.minutes)}{' '}
                                  <span className="quiet">
                                    {promise.measure === 'elapsed'
                                      ? 'elapsed'
                                      : `working, ${reference.calendars.find((c) => c.id === promise.calendarId)?.name ?? ''}`}
                                  </span>
                                </>
                              ) : (
                                <span className="quiet">none</span>
                              )}
                            </td>
                          );
                        })}
                      </tr>
                    ))}
                  </tbody>
                </table>
              </section>
            ))
          )}
        </>
      )}
    </Waiting>
  );
}
