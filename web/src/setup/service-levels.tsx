// Service levels: per priority the targets for response, arrival, workaround and restoration, in elapsed or working time; in sentences too.
import { useState } from 'react';
import * as v from 'valibot';
import { changeServiceLevel, serviceLevelIn } from '#api/setup.ts';
import type { Reference, ServiceLevelIn, ServiceLevelOut } from '#api/setup.ts';
import {
  PAUSE_REASONS,
  PRIORITIES,
  sayLevel,
  TARGETS,
  type PauseReason,
  type Pledge,
  type Priority,
  type Target,
} from '#core/service-levels/index.ts';
import { addDays } from '#core/time/index.ts';
import { WireDate, WireText, WireTicks } from '../parts/wire-fields.tsx';
import { useWireForm, Wire, WireForm } from '../parts/wire-form.tsx';
import { plural, sayDate } from '../parts/words.ts';
import { useReader } from '../shell/reader.tsx';
import { setupApi } from './endpoints.ts';
import { Waiting } from '../shell/waiting.tsx';
import { PledgeFields, sayWarnings } from './pledge-fields.tsx';
import { usePriorityChoices } from './priorities.ts';

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

/** What is typed; the cells become targets when they travel. */
type Typed = {
  name: string;
  pauses: PauseReason[];
  holdsFrom: string;
  pledge: Pledge | null;
  targets: Partial<Record<string, Cell>>;
};

const cellName = (p: Priority, t: Target): string => `${p}${t}`;

function targetsOf(cells: Typed['targets']): ServiceLevelIn['targets'] {
  const targets: { [P in Priority]?: NonNullable<ServiceLevelIn['targets'][P]> } = {};
  for (const p of PRIORITIES)
    for (const t of TARGETS) {
      const { length, in: measure } = cells[cellName(p, t)] ?? EMPTY;
      const minutes = readLength(length);
      if (minutes === null) continue;
      targets[p] = {
        ...targets[p],
        [t]:
          measure === 'elapsed'
            ? { measure: 'elapsed', minutes }
            : { measure: 'working', minutes, calendarId: Number(measure) },
      };
    }
  return targets;
}

const bodyOf = ({ targets, pledge, name, pauses }: Typed): ServiceLevelIn => ({
  name,
  pauses,
  targets: targetsOf(targets),
  pledge: pledge && {
    ...pledge,
    tiers: [...pledge.tiers],
    warnings: pledge.warnings.map((w) => ({ ...w, people: [...w.people] })),
  },
});

const cell = v.pipe(
  v.object({ length: v.string(), in: v.string() }),
  v.forward(
    v.check(
      ({ length }) => length.trim() === '' || readLength(length) !== null,
      'A length cannot be read; write it as 30 min, 4 h or 2 d.',
    ),
    ['length'],
  ),
);
/** What is typed: lengths must be read before they travel; the server says the rest. */
const typedLevel = v.object({
  ...serviceLevelIn.entries,
  holdsFrom: v.string(),
  targets: v.pipe(
    v.record(v.string(), cell),
    v.check(
      (cells) => Object.values(cells).some((c) => c.length.trim() !== ''),
      'Give at least one priority a target.',
    ),
  ),
});

const TargetHeads = () =>
  TARGETS.map((t) => (
    <th key={t} className="first-letter:uppercase">
      {t}
    </th>
  ));

function TargetCells({ calendars }: { calendars: Reference['calendars'] }) {
  const priorities = usePriorityChoices();
  return (
    <Wire<Typed['targets']> name="targets">
      {({ value: cells, change, error, errorAt }) => {
        const set = (key: string, over: Partial<Cell>): void =>
          change({ ...cells, [key]: { ...(cells[key] ?? EMPTY), ...over } });
        return (
          <>
            <table className="dense table-fixed">
              <thead>
                <tr>
                  <th className="w-32">Priority</th>
                  <TargetHeads />
                </tr>
              </thead>
              <tbody>
                {priorities.map(([p, word]) => (
                  <tr key={p}>
                    <th scope="row" className="font-normal">
                      {word}
                    </th>
                    {TARGETS.map((t) => {
                      const key = cellName(p, t);
                      const held = cells[key] ?? EMPTY;
                      return (
                        <td key={t}>
                          <span className="flex gap-1">
                            <input
                              aria-label={`${t}, priority ${p}`}
                              className="box-field w-16 shrink-0"
                              value={held.length}
                              onChange={(e) => set(key, { length: e.target.value })}
                              aria-invalid={errorAt(key) ? true : undefined}
                            />
                            <select
                              aria-label={`${t}, priority ${p}, counted in`}
                              className="box-select min-w-0 flex-1"
                              value={held.in}
                              onChange={(e) => set(key, { in: e.target.value })}
                            >
                              <option value="elapsed">elapsed time</option>
                              {calendars.map((c) => (
                                <option key={c.id} value={c.id}>
                                  working: {c.name}
                                </option>
                              ))}
                            </select>
                          </span>
                        </td>
                      );
                    })}
                  </tr>
                ))}
              </tbody>
            </table>
            {error && <p className="text-missed">✕ {error}</p>}
          </>
        );
      }}
    </Wire>
  );
}

function ServiceLevelForm({
  level,
  reference,
  onDone,
}: {
  level: ServiceLevelOut | null;
  reference: Reference;
  onDone: () => void;
}) {
  const [add] = setupApi.useAddServiceLevelMutation();
  const [change] = setupApi.useChangeServiceLevelMutation();
  const form = useWireForm<Typed>(
    { body: typedLevel as never },
    {
      name: level?.name ?? '',
      pauses: level?.pauses ?? ['no access', 'customer asked for a later date'],
      holdsFrom: addDays(reference.today, 1),
      pledge: level?.pledge ?? null,
      targets: cellsOf(level),
    },
  );
  return (
    <WireForm<Typed, unknown>
      form={form}
      name="Service level"
      save="Save the service level"
      send={(typed, seen) =>
        level
          ? change({
              params: { id: String(level.id) },
              body: { version: seen ?? level.version, holdsFrom: typed.holdsFrom, ...bodyOf(typed) },
            })
          : add({ body: bodyOf(typed) })
      }
      onDone={onDone}
      onCancel={onDone}
      sheet
    >
      <div className="grid grid-cols-[2fr_1fr] gap-3">
        <WireText name="name" label="Name" />
        {level && <WireDate name="holdsFrom" label="Holds from" />}
      </div>
      {level && <p className="quiet">Orders raised before that day keep what they were promised.</p>}
      <p className="quiet">
        Write lengths as 30 min, 4 h or 2 d (of 24 hours); leave a field empty where nothing is promised.
      </p>
      <TargetCells calendars={reference.calendars} />
      <WireTicks name="pauses" label="Pauses that stop the clocks" values={PAUSE_REASONS} />
      <Wire<Pledge | null> name="pledge">
        {({ value, change: set, errorAt }) => (
          <PledgeFields pledge={value} change={set} error={errorAt} reference={reference} />
        )}
      </Wire>
    </WireForm>
  );
}

/** What a service level promises, as its customers read it; below, whom we warn. */
function Level({ level, reference, change }: { level: ServiceLevelOut; reference: Reference; change: () => void }) {
  const mayChange = useReader().may(changeServiceLevel);
  const { calendars, priorities } = reference;
  const said = sayLevel(level, {
    calendar: (id) => calendars.find((c) => c.id === id)?.name ?? '',
    priority: (p) => priorities[p - 1] ?? '',
  });
  const warned = sayWarnings(level.pledge, reference);
  return (
    <section className="mt-4 max-w-4xl">
      <h2>
        {level.name}{' '}
        {level.holdsFrom && (
          <span className="quiet font-normal">
            from {sayDate(level.holdsFrom)}, {plural(level.past.length, 'earlier version')}
          </span>
        )}{' '}
        {mayChange && (
          <button className="link-ink text-[0.87rem] font-normal" onClick={change}>
            change
          </button>
        )}
      </h2>
      <ul>
        {said.map((sentence) => (
          <li key={sentence}>{sentence}</li>
        ))}
      </ul>
      {warned !== '' && <p className="quiet">{warned}</p>}
    </section>
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
              reference={reference}
              level={editing === 'new' ? null : editing}
              onDone={() => setEditing(null)}
            />
          )}
          {reference.serviceLevels.length === 0 ? (
            <p className="quiet mt-3">No service level yet. Without one nothing is promised and no clock runs.</p>
          ) : (
            reference.serviceLevels.map((l) => (
              <Level key={l.id} level={l} reference={reference} change={() => setEditing(l)} />
            ))
          )}
        </>
      )}
    </Waiting>
  );
}
