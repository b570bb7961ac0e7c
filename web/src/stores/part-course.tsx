// How much of a part there is, was and will be: four numbers in front of a step line, over the minimum; and what work takes by the month.
import { max, sum } from 'd3-array';
import { scaleBand, scaleLinear } from 'd3-scale';
import type { Course } from '#api/part-life.ts';
import type { PartStock } from '#api/stock.ts';
import { sayQuantity } from '#core/stores/index.ts';
import { addDays, SHORT_MONTHS, type LocalDate } from '#core/time/index.ts';
import { sayDate } from '../parts/words.ts';
import { storesApi } from './endpoints.ts';

const WIDTH = 760;
const HEIGHT = 168;
const [LEFT, RIGHT, TOP, BOTTOM] = [44, 8, 14, 22];
/** Days between two rows of the table that says the same. */
const WEEK = 7;

function Numbers({ of: { part, stores, ordered } }: { of: PartStock }) {
  // What lies in quarantine is for no work.
  const all = (of: 'onHand' | 'reserved' | 'free'): number => sum(stores, (s) => (s.kind === 'quarantine' ? 0 : s[of]));
  const coming = sum(ordered, (o) => o.thousandths);
  const first = ordered.find((o) => o.promisedOn !== null);
  const figures = [
    ['on hand', all('onHand'), part.unit],
    ['held for orders', all('reserved'), ''],
    ['free', all('free'), ''],
    ['to come', coming, first?.promisedOn ? `from ${sayDate(first.promisedOn)}` : ''],
  ] as const;
  return (
    <dl className="mt-4 flex flex-wrap gap-10">
      {figures.map(([says, n, beside]) => (
        <div key={says} className="flex flex-col-reverse">
          <dt className="quiet">
            {says}
            {beside && `, ${beside}`}
          </dt>
          <dd className="figure">{sayQuantity(n)}</dd>
        </div>
      ))}
    </dl>
  );
}

const stepsOf = (values: readonly number[], x: (i: number) => number, y: (n: number) => number): string =>
  values.map((n, i) => `${i === 0 ? 'M' : 'L'}${x(i)} ${y(n)}H${x(i + 1)}`).join('');

function Curve({ of: { from, today, past, ahead, minimum, maximum } }: { of: Course }) {
  // Each day has its width; today is the last of the past and the first of what is ahead.
  const before = past.length;
  const days = before + ahead.length;
  const x = scaleLinear([0, days], [LEFT, WIDTH - RIGHT]);
  const top = Math.max(1000, maximum ?? 0, ...past, ...ahead) * 1.06;
  const y = scaleLinear([Math.min(0, ...ahead), top], [HEIGHT - BOTTOM, TOP]);
  const now = x(before);
  const firsts = Array.from({ length: days }, (_, i) => addDays(from, i)).flatMap((d, i) =>
    d.endsWith('-01') ? [{ day: d, at: x(i) }] : [],
  );
  const lowest = ahead.findIndex((n) => minimum !== null && n < minimum);
  const says = [
    `${sayQuantity(past[0] ?? 0)} on ${sayDate(from)}, ${sayQuantity(past[before - 1] ?? 0)} today`,
    `${sayQuantity(ahead.at(-1) ?? 0)} free on ${sayDate(addDays(today, ahead.length - 1))}`,
    minimum !== null &&
      (lowest < 0 ? 'never below the minimum' : `below the minimum on ${sayDate(addDays(today, lowest))}`),
  ];
  const label = (text: string, at: number) => (
    <text x={LEFT - 6} y={at + 4} textAnchor="end" className="fill-current text-[12px]">
      {text}
    </text>
  );
  return (
    <svg
      viewBox={`0 0 ${WIDTH} ${HEIGHT}`}
      className="mt-3 block w-full max-w-4xl"
      role="img"
      aria-label={says.filter((t) => t).join('; ')}
    >
      {firsts.map(({ day, at }) => (
        <g key={day}>
          <line x1={at} x2={at} y1={TOP} y2={HEIGHT - BOTTOM} stroke="var(--color-hairline)" />
          <text x={at + 4} y={HEIGHT - 6} className="fill-current text-[12px]">
            {SHORT_MONTHS[Number(day.slice(5, 7)) - 1]}
          </text>
        </g>
      ))}
      <line x1={LEFT} x2={WIDTH - RIGHT} y1={y(0)} y2={y(0)} stroke="currentColor" strokeOpacity={0.35} />
      {label('0', y(0))}
      {minimum !== null && (
        <>
          <line
            x1={LEFT}
            x2={WIDTH - RIGHT}
            y1={y(minimum)}
            y2={y(minimum)}
            stroke="currentColor"
            strokeDasharray="2 3"
          />
          {minimum > top / 9 && label(sayQuantity(minimum), y(minimum))}
          <text x={WIDTH - RIGHT} y={y(minimum) - 4} textAnchor="end" className="fill-current text-[12px]">
            minimum
          </text>
        </>
      )}
      {maximum !== null && maximum !== minimum && label(sayQuantity(maximum), y(maximum))}
      <path d={stepsOf(past, x, y)} fill="none" stroke="currentColor" strokeWidth={2} />
      <path
        d={stepsOf(ahead, (i) => x(before + i), y)}
        fill="none"
        stroke="currentColor"
        strokeWidth={2}
        strokeDasharray="5 3"
      />
      <line x1={now} x2={now} y1={2} y2={HEIGHT - BOTTOM} stroke="currentColor" strokeWidth={1.5} />
      <text x={now + 4} y={11} className="fill-current text-[12px] font-semibold">
        now
      </text>
    </svg>
  );
}

function AsTable({ of: { from, today, past, ahead } }: { of: Course }) {
  const rows: readonly (readonly [LocalDate, number, string])[] = [
    ...past
      .map((n, i) => [addDays(from, i), n, 'on hand'] as const)
      .filter((_, i) => (past.length - 1 - i) % WEEK === 0),
    ...ahead.map((n, i) => [addDays(today, i), n, 'free'] as const).filter((_, i) => i > 0 && i % WEEK === 0),
  ];
  return (
    <details className="mt-1">
      <summary className="quiet w-fit">Week by week as a table</summary>
      <table className="dense">
        <tbody>
          {rows.map(([day, n, what]) => (
            <tr key={day}>
              <td>{sayDate(day)}</td>
              <td className="num">{sayQuantity(n)}</td>
              <td className="quiet">{what}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </details>
  );
}

type Months = Course['took'];
const BARS = { width: 364, height: 66 };

function Bars({ title, months, most, total }: { title: string; months: Months; most: number; total: number }) {
  const x = scaleBand(
    months.map((m) => m.month),
    [0, BARS.width],
  ).padding(0.25);
  const y = scaleLinear([0, Math.max(1, most)], [0, BARS.height - 20]);
  const says = months.map((m) => `${sayMonth(m.month)} ${sayQuantity(m.thousandths)}`).join(', ');
  return (
    <figure>
      <figcaption>
        {title} <span className="font-semibold tabular-nums">{sayQuantity(total)}</span>
      </figcaption>
      <svg
        viewBox={`0 0 ${BARS.width} ${BARS.height}`}
        className="block w-full"
        role="img"
        aria-label={`${title}: ${says}`}
      >
        {months.map((m, i) => {
          const height = y(Math.max(0, m.thousandths));
          return (
            <g key={m.month}>
              <rect
                x={x(m.month)}
                width={x.bandwidth()}
                y={BARS.height - 16 - height}
                height={height}
                fill="currentColor"
                fillOpacity={0.75}
              />
              {i % 3 === 0 && (
                <text x={x(m.month)} y={BARS.height - 3} className="fill-current text-[11px]">
                  {sayMonth(m.month)}
                </text>
              )}
            </g>
          );
        })}
        <line
          x2={BARS.width}
          y1={BARS.height - 15.5}
          y2={BARS.height - 15.5}
          stroke="currentColor"
          strokeOpacity={0.35}
        />
      </svg>
    </figure>
  );
}
const sayMonth = (month: string): string => `${SHORT_MONTHS[Number(month.slice(5)) - 1] ?? ''} ${month.slice(2, 4)}`;

export function PartCourse({ of }: { of: PartStock }) {
  const { data } = storesApi.useReadCourseQuery({ params: { id: String(of.part.id) }, query: {} });
  const most = max([...(data?.took ?? []), ...(data?.takes ?? [])], (m) => m.thousandths) ?? 0;
  return (
    <>
      <Numbers of={of} />
      {data && (
        <>
          <Curve of={data} />
          <AsTable of={data} />
          {most > 0 && (
            <div className="mt-4 grid max-w-4xl grid-cols-2 gap-8">
              <Bars
                title="Work took in the last twelve months"
                months={data.took}
                most={most}
                total={sum(data.took, (m) => m.thousandths)}
              />
              <Bars
                title="Upkeep takes in the coming twelve"
                months={data.takes}
                most={most}
                total={sum(data.takes, (m) => m.thousandths)}
              />
            </div>
          )}
        </>
      )}
    </>
  );
}
