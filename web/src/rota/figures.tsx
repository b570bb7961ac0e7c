// How dispatch went in a month, by depot and person beside the month before; and whichever is chosen over the year that ends with it.
import { extent } from 'd3-array';
import { scaleLinear, scalePoint } from 'd3-scale';
import { line } from 'd3-shape';
import { ChevronLeft, ChevronRight } from 'lucide-react';
import { Link, useSearchParams } from 'react-router';
import type { DispatchFigures, FiguresRow } from '#api/rota-figures.ts';
import { addMonths, localDateAt, parseLocalDate, SHORT_MONTHS, type LocalDate } from '#core/time/index.ts';
import { plural, sayMinutes, sayShare } from '../parts/words.ts';
import { useReader } from '../shell/reader.tsx';
import { server } from '../shell/store.ts';
import { Waiting } from '../shell/waiting.tsx';
import { rotaApi } from './endpoints.ts';

type Figure = {
  readonly head: string;
  readonly says: string;
  readonly of: (f: DispatchFigures) => number | null;
  readonly say: (value: number) => string;
};

const shareOf = ({ of, kept }: { of: number; kept: number }): number | null => (of === 0 ? null : kept / of);
const minutes = (value: number): string => sayMinutes(Math.round(value));

const FIGURES: readonly Figure[] = [
  { head: 'Orders done', says: 'of every kind', of: (f) => f.done, say: String },
  {
    head: 'Told after',
    says: 'repairs: from raised until the customer knew who comes',
    of: (f) => f.told,
    say: minutes,
  },
  { head: 'Sent after', says: 'repairs: from raised until whoever goes was sent it', of: (f) => f.sent, say: minutes },
  {
    head: 'Planned in time',
    says: 'for a day that was not past what was promised, or past the window',
    of: (f) => shareOf(f.inTime),
    say: sayShare,
  },
  {
    head: 'Done at first go',
    says: 'nothing waited once somebody was there, and nothing was left for later',
    of: (f) => shareOf(f.firstGo),
    say: sayShare,
  },
  {
    head: 'On the way',
    says: 'of the time that was entered',
    of: (f) => (f.entered > 0 ? f.travel / f.entered : null),
    say: sayShare,
  },
  { head: 'Overtime', says: 'entered outside open time', of: (f) => (f.entered > 0 ? f.overtime : null), say: minutes },
];

const sayMonth = (month: string): string => `${SHORT_MONTHS[Number(month.slice(5)) - 1] ?? ''} ${month.slice(0, 4)}`;

const sayOf = (figure: Figure, of: DispatchFigures): string => {
  const value = figure.of(of);
  return value === null ? '–' : figure.say(value);
};

const keyOf = ({ kind, id }: FiguresRow['of']): string => (kind === 'house' ? '' : `${kind}-${id}`);

function Rows({
  rows,
  chosen,
  onChoose,
}: {
  rows: readonly FiguresRow[];
  chosen: string;
  onChoose: (key: string) => void;
}) {
  return (
    <table className="dense">
      <thead>
        <tr>
          <th>Whose</th>
          {FIGURES.map((f) => (
            <th key={f.head} className="num" title={f.says}>
              {f.head}
            </th>
          ))}
        </tr>
      </thead>
      <tbody>
        {rows.map((row) => {
          const key = keyOf(row.of);
          return (
            <tr key={key} className={key === chosen ? 'bg-base-300' : ''}>
              <td className={row.of.kind === 'person' ? 'pl-6' : ''}>
                <button
                  className={`link-ink ${row.of.kind === 'person' ? '' : 'font-semibold'}`}
                  aria-pressed={key === chosen}
                  onClick={() => onChoose(key)}
                >
                  {row.of.name}
                </button>
              </td>
              {FIGURES.map((f) => (
                <td key={f.head} className="num whitespace-nowrap">
                  {sayOf(f, row.now)}
                  <span className="quiet block text-[0.85rem]">{sayOf(f, row.before)}</span>
                </td>
              ))}
            </tr>
          );
        })}
      </tbody>
    </table>
  );
}

const WIDTH = 230;
const HEIGHT = 64;

type Month = { readonly month: string; readonly figures: DispatchFigures };

/** One figure over the year: a line that breaks where nothing is known, from nothing up for what is counted. */
function Year({ figure, months }: { figure: Figure; months: readonly Month[] }) {
  const points = months.map(({ month, figures }) => ({ month, value: figure.of(figures) }));
  const known = points.flatMap((p) => (p.value === null ? [] : [{ ...p, value: p.value }]));
  const [, most = 0] = extent(known, (p) => p.value);
  const x = scalePoint(
    months.map((m) => m.month),
    [4, WIDTH - 4],
  );
  const y = scaleLinear([0, Math.max(most, Number.MIN_VALUE)], [HEIGHT - 3, 6]);
  const drawn = line<(typeof points)[number]>()
    .defined((p) => p.value !== null)
    .x((p) => x(p.month) ?? 0)
    .y((p) => y(p.value ?? 0));
  const last = known.at(-1);
  const words = known.map((p) => `${sayMonth(p.month)} ${figure.say(p.value)}`).join(', ');
  return (
    <figure>
      <figcaption className="flex justify-between gap-3">
        <span title={figure.says}>{figure.head}</span>
        <span className="quiet">{known.length === 0 ? 'nothing known' : `up to ${figure.say(most)}`}</span>
      </figcaption>
      <svg
        width={WIDTH}
        height={HEIGHT}
        className="block"
        role="img"
        aria-label={`${figure.head}: ${words || 'nothing known'}`}
      >
        <line x1="0" x2={WIDTH} y1={HEIGHT - 2.5} y2={HEIGHT - 2.5} stroke="var(--color-hairline)" />
        <path d={drawn(points) ?? ''} fill="none" stroke="currentColor" strokeWidth="1.5" />
        {known.map((p) => (
          <circle key={p.month} cx={x(p.month)} cy={y(p.value)} r={p === last ? 3 : 1.5} fill="currentColor">
            <title>{`${sayMonth(p.month)}: ${figure.say(p.value)}`}</title>
          </circle>
        ))}
      </svg>
      <div className="quiet flex justify-between text-[0.85rem]">
        <span>{sayMonth(months[0]?.month ?? '')}</span>
        <span>{sayMonth(months.at(-1)?.month ?? '')}</span>
      </div>
    </figure>
  );
}

function Trend({ month, of }: { month: string; of: FiguresRow['of'] }) {
  const asked = of.kind === 'house' ? {} : of.kind === 'depot' ? { depot: String(of.id) } : { person: String(of.id) };
  const query = rotaApi.useReadFigureTrendQuery({ query: { month, ...asked } });
  return (
    <section className="mt-7">
      <h2>{of.name}, over a year</h2>
      <Waiting query={query}>
        {({ months }) => (
          <div className="mt-2 flex flex-wrap gap-x-10 gap-y-5">
            {FIGURES.map((f) => (
              <Year key={f.head} figure={f} months={months} />
            ))}
          </div>
        )}
      </Waiting>
    </section>
  );
}

function Shown({ month, rows }: { month: string; rows: readonly FiguresRow[] }) {
  const [params, setParams] = useSearchParams();
  const [first] = rows;
  const asked = params.get('of') ?? '';
  const chosen = rows.find((r) => keyOf(r.of) === asked) ?? first;
  const choose = (key: string): void =>
    setParams(
      (was) => {
        if (key === '') was.delete('of');
        else was.set('of', key);
        return was;
      },
      { replace: true },
    );
  if (!chosen) return <p className="quiet mt-4">Nobody goes out yet; say in Setup who is a technician.</p>;
  const { done, repairs } = chosen.now;
  return (
    <>
      <div className="mt-3 overflow-x-auto">
        <Rows rows={rows} chosen={keyOf(chosen.of)} onChoose={choose} />
      </div>
      <p className="quiet mt-1 max-w-4xl">
        Below each figure stands that of {sayMonth(addMonths(`${month}-01` as LocalDate, -1).slice(0, 7))}. Of{' '}
        {plural(done, 'order')} done by {chosen.of.name === 'Everybody' ? 'everybody' : chosen.of.name}, {repairs} were
        repairs; told and sent are their medians. Orders count by their depot and by who did them, time by whose it is.
      </p>
      <Trend month={month} of={chosen.of} />
    </>
  );
}

export function FiguresRoom() {
  const reader = useReader();
  const { data: session } = server.useReadSessionQuery();
  const [params, setParams] = useSearchParams();
  const thisMonth = localDateAt(reader.zone, session?.now ?? (0 as never)).slice(0, 7);
  const asked = params.get('month') ?? '';
  const month = parseLocalDate(`${asked}-01`) === null ? thisMonth : asked;
  const query = rotaApi.useReadFiguresQuery({ query: { month } });
  const go = (months: number): void =>
    setParams(
      (was) => {
        was.set('month', addMonths(`${month}-01` as LocalDate, months).slice(0, 7));
        return was;
      },
      { replace: true },
    );
  return (
    <div className="px-7 pt-5 pb-12">
      <Link className="link-ink" to="/rota">
        ‹ Rota
      </Link>
      <div className="mt-1 flex items-center gap-3">
        <h1>How dispatch went, {sayMonth(month)}</h1>
        <span className="flex">
          <button className="icon-act" aria-label="The month before" title="The month before" onClick={() => go(-1)}>
            <ChevronLeft size={16} />
          </button>
          <button
            className="icon-act"
            aria-label="The month after"
            title="The month after"
            disabled={month >= thisMonth}
            onClick={() => go(1)}
          >
            <ChevronRight size={16} />
          </button>
        </span>
      </div>
      <Waiting query={query}>{({ rows }) => <Shown month={month} rows={rows} />}</Waiting>
    </div>
  );
}
