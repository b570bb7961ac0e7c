// A year of a calendar as it is typed: every day as dark as it is long open, with the total; days that are not as every week are named.
import { useState } from 'react';
import { ChevronLeft, ChevronRight } from 'lucide-react';
import { calendarYear, readCalendar, type CalendarInput, type YearDay } from '#core/calendars/index.ts';
import { SHORT_MONTHS } from '#core/time/index.ts';
import { plural, sayDate, sayHours } from '../parts/words.ts';

const CELL = 15;

function sayOpen({ date, minutes, named }: YearDay): string {
  const open = minutes === 0 ? 'closed' : `open ${sayHours(minutes)}`;
  return `${sayDate(date)}: ${open}${named ? `, ${named.name}` : ''}`;
}

function Day({ day }: { day: YearDay }) {
  const share = day.minutes / 1440;
  return (
    <g
      transform={`translate(${34 + (Number(day.date.slice(8)) - 1) * CELL}, ${(Number(day.date.slice(5, 7)) - 1) * CELL})`}
    >
      <title>{sayOpen(day)}</title>
      <rect
        width={CELL - 2}
        height={CELL - 2}
        fill="currentColor"
        fillOpacity={day.minutes === 0 ? 0.04 : 0.16 + 0.6 * share}
      />
      {day.named && (
        <rect
          x="0.5"
          y="0.5"
          width={CELL - 3}
          height={CELL - 3}
          fill="none"
          stroke="currentColor"
          strokeDasharray={day.named.kind === 'extra' ? '2 2' : undefined}
        />
      )}
    </g>
  );
}

export function CalendarYear({ typed, from }: { typed: CalendarInput; from: number }) {
  const [year, setYear] = useState(from);
  const read = readCalendar({ ...typed, name: typed.name || 'a calendar' });
  if (!read.ok) return <p className="quiet">The year is drawn once the hours can be read.</p>;
  const { days, minutes, workingDays } = calendarYear(read.value, year);
  const named = days.filter((d) => d.named);
  return (
    <section aria-label={`The year ${year}`}>
      <div className="flex items-center gap-2">
        <button type="button" className="icon-act" aria-label="The year before" onClick={() => setYear(year - 1)}>
          <ChevronLeft size={16} aria-hidden="true" />
        </button>
        <h2 className="tabular-nums">{year}</h2>
        <button type="button" className="icon-act" aria-label="The year after" onClick={() => setYear(year + 1)}>
          <ChevronRight size={16} aria-hidden="true" />
        </button>
        <p>
          {sayHours(minutes)} open on {plural(workingDays, 'day')}
          <span className="quiet">, {plural(named.length, 'day')} otherwise than every week</span>
        </p>
      </div>
      <svg width={34 + 31 * CELL} height={12 * CELL} className="mt-1 block" aria-hidden="true">
        {SHORT_MONTHS.map((name, i) => (
          <text key={name} x="0" y={i * CELL + 11} fontSize="11" fill="currentColor" fillOpacity="0.7">
            {name}
          </text>
        ))}
        {days.map((d) => (
          <Day key={d.date} day={d} />
        ))}
      </svg>
      <p className="quiet">The darker, the longer open; outlined: closed by name, dashed: open once.</p>
      {year !== from && named.length === 0 && (
        <p className="text-missed">No holiday of {year} is kept yet; propose them above.</p>
      )}
    </section>
  );
}
