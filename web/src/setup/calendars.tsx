// Calendars: opening hours of a week, public holidays proposed from a country and then kept as a dated list.
import { useState } from 'react';
import * as v from 'valibot';
import { addCalendar, calendarIn } from '#api/setup.ts';
import type { CalendarIn, CalendarOut } from '#api/setup.ts';
import { localDateText } from '#api/shapes.ts';
import { TextField } from '../parts/fields.tsx';
import { DateField } from '../parts/date-field.tsx';
import { WEEKDAYS } from '../parts/rule-editor.tsx';
import { plural, sayDate } from '../parts/words.ts';
import { WireDate, WireText } from '../parts/wire-fields.tsx';
import { useWireForm, Wire, WireForm } from '../parts/wire-form.tsx';
import { setupApi } from './endpoints.ts';
import { Waiting } from '../shell/waiting.tsx';
import type { LocalDate } from '#core/time/index.ts';
import { LookAtEffect } from './calendar-effect.tsx';
import { CalendarYear } from './calendar-year.tsx';
import { EditableList } from './editable-list.tsx';
import { readSpans, saySpans } from './spans.ts';

type ClosedDay = { date: string; name: string; holiday?: boolean };
const NEW_DAY = { date: '', name: '', holiday: true } as const satisfies ClosedDay;
type Typed = Pick<CalendarIn, 'name' | 'zone' | 'closed' | 'extraOpen'> & {
  weekly: string[];
  /** From which day on it is so; null: nothing of what is over changes. */
  holdsFrom: string | null;
};

const typedOf = (c: CalendarOut | null, zone: string, isCopy: boolean): Typed => ({
  name: c === null ? '' : isCopy ? `${c.name}, copy` : c.name,
  zone: c?.zone ?? zone,
  weekly: c ? c.weekly.map(saySpans) : WEEKDAYS.map((_, i) => (i < 5 ? '09:00-18:00' : '')),
  closed: c?.closed.map((d) => ({ ...d })) ?? [],
  extraOpen: c?.extraOpen.map((d) => ({ ...d, spans: [...d.spans] })) ?? [],
  holdsFrom: null,
});
const bodyOf = ({ weekly, holdsFrom: _, ...typed }: Typed): CalendarIn => ({
  ...typed,
  weekly: weekly.map((text) => readSpans(text) ?? []),
});

/** What is typed: each day's hours must be read before they travel. */
const typedCalendar = v.object({
  ...calendarIn.entries,
  holdsFrom: v.nullable(localDateText),
  weekly: v.array(
    v.pipe(
      v.string(),
      v.check((text) => readSpans(text) !== null, 'Write it as 09:00-18:00.'),
    ),
  ),
});

const sayLong = (day: string): string => sayDate(day as LocalDate);

const joinDays = (held: readonly ClosedDay[], more: readonly ClosedDay[]): ClosedDay[] =>
  [...new Map([...held, ...more].map((x) => [x.date, x])).values()].sort((a, b) => (a.date < b.date ? -1 : 1));

function Holidays({ year, add }: { year: number; add: (days: { date: string; name: string }[]) => void }) {
  const [country, setCountry] = useState('PT');
  const [region, setRegion] = useState('');
  const [asked, setAsked] = useState(false);
  const query = setupApi.useProposeHolidaysQuery(
    { query: { country, from: String(year - 1), to: String(year + 2), ...(region && { region }) } },
    { skip: !asked || !/^[A-Z]{2}$/.test(country) },
  );
  const problem = query.error as { detail?: string } | undefined;
  return (
    <div className="flex flex-wrap items-end gap-3">
      <TextField
        label="Country (two letters)"
        value={country}
        onChange={(v) => {
          setCountry(v.toUpperCase().slice(0, 2));
          setRegion('');
          setAsked(false);
        }}
        className="w-36"
      />
      {(query.currentData?.regions.length ?? 0) > 0 && (
        <label>
          <span className="quiet block">Region</span>
          <select className="box-select w-44" value={region} onChange={(e) => setRegion(e.target.value)}>
            <option value="">whole country</option>
            {query.currentData?.regions.map((r) => (
              <option key={r.code} value={r.code}>
                {r.name}
              </option>
            ))}
          </select>
        </label>
      )}
      {query.currentData && asked ? (
        <button type="button" className="act" onClick={() => add(query.currentData?.days ?? [])}>
          Add these {query.currentData.days.length} days
        </button>
      ) : (
        <button type="button" className="act" onClick={() => setAsked(true)}>
          Propose public holidays {year - 1}–{year + 2}
        </button>
      )}
      {problem?.detail && <p className="text-missed">✕ {problem.detail}</p>}
    </div>
  );
}

function Week() {
  return (
    <fieldset>
      <legend className="quiet">
        Open, such as 09:00-13:00, 14:00-18:00; empty is closed; 22:00-06:00 passes midnight
      </legend>
      <div className="mt-1 grid grid-cols-7 gap-2">
        {WEEKDAYS.map((name, i) => (
          <WireText key={name} name={`weekly.${i}`} label={name} />
        ))}
      </div>
      <Wire name="weekly">{({ ownError }) => ownError && <p className="text-missed">✕ {ownError}</p>}</Wire>
    </fieldset>
  );
}

function ClosedDays({ today }: { today: LocalDate }) {
  const [day, setDay] = useState<Required<ClosedDay>>(NEW_DAY);
  return (
    <Wire<ClosedDay[]> name="closed">
      {({ value: closed, change, error }) => (
        <section>
          <h2>Closed days, {closed.length}</h2>
          <Holidays year={Number(today.slice(0, 4))} add={(days) => change(joinDays(closed, days))} />
          <div className="mt-2 grid max-h-52 grid-cols-2 gap-x-8 overflow-y-auto">
            {closed.map((c) => (
              <p key={c.date} className="flex gap-2 border-b border-hairline py-0.5">
                <span className="w-36 tabular-nums">{sayDate(c.date as LocalDate)}</span>
                <span className="flex-1 truncate">
                  {c.name}
                  {c.holiday === false && <span className="quiet"> (no public holiday)</span>}
                </span>
                <button
                  type="button"
                  className="quiet link-ink"
                  aria-label={`Remove ${c.date}`}
                  onClick={() => change(closed.filter((x) => x.date !== c.date))}
                >
                  remove
                </button>
              </p>
            ))}
          </div>
          <div className="mt-2 flex items-end gap-2">
            <DateField label="Another closed day" value={day.date} onChange={(date) => setDay({ ...day, date })} />
            <TextField label="Why" value={day.name} onChange={(name) => setDay({ ...day, name })} />
            <label className="flex items-center gap-2 pb-1.5">
              <input
                type="checkbox"
                className="box-tick"
                checked={day.holiday}
                onChange={(e) => setDay({ ...day, holiday: e.target.checked })}
              />
              a public holiday
            </label>
            <button
              type="button"
              className="act"
              disabled={!day.date}
              onClick={() => {
                const { holiday, ...named } = day;
                change(joinDays(closed, [{ ...named, ...(!holiday && { holiday }) }]));
                setDay(NEW_DAY);
              }}
            >
              Add the day
            </button>
          </div>
          {error && <p className="text-missed">✕ {error}</p>}
        </section>
      )}
    </Wire>
  );
}

type ExtraDay = Typed['extraOpen'][number];
const NO_EXTRA = { date: '', name: '', hours: '' } as const;

/** Days with hours of their own, whatever the week says. */
function ExtraDays() {
  const [day, setDay] = useState<{ date: string; name: string; hours: string }>(NO_EXTRA);
  const spans = readSpans(day.hours);
  const isUnread = day.hours !== '' && (spans === null || spans.length === 0);
  return (
    <Wire<ExtraDay[]> name="extraOpen">
      {({ value: extra, change, error }) => (
        <section>
          <h2>Days with hours of their own, {extra.length}</h2>
          <div className="mt-1 max-h-40 overflow-y-auto">
            {extra.map((d) => (
              <p key={d.date} className="flex gap-2 border-b border-hairline py-0.5">
                <span className="w-36 tabular-nums">{sayDate(d.date as LocalDate)}</span>
                <span className="w-44 tabular-nums">{saySpans(d.spans)}</span>
                <span className="flex-1 truncate">{d.name}</span>
                <button
                  type="button"
                  className="quiet link-ink"
                  aria-label={`Remove hours of ${d.date}`}
                  onClick={() => change(extra.filter((x) => x.date !== d.date))}
                >
                  remove
                </button>
              </p>
            ))}
          </div>
          <div className="mt-2 flex items-end gap-2">
            <DateField label="On this day" value={day.date} onChange={(date) => setDay({ ...day, date })} />
            <TextField
              label="Open"
              value={day.hours}
              onChange={(hours) => setDay({ ...day, hours })}
              error={isUnread ? 'Write it as 09:00-18:00.' : undefined}
            />
            <TextField label="What for" value={day.name} onChange={(name) => setDay({ ...day, name })} />
            <button
              type="button"
              className="act"
              disabled={!day.date || !spans || spans.length === 0}
              onClick={() => {
                const kept = extra.filter((x) => x.date !== day.date);
                const next = [...kept, { date: day.date, name: day.name, spans: spans ?? [] }];
                change(next.sort((a, b) => (a.date < b.date ? -1 : 1)));
                setDay(NO_EXTRA);
              }}
            >
              Add these hours
            </button>
          </div>
          {error && <p className="text-missed">✕ {error}</p>}
        </section>
      )}
    </Wire>
  );
}

function CalendarForm({
  calendar,
  today,
  zone,
  onDone,
  isCopy = false,
}: {
  calendar: CalendarOut | null;
  /** Another one, with what this one has to begin with. */
  isCopy?: boolean;
  today: LocalDate;
  zone: string;
  onDone: () => void;
}) {
  const [add] = setupApi.useAddCalendarMutation();
  const [change] = setupApi.useChangeCalendarMutation();
  const form = useWireForm({ body: typedCalendar }, typedOf(calendar, zone, isCopy));
  return (
    <WireForm<Typed, unknown>
      form={form}
      name="Calendar"
      save="Save the calendar"
      send={(typed, seen) =>
        calendar && !isCopy
          ? change({
              params: { id: String(calendar.id) },
              body: { ...bodyOf(typed), holdsFrom: typed.holdsFrom, version: seen ?? calendar.version },
            })
          : add({ body: bodyOf(typed) })
      }
      onDone={onDone}
      onCancel={onDone}
      sheet
    >
      <div className="grid grid-cols-2 gap-4">
        <WireText name="name" label="Name" />
        <WireText name="zone" label="Time zone" hint="Such as Europe/Lisbon." />
      </div>
      {calendar && !isCopy && (
        <div className="flex items-end gap-4">
          <WireDate name="holdsFrom" label="So from" empty={null} />
          <p className="quiet max-w-xl pb-1">
            What is over stays as it was: name the first day on which other hours hold. Left empty, only days to come
            may change.
            {calendar.heldUntil.length > 0 && ` It was otherwise up to ${calendar.heldUntil.map(sayLong).join(', ')}.`}
          </p>
        </div>
      )}
      <Week />
      <ClosedDays today={today} />
      <ExtraDays />
      {calendar && !isCopy && (
        <LookAtEffect
          id={calendar.id}
          body={{ ...bodyOf(form.watch()), holdsFrom: form.watch('holdsFrom'), version: calendar.version }}
        />
      )}
      <CalendarYear typed={bodyOf(form.watch())} from={Number(today.slice(0, 4))} />
      <p className="quiet">
        Public holidays are proposed by the package date-holidays (ISC, data CC-BY-3.0); clocks and visits read only the
        list kept here.
      </p>
    </WireForm>
  );
}

export function Calendars() {
  const query = setupApi.useReadReferenceQuery();
  return (
    <Waiting query={query}>
      {(reference) => (
        <EditableList
          name="calendars"
          items={reference.calendars}
          adding={addCalendar}
          add="Add a calendar"
          empty="No calendar yet. Targets in working time and moved due dates need one."
          copying
          form={(calendar, done, isCopy) => (
            <CalendarForm
              calendar={calendar}
              today={reference.today}
              zone={reference.zone}
              onDone={done}
              isCopy={isCopy}
            />
          )}
          columns={[
            { id: 'name', head: 'Name', value: (c) => c.name },
            { id: 'zone', head: 'Zone', value: (c) => c.zone },
            {
              id: 'open',
              head: 'Open',
              value: (c) => [...new Set(c.weekly.map(saySpans).filter(Boolean))].join(' · '),
              show: (c) => (
                <span className="tabular-nums">
                  {[...new Set(c.weekly.map(saySpans).filter(Boolean))].join(' · ')}{' '}
                  <span className="quiet">on {plural(c.weekly.filter((d) => d.length > 0).length, 'day')} a week</span>
                </span>
              ),
            },
            { id: 'closed', head: 'Closed days', isNumber: true, value: (c) => c.closed.length },
          ]}
        />
      )}
    </Waiting>
  );
}
