// The strip of the coming year: hours of each week against what there is, a row for each depot and skill.
import type { Load, LoadRow } from '#api/load.ts';
import { addDays, SHORT_MONTHS, type LocalDate } from '#core/time/index.ts';
import { plural, sayDate, sayHours, sayShortDate } from '../../parts/words.ts';

const WIDTH = 764;
const BAR = WIDTH / 52;

const nameOfRow = ({ depot, skill }: Pick<LoadRow, 'depot' | 'skill'>): string =>
  [depot?.name ?? 'No depot', skill?.name ?? 'no skill named'].join(' · ');

type Drawn = {
  readonly name: string;
  readonly capacity: number | null;
  readonly planned: readonly number[];
  readonly raised: readonly number[];
  /** What levelling would make of it. */
  readonly after: readonly number[] | null;
};

function Bars({
  row: { planned, raised, capacity, after },
  height,
  from,
}: {
  row: Drawn;
  height: number;
  from: LocalDate;
}) {
  const totals = planned.map((m, i) => m + (raised[i] ?? 0));
  const top = Math.max(capacity ?? 0, ...totals, ...(after ?? []), 60) * 1.06;
  const y = (minutes: number): number => height - (minutes / top) * height;
  const steps = after?.map((m, i) => `${i === 0 ? 'M' : 'L'}${i * BAR} ${y(m)}L${(i + 1) * BAR} ${y(m)}`).join('');
  return (
    <svg width={WIDTH} height={height + 1} className="block overflow-visible">
      {totals.map((total, i) => {
        const over = capacity !== null && total > capacity;
        return (
          <g key={i}>
            <title>{`Week of ${sayDate(addDays(from, i * 7))}: ${sayHours(total)}${capacity === null ? '' : ` of ${sayHours(capacity)}`}`}</title>
            <rect x={i * BAR} y="0" width={BAR} height={height} fill="transparent" />
            {total > 0 && (
              <rect
                x={i * BAR + 1.5}
                y={y(total)}
                width={BAR - 3}
                height={height - y(total)}
                fill="var(--color-base-300)"
                stroke="currentColor"
                strokeWidth="0.8"
              />
            )}
            {(raised[i] ?? 0) > 0 && (
              <rect
                x={i * BAR + 1.5}
                y={y(raised[i] as number)}
                width={BAR - 3}
                height={height - y(raised[i] as number)}
                fill="currentColor"
              />
            )}
            {over && (
              <rect
                x={i * BAR + 1.5}
                y={y(total)}
                width={BAR - 3}
                height={y(capacity) - y(total)}
                className="fill-short"
                stroke="currentColor"
                strokeWidth="0.8"
              />
            )}
          </g>
        );
      })}
      {capacity !== null && (
        <line x1="0" x2={WIDTH} y1={y(capacity)} y2={y(capacity)} stroke="currentColor" strokeDasharray="4 3" />
      )}
      {steps && <path d={steps} fill="none" stroke="currentColor" strokeWidth="2" />}
      <line x1="0" x2={WIDTH} y1={height + 0.5} y2={height + 0.5} stroke="var(--color-hairline, currentColor)" />
    </svg>
  );
}

function Months({ from }: { from: LocalDate }) {
  const begins = Array.from({ length: 52 }, (_, i) => addDays(from, i * 7)).flatMap((monday, i) => {
    const sunday = addDays(monday, 6);
    const first = Number(sunday.slice(8)) <= 7 || (i === 0 && Number(sunday.slice(8)) <= 14);
    return first ? [{ i, month: i === 0 ? monday : sunday }] : [];
  });
  return (
    <svg width={WIDTH} height="15" className="block" aria-hidden>
      {begins.map(({ i, month }) => (
        <text key={i} x={i * BAR + 2} y="11" fontSize="11" fill="var(--ink2)">
          {SHORT_MONTHS[Number(month.slice(5, 7)) - 1]}
          {month.slice(5, 7) === '01' && ` ${month.slice(0, 4)}`}
        </text>
      ))}
    </svg>
  );
}

const peakOf = ({ planned, raised }: Pick<Drawn, 'planned' | 'raised'>): readonly [number, number] =>
  planned.reduce<readonly [number, number]>(
    (best, m, i) => {
      const total = m + (raised[i] ?? 0);
      return total > best[1] ? [i, total] : best;
    },
    [0, 0],
  );

function sayRow(row: Drawn, from: LocalDate): string {
  const [week, minutes] = peakOf(row);
  const weeksOver =
    row.capacity === null ? 0 : row.planned.filter((m, i) => m + (row.raised[i] ?? 0) > (row.capacity ?? 0)).length;
  const fullest =
    minutes === 0
      ? 'nothing planned'
      : `fullest ${sayHours(minutes)}, ${sayShortDate(addDays(from, week * 7), addDays(from, week * 7))}`;
  if (row.capacity === null) return fullest;
  return `${sayHours(row.capacity)} a week; ${fullest}${weeksOver > 0 ? `; ${plural(weeksOver, 'week')} over` : ''}`;
}

function sumOf(rows: readonly Drawn[], which: 'planned' | 'raised' | 'after'): number[] {
  return Array.from({ length: 52 }, (_, i) => rows.reduce((sum, row) => sum + (row[which]?.[i] ?? 0), 0));
}

export function LoadStrip({ load, after }: { load: Load; after: readonly (readonly number[])[] | null }) {
  const rows = load.rows.map((row, i): Drawn => ({ ...row, name: nameOfRow(row), after: after?.[i] ?? null }));
  const withCapacity = rows.filter((r) => r.capacity !== null);
  const all: Drawn = {
    name: 'Everything',
    capacity: withCapacity.length === 0 ? null : withCapacity.reduce((sum, r) => sum + (r.capacity ?? 0), 0),
    planned: sumOf(rows, 'planned'),
    raised: sumOf(rows, 'raised'),
    after: after && sumOf(rows, 'after'),
  };
  return (
    <div className="mt-4">
      <div className="grid grid-cols-[17rem_1fr] items-end gap-x-4">
        <span />
        <Months from={load.from} />
        {[all, ...rows].map((row, i) => (
          <div key={row.name} className="contents" role="img" aria-label={`${row.name}: ${sayRow(row, load.from)}`}>
            <div className={`self-center ${i === 0 ? '' : 'pt-2'}`}>
              <span className={i === 0 ? 'font-semibold' : ''}>{row.name}</span>
              <span className="quiet block">{sayRow(row, load.from)}</span>
            </div>
            <div className={i === 0 ? 'pb-2' : 'pt-2'}>
              <Bars row={row} height={i === 0 ? 96 : 40} from={load.from} />
            </div>
          </div>
        ))}
      </div>
      <p className="quiet mt-3 flex flex-wrap gap-x-6">
        <span>▮ raised</span>
        <span>▯ planned</span>
        <span>- - - hours there are</span>
        <span className="text-short">▮ more than there are</span>
        {after && <span>━ evened out</span>}
      </p>
    </div>
  );
}
