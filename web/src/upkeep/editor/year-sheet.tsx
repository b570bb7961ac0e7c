// A year of days, a month to a row: the day a visit is planned, the days it counts as in time, and the day it is raised.
import type { WorkingDays } from '#core/calendars/index.ts';
import {
  addMonths,
  dayNumberOfCivil,
  daysInMonth,
  SHORT_MONTHS,
  toDayNumber,
  type DayNumber,
  type LocalDate,
} from '#core/time/index.ts';

export type DrawnVisit = {
  readonly planned: LocalDate;
  readonly windowFrom: LocalDate;
  readonly windowTo: LocalDate;
  readonly raise: LocalDate | null;
};

const CELL = 14;
const ROW = 18;
const LEFT = 48;
const TOP = 16;

type Month = { readonly name: string; readonly first: DayNumber; readonly length: number };

function monthsFrom(begin: LocalDate): Month[] {
  return Array.from({ length: 12 }, (_, i) => {
    const date = addMonths(begin, i);
    const [year, month] = [Number(date.slice(0, 4)), Number(date.slice(5, 7))];
    const name = i === 0 || month === 1 ? `${SHORT_MONTHS[month - 1]} ${year}` : (SHORT_MONTHS[month - 1] as string);
    return { name, first: dayNumberOfCivil(year, month, 1), length: daysInMonth(year, month) };
  });
}

/** The part of a stretch of days that lies in a month, as days of it from 0; null: none. */
function within({ first, length }: Month, from: DayNumber, to: DayNumber): readonly [number, number] | null {
  const [low, high] = [Math.max(from, first), Math.min(to, first + length - 1)];
  return low <= high ? [low - first, high - first] : null;
}

function MonthRow({
  month,
  visits,
  isOpen,
}: {
  month: Month;
  visits: readonly DrawnVisit[];
  isOpen: (day: DayNumber) => boolean;
}) {
  const middle = ROW / 2;
  const at = (date: LocalDate): number | null => {
    const found = within(month, toDayNumber(date), toDayNumber(date));
    return found && found[0] * CELL + CELL / 2;
  };
  return (
    <>
      {Array.from({ length: month.length }, (_, i) =>
        isOpen(month.first + i) ? null : (
          <rect key={i} x={i * CELL} y="1.5" width={CELL} height={ROW - 3} fill="var(--color-base-300)" />
        ),
      )}
      <line x1="0" x2={month.length * CELL} y1={ROW} y2={ROW} stroke="var(--color-base-300)" />
      {visits.map((v) => {
        const span = within(month, toDayNumber(v.windowFrom), toDayNumber(v.windowTo));
        const [planned, raised] = [at(v.planned), v.raise && at(v.raise)];
        return (
          <g key={`${v.planned} ${v.windowFrom}`}>
            {span && (
              <line
                x1={span[0] * CELL + 1}
                x2={(span[1] + 1) * CELL - 1}
                y1={ROW - 3}
                y2={ROW - 3}
                stroke="var(--ink2)"
                strokeWidth="1.5"
              />
            )}
            {typeof raised === 'number' && (
              <path d={`M${raised - 3.5} ${middle - 5}l7 3.8l-7 3.8z`} fill="var(--ink2)" />
            )}
            {planned !== null && (
              <circle
                cx={planned}
                cy={middle - 1.5}
                r="4.3"
                fill="var(--color-base-100)"
                stroke="currentColor"
                strokeWidth="1.4"
              />
            )}
          </g>
        );
      })}
    </>
  );
}

function Legend() {
  return (
    <p className="quiet flex gap-5 pt-1" aria-hidden>
      <span className="flex items-center gap-1.5">
        <svg width="11" height="11">
          <circle cx="5.5" cy="5.5" r="4.3" fill="none" stroke="currentColor" strokeWidth="1.4" />
        </svg>
        planned
      </span>
      <span className="flex items-center gap-1.5">
        <svg width="20" height="6">
          <line x1="0" x2="20" y1="3" y2="3" stroke="currentColor" strokeWidth="1.5" />
        </svg>
        in time
      </span>
      <span className="flex items-center gap-1.5">
        <svg width="8" height="9">
          <path d="M0 0.7l7 3.8l-7 3.8z" fill="currentColor" />
        </svg>
        the order is raised
      </span>
      <span className="flex items-center gap-1.5">
        <svg width="13" height="11">
          <rect width="13" height="11" fill="var(--color-base-300)" />
        </svg>
        closed
      </span>
    </p>
  );
}

export function YearSheet({
  begin,
  visits,
  workingDays,
}: {
  /** The first of a month. */
  begin: LocalDate;
  visits: readonly DrawnVisit[];
  workingDays: WorkingDays;
}) {
  const [width, height] = [LEFT + 31 * CELL, TOP + 12 * ROW + 2];
  return (
    <div>
      <svg
        width={width}
        height={height}
        viewBox={`0 0 ${width} ${height}`}
        role="img"
        aria-label={`${visits.length} visits on the days of twelve months; the list names the next ones`}
        className="max-w-full"
      >
        {[1, 5, 10, 15, 20, 25, 30].map((day) => (
          <text key={day} x={LEFT + (day - 0.5) * CELL} y="10" textAnchor="middle" fontSize="10.5" fill="var(--ink2)">
            {day}
          </text>
        ))}
        {monthsFrom(begin).map((month, i) => (
          <g key={month.first} transform={`translate(0 ${TOP + i * ROW})`}>
            <text x="0" y={ROW - 6} fontSize="11" fill="var(--ink2)">
              {month.name}
            </text>
            <g transform={`translate(${LEFT} 0)`}>
              <MonthRow month={month} visits={visits} isOpen={workingDays.days.isOpen} />
            </g>
          </g>
        ))}
      </svg>
      <Legend />
    </div>
  );
}
