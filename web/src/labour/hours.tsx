// Hours: the time sheet of a person's week, with orders as rows and the open time it leaves; the office goes from one to the next.
import { useState } from 'react';
import { Link, useNavigate, useParams } from 'react-router';
import { sum } from 'd3-array';
import { actOnSheet, counterEntry, listSheets, type EntryOut, type WeekSheet } from '#api/labour.ts';
import { orderNumber } from '#api/shapes.ts';
import type { SheetAct } from '#core/labour/index.ts';
import { approvesTimeOf } from '#core/people.ts';
import {
  addDays,
  localDateAt,
  parseLocalDate,
  sayTimeOfDay,
  SHORT_DAYS,
  type LocalDate,
  type Zone,
} from '#core/time/index.ts';
import { ErrorLine } from '../parts/problem.tsx';
import { sayDate, sayMinutes, sayShortDate, sayTime } from '../parts/words.ts';
import { useReader } from '../shell/reader.tsx';
import { server } from '../shell/store.ts';
import { Waiting } from '../shell/waiting.tsx';
import { sayClock } from './clock-figures.ts';
import { EntryDialog } from './entry-dialog.tsx';
import { labourApi } from './endpoints.ts';
import { ReasonDialog } from './reason-dialog.tsx';

type Row = {
  readonly key: string;
  readonly orderId: number;
  readonly title: string;
  readonly tag: string;
  readonly byDay: number[];
};

/** A row for each line that time was entered for, its minutes by the day of the entry. */
function rowsOf({ entries, days }: WeekSheet): Row[] {
  const rows = new Map<string, Row>();
  for (const entry of entries)
    for (const line of entry.lines) {
      const key = String(line.lineId);
      const row = rows.get(key) ?? {
        ...{ key, orderId: line.orderId, title: line.title, tag: line.tag },
        byDay: days.map(() => 0),
      };
      rows.set(key, row);
      const at = days.findIndex((d) => d.day === entry.day);
      if (at >= 0) row.byDay[at] = (row.byDay[at] ?? 0) + line.minutes;
    }
  return [...rows.values()].sort((a, b) => a.orderId - b.orderId);
}

function Grid({ sheet }: { sheet: WeekSheet }) {
  const rows = rowsOf(sheet);
  const entered = (day: LocalDate): number =>
    sum(
      sheet.entries.filter((e) => e.day === day),
      (e) => e.minutes,
    );
  const foot = (name: string, of: (day: WeekSheet['days'][number]) => number, className = '') => (
    <tr className={className}>
      <td>{name}</td>
      {sheet.days.map((d) => (
        <td key={d.day} className="num">
          {sayClock(of(d))}
        </td>
      ))}
      <td className="num">{sayClock(sum(sheet.days, of))}</td>
    </tr>
  );
  return (
    <table className="dense mt-4">
      <thead>
        <tr>
          <th className="text-left">Order, hours and minutes</th>
          {sheet.days.map((d, i) => (
            <th key={d.day} className={`num w-[5.2rem] ${d.day === sheet.today ? 'underline underline-offset-4' : ''}`}>
              {SHORT_DAYS[i]} {Number(d.day.slice(8))}
            </th>
          ))}
          <th className="num w-[5.2rem]">Week</th>
        </tr>
      </thead>
      <tbody>
        {rows.length === 0 && (
          <tr>
            <td colSpan={9} className="quiet">
              Nothing entered yet.
            </td>
          </tr>
        )}
        {rows.map((row) => (
          <tr key={row.key}>
            <td className="max-w-72 truncate">
              <Link className="serial link-ink" to={`/orders/${row.orderId}`}>
                {orderNumber(row.orderId)}
              </Link>{' '}
              {row.title} <span className="serial quiet">{row.tag}</span>
            </td>
            {row.byDay.map((minutes, i) => (
              <td key={sheet.days[i]?.day} className="num">
                {sayClock(minutes)}
              </td>
            ))}
            <td className="num">{sayClock(sum(row.byDay))}</td>
          </tr>
        ))}
      </tbody>
      <tfoot>
        {foot('Entered', (d) => entered(d.day), 'border-t border-base-content font-semibold')}
        {sheet.calendar !== null && foot('Open, without an entry', (d) => d.gapMinutes, 'quiet')}
        {sheet.calendar !== null && foot('Outside open time', (d) => d.overtime, 'quiet')}
      </tfoot>
    </table>
  );
}

/** The open time that no entry of a day fills, up to today. */
function Gaps({ sheet }: { sheet: WeekSheet }) {
  const zone = sheet.zone as Zone;
  const open = sheet.days.filter((d) => d.gaps.length > 0 && d.day <= sheet.today && d.entered > 0);
  if (open.length === 0) return null;
  return (
    <p className="quiet mt-2">
      Nothing is entered{' '}
      {open
        .map(
          (d) =>
            `on ${sayShortDate(d.day, sheet.today)} ${d.gaps.map((g) => `${sayTime(g.from, zone)}–${sayTime(g.to, zone)}`).join(', ')}`,
        )
        .join('; ')}
      .
    </p>
  );
}

const saySpan = ({ from, to, minutes, hours }: EntryOut): string =>
  from !== null && to !== null
    ? `${sayTimeOfDay(from)}–${to === 0 ? '24:00' : sayTimeOfDay(to)}`
    : `${sayMinutes(minutes)}${hours ? `, ${hours}` : ''}`;

function EntryRow({ entry, sheet, acts }: { entry: EntryOut; sheet: WeekSheet; acts: React.ReactNode }) {
  const overlaps = sheet.overlaps.some((o) => o.first === entry.id || o.second === entry.id);
  return (
    <tr className={entry.counteredBy === null && entry.counters === null ? '' : 'quiet line-through'}>
      <td className="whitespace-nowrap">{sayDate(entry.day)}</td>
      <td className="whitespace-nowrap tabular-nums">{saySpan(entry)}</td>
      <td>{entry.kind}</td>
      <td className="num">{sayMinutes(entry.minutes)}</td>
      <td className="quiet">
        {entry.byHours
          .filter((h) => h.hours !== 'normal')
          .map((h) => `${sayMinutes(h.minutes)} ${h.hours}`)
          .join(', ')}
      </td>
      <td>
        {entry.lines.map((l) => (
          <span key={l.lineId} className="mr-2 whitespace-nowrap">
            <Link className="serial link-ink" to={`/orders/${l.orderId}`}>
              {orderNumber(l.orderId)}
            </Link>
            {entry.lines.length > 1 && <span className="quiet"> {sayMinutes(l.minutes)}</span>}
          </span>
        ))}
        {entry.kilometres !== 0 && <span className="block">{entry.kilometres} km</span>}
        {entry.text && <span className="block">{entry.text}</span>}
        {entry.reason && <span className="block font-semibold no-underline">{entry.reason}</span>}
        {overlaps && (
          <span className="block">shares time with another: {entry.overlapReason ?? 'no reason given'}</span>
        )}
      </td>
      <td className="text-right whitespace-nowrap">{acts}</td>
    </tr>
  );
}

type Asking =
  | { readonly what: 'enter' }
  | { readonly what: 'change' | 'counter'; readonly entry: EntryOut }
  | { readonly what: 'send back' };

function Entries({ sheet, ask }: { sheet: WeekSheet; ask: (asking: Asking) => void }) {
  const reader = useReader();
  const [remove, removing] = labourApi.useRemoveEntryMutation();
  const isOpen = sheet.state === 'open' || sheet.state === 'sent back';
  if (sheet.entries.length === 0) return null;
  return (
    <section className="mt-6">
      <h2>Entries</h2>
      <ErrorLine error={removing.error} />
      <table className="dense mt-1">
        <tbody>
          {sheet.entries.map((entry) => (
            <EntryRow
              key={entry.id}
              entry={entry}
              sheet={sheet}
              acts={
                isOpen ? (
                  <span className="flex justify-end gap-3">
                    <button className="quiet link-ink" onClick={() => ask({ what: 'change', entry })}>
                      change…
                    </button>
                    <button
                      className="quiet link-ink"
                      onClick={() => void remove({ params: { id: String(entry.id) } })}
                    >
                      remove
                    </button>
                  </span>
                ) : (
                  sheet.state === 'approved' &&
                  reader.may(counterEntry) &&
                  entry.counters === null &&
                  entry.counteredBy === null && (
                    <button className="quiet link-ink" onClick={() => ask({ what: 'counter', entry })}>
                      take back…
                    </button>
                  )
                )
              }
            />
          ))}
        </tbody>
      </table>
    </section>
  );
}

const SAID: Readonly<Record<WeekSheet['state'], string>> = {
  open: 'not handed in yet',
  'handed in': 'handed in, to be approved',
  approved: 'approved',
  'sent back': 'sent back',
};

function Sheet({ sheet }: { sheet: WeekSheet }) {
  const reader = useReader();
  const [act, acting] = labourApi.useActOnSheetMutation();
  const [counter] = labourApi.useCounterEntryMutation();
  const [asking, setAsking] = useState<Asking | null>(null);
  const params = { person: String(sheet.person.id), week: sheet.week };
  const send = (what: SheetAct, reason = '') => act({ params, body: { act: what, reason } });
  const approves = approvesTimeOf(reader, sheet.person.id) && reader.may(actOnSheet);
  const isOpen = sheet.state === 'open' || sheet.state === 'sent back';
  const close = (): void => setAsking(null);
  const lastDay = addDays(sheet.week, 6);
  const day = sheet.today >= sheet.week && sheet.today <= lastDay ? sheet.today : sheet.week;
  return (
    <>
      <p className="mt-1">
        {sheet.craft ?? 'no craft: their time has no price'}
        {sheet.calendar !== null && <span className="quiet"> by {sheet.calendar}</span>} ·{' '}
        <strong className="font-semibold">{SAID[sheet.state]}</strong>
        {sheet.by && sheet.state !== 'open' && <span className="quiet"> by {sheet.by}</span>}
        {sheet.reason && <>: {sheet.reason}</>}
      </p>
      <div className="mt-3 flex flex-wrap gap-2">
        {(isOpen || (sheet.state === 'approved' && approves)) && (
          <button className={isOpen ? 'act-main' : 'act'} onClick={() => setAsking({ what: 'enter' })}>
            Enter time…
          </button>
        )}
        {isOpen && sheet.entries.length > 0 && (
          <button className="act" disabled={acting.isLoading} onClick={() => void send('hand in')}>
            Hand in
          </button>
        )}
        {sheet.state === 'handed in' && approves && (
          <>
            <button className="act-main" disabled={acting.isLoading} onClick={() => void send('approve')}>
              Approve
            </button>
            <button className="act" onClick={() => setAsking({ what: 'send back' })}>
              Send back…
            </button>
          </>
        )}
      </div>
      <ErrorLine error={acting.error} />
      <Grid sheet={sheet} />
      <Gaps sheet={sheet} />
      <Entries sheet={sheet} ask={setAsking} />
      {(asking?.what === 'enter' || asking?.what === 'change') && (
        <EntryDialog
          personId={sheet.person.id}
          day={day}
          entry={asking.what === 'change' ? asking.entry : null}
          onClose={close}
        />
      )}
      {asking?.what === 'send back' && (
        <ReasonDialog
          title="Send the week back"
          label="What is to be put right"
          send={(reason) => send('send back', reason)}
          onClose={close}
        />
      )}
      {asking?.what === 'counter' && (
        <ReasonDialog
          title="Take the entry back"
          label="Why"
          send={(reason) => counter({ params: { id: String(asking.entry.id) }, body: { reason } })}
          onClose={close}
        />
      )}
    </>
  );
}

/** Everybody's week, for whoever approves. */
function Everybody({ week, chosen }: { week: LocalDate; chosen: number }) {
  const query = labourApi.useListSheetsQuery({ query: { week } });
  return (
    <Waiting query={query}>
      {({ items }) => (
        <nav aria-label="Time sheets" className="pane w-72 shrink-0 border-r border-hairline">
          <h2 className="px-4 pt-5">Week of {sayDate(week)}</h2>
          <p className="px-4 pb-2">
            <Link className="link-ink" to={`/hours/month/${week.slice(0, 7)}`}>
              everybody’s month
            </Link>
          </p>
          <ul>
            {items.map((i) => (
              <li key={i.person.id}>
                <Link
                  to={`/hours/${i.person.id}/${week}`}
                  aria-current={i.person.id === chosen ? 'page' : undefined}
                  className={`flex items-baseline gap-2 border-b border-hairline px-4 py-1.5 ${i.person.id === chosen ? 'bg-base-300' : ''}`}
                >
                  <span className="min-w-0 flex-1 truncate">{i.person.name}</span>
                  <span className="tabular-nums">{sayClock(i.work + i.travel + i.waiting) || '–'}</span>
                  <span className="quiet w-20 text-right">{i.state}</span>
                </Link>
              </li>
            ))}
          </ul>
        </nav>
      )}
    </Waiting>
  );
}

export function HoursRoom() {
  const reader = useReader();
  const navigate = useNavigate();
  const { data: session } = server.useReadSessionQuery();
  const params = useParams();
  const today = localDateAt(reader.zone, session?.now ?? (0 as never));
  const person = Number(params.person ?? reader.id);
  const week = parseLocalDate(params.week ?? '') ?? today;
  const query = labourApi.useReadWeekQuery({ params: { person: String(person), week } });
  const monday = query.data?.week ?? week;
  const go = (days: number): void => void navigate(`/hours/${person}/${addDays(monday, days)}`);
  return (
    <div className="flex h-full">
      {reader.may(listSheets) && <Everybody week={monday} chosen={person} />}
      <main className="min-w-0 flex-1 overflow-y-auto px-7 pt-5 pb-12">
        <Waiting query={query}>
          {(sheet) => (
            <>
              <header className="flex flex-wrap items-baseline gap-x-4">
                <h1>{sheet.person.name}</h1>
                <span>
                  {sayDate(sheet.week)} to {sayDate(addDays(sheet.week, 6))}
                </span>
                <span className="flex gap-3">
                  <button className="link-ink" onClick={() => go(-7)}>
                    the week before
                  </button>
                  <button className="link-ink" onClick={() => go(7)}>
                    the next
                  </button>
                </span>
              </header>
              <Sheet key={`${sheet.person.id} ${sheet.week}`} sheet={sheet} />
            </>
          )}
        </Waiting>
      </main>
    </div>
  );
}
