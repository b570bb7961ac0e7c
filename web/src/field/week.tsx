// One's own week on the phone: what was entered, handing it in, and absences asked for.
import { useState } from 'react';
import { Link } from 'react-router';
import type { FieldWeek } from '#api/field.ts';
import { ABSENCE_KINDS, sayAbsence, type AbsenceKind } from '#core/rota/index.ts';
import { isOpenSheet } from '#core/labour/index.ts';
import {
  addDays,
  formatInstant,
  localDateAt,
  MINUTE,
  parseLocalDate,
  sayDate,
  sayDay,
  sayLength,
  sayTimeOfDay,
  startOfDay,
  type LocalDate,
  type Zone,
} from '#core/time/index.ts';
import { sayDateOfYear, sayShortDate } from '../parts/words.ts';
import { Refused, useDoing } from './doing.tsx';
import { actsHere, useHeld, useNow, zoneOf } from './held.ts';
import type { PhoneState } from './phone/phone.ts';
import { Asking, Typed, Words } from './typed.tsx';

const sayMinutes = (minutes: number): string => sayLength(minutes * MINUTE, 'as hours');
const lastOf = (week: LocalDate): LocalDate => addDays(week, 6);

/** Own time of a week that the office does not have yet. */
const timeWaiting = (state: PhoneState, week: LocalDate) =>
  state.queue.filter(
    ({ act: { body } }) =>
      body.kind === 'time' &&
      (body.personId ?? null) === null &&
      body.entry.day >= week &&
      body.entry.day <= lastOf(week),
  );

function Days({ week, state }: { week: FieldWeek; state: PhoneState }) {
  const waiting = timeWaiting(state, week.week);
  return week.days.map(({ day, minutes, open }) => {
    const own = week.entries.filter((e) => e.day === day);
    const more = waiting.filter(({ act: { body } }) => body.kind === 'time' && body.entry.day === day);
    if (own.length + more.length === 0 && open === 0) return null;
    return (
      <section key={day} aria-label={sayDate(day)}>
        <h2 className="flex justify-between gap-3">
          <span>{sayDateOfYear(day)}</span>
          <span className="font-normal">
            {sayMinutes(minutes)}
            {open > 0 && <span className="quiet"> of {sayMinutes(open)}</span>}
          </span>
        </h2>
        {own.map((e) => (
          <p key={e.id} className="py-1">
            {e.from !== null && e.to !== null && `${sayTimeOfDay(e.from)} to ${sayTimeOfDay(e.to)} `}
            {e.kind} <span className="quiet">{e.titles.join(', ')}</span>
          </p>
        ))}
        {more.map(({ act, state: stands }) => (
          <p key={act.id} className="quiet py-1">
            {stands.kind === 'refused' ? '▲ hours that were not taken' : 'more hours wait to be sent'}
          </p>
        ))}
      </section>
    );
  });
}

function HandIn({ week, state }: { week: FieldWeek; state: PhoneState }) {
  const { refusals, act } = useDoing();
  const told = actsHere(state).some(({ body }) => body.kind === 'handed in' && body.week === week.week);
  if (told || !isOpenSheet(week.state))
    return <p className="field-bar mt-4 first-letter:uppercase">{told ? 'handed in' : week.state}</p>;
  const needs = timeWaiting(state, week.week).map((w) => w.act.deed);
  return (
    <>
      {week.reason !== null && <p className="field-bar mt-4">▲ Sent back: {week.reason}</p>}
      <Refused refusals={refusals} />
      <button
        className="wide mt-4"
        onClick={() => void act({ kind: 'handed in', week: week.week }, { needs, stay: true })}
      >
        Hand the week in
      </button>
    </>
  );
}

function Absences({ state, zone }: { state: PhoneState; zone: Zone }) {
  const asked = actsHere(state).flatMap(({ id, body }) => (body.kind === 'absent' ? [{ id, ...body.absence }] : []));
  const absences = state.days?.absences ?? [];
  const span = (from: number, to: number): string => {
    const [first, last] = [localDateAt(zone, from as never), localDateAt(zone, (to - MINUTE) as never)];
    return first === last ? sayDay(first) : `${sayDay(first)} to ${sayDay(last)}`;
  };
  return (
    <section aria-label="Absences">
      <h2>Absences</h2>
      {absences.map((a) => (
        <p key={a.id} className="row">
          <span>
            {sayAbsence(a.kind)} <span className="quiet">{span(a.from, a.to)}</span>
            <span className={a.state === 'refused' ? 'block text-missed' : 'quiet block'}>
              {a.state}
              {a.decidedText && `: ${a.decidedText}`}
            </span>
          </span>
        </p>
      ))}
      {asked.map((a) => (
        <p key={a.id} className="row">
          <span>
            {sayAbsence(a.kind)} <span className="quiet">{span(Date.parse(a.from), Date.parse(a.to))}</span>
            <span className="quiet block">waits to be sent</span>
          </span>
        </p>
      ))}
      <Link className="plain mt-3" to="/absence">
        Ask for an absence
      </Link>
    </section>
  );
}

export function WeekPage() {
  const state = useHeld();
  const [shown, setShown] = useState(0);
  const weeks = state.days?.weeks ?? [];
  const week = weeks[shown];
  const today = localDateAt(zoneOf(state), useNow());
  if (!week)
    return (
      <main>
        <p>Fetching your week …</p>
      </main>
    );
  const all = week.days.reduce((sum, d) => sum + d.minutes, 0);
  return (
    <main>
      <h1>My week</h1>
      <Words
        label="Week"
        of={weeks}
        say={(w) => `${sayShortDate(w.week, today)} to ${sayShortDate(lastOf(w.week), today)}`}
        isPressed={(w) => w.week === week.week}
        press={(w) => setShown(weeks.indexOf(w))}
        isWide
      />
      <p className="mt-3 font-semibold">{sayMinutes(all)} in all</p>
      <Days week={week} state={state} />
      <HandIn week={week} state={state} />
      <Absences state={state} zone={zoneOf(state)} />
    </main>
  );
}

export function AbsencePage() {
  const state = useHeld();
  const zone = zoneOf(state);
  const today = localDateAt(zone, useNow());
  const { refusals, setRefusals, act } = useDoing();
  const [kind, setKind] = useState<AbsenceKind>('leave');
  const [from, setFrom] = useState<string>(today);
  const [to, setTo] = useState<string>(today);
  const [text, setText] = useState('');
  const keep = (): void => {
    const [first, last] = [parseLocalDate(from), parseLocalDate(to)];
    if (first === null || last === null)
      return setRefusals([{ code: 'invalid', message: 'Choose the first and the last day.' }]);
    if (last < first)
      return setRefusals([{ code: 'invalid', message: 'It ends before it begins; choose a later last day.' }]);
    const span = {
      from: formatInstant(startOfDay(zone, first)),
      to: formatInstant(startOfDay(zone, addDays(last, 1))),
    };
    void act({ kind: 'absent', absence: { kind, ...span, text: text.trim() } });
  };
  return (
    <Asking title="Absence" keep={{ text: kind === 'sick' ? 'Tell the office' : 'Ask for it', go: keep }}>
      <Words label="Kind" of={ABSENCE_KINDS} say={(k) => k} isPressed={(k) => k === kind} press={setKind} isWide />
      <div className="flex gap-3">
        <Typed label="First day" isDate className="flex-1" value={from} change={setFrom} />
        <Typed label="Last day" isDate className="flex-1" value={to} change={setTo} />
      </div>
      <Typed label="More about it" rows={2} value={text} change={setText} />
      {kind !== 'sick' && <p className="quiet mt-2">A dispatcher or manager agrees to it, or says why not.</p>}
      <Refused refusals={refusals} />
    </Asking>
  );
}
