// Today: what needs somebody now, as the rooms bring it: cards, words in the head, and lines among the decisions.
import { Suspense, useState, type ComponentType } from 'react';
import { Link } from 'react-router';
import { writeAgreement } from '#api/agreements/index.ts';
import { localDateAt } from '#core/time/index.ts';
import { agreementsApi } from '../agreements/index.ts';
import { customersApi } from '../customers/index.ts';
import { sayDate } from '../parts/words.ts';
import { setupApi } from '../setup/index.ts';
import { later } from '../shell/later.ts';
import { useReader } from '../shell/reader.tsx';
import { useRooms, type Room } from '../shell/room.ts';
import { server } from '../shell/store.ts';
import { BesideProvider } from '../shell/today-card.tsx';

/** What an empty installation needs first, in the order in which each step stands on the one before. */
function FirstSteps() {
  const { data: reference } = setupApi.useReadReferenceQuery();
  const { data: customers } = customersApi.useListCustomersQuery({ query: { limit: '1' } });
  const { data: agreements } = agreementsApi.useListAgreementsQuery({ query: { limit: '1' } });
  const mayWrite = useReader().may(writeAgreement);
  if (!reference || !customers || !agreements || agreements.total > 0 || !mayWrite) return null;
  const steps = [
    [reference.calendars.length > 0, '/setup', 'Say when your sites are open', 'calendars with their holidays'],
    [reference.serviceLevels.length > 0, '/setup', 'Say how fast you promise to be', 'service levels'],
    [
      customers.items.length > 0,
      '/register/import',
      'Bring in the machines',
      'a CSV file of customers, places and assets',
    ],
    [false, '/agreements', 'Write the first agreement', 'what is covered, and which visits are owed'],
  ] as const;
  const next = steps.findIndex(([done]) => !done);
  return (
    <section className="sheet mb-6 max-w-2xl px-4 py-3">
      <h2>Begin here</h2>
      <ol className="mt-1">
        {steps.map(([done, to, what, more], i) => (
          <li key={what} className="grid grid-cols-[1.4rem_1fr] border-t border-hairline py-1.5">
            <span aria-label={done ? 'done' : 'to do'}>{done ? '✓' : `${i + 1}`}</span>
            <span>
              <Link className={`link-ink ${i === next ? 'font-semibold' : ''}`} to={to}>
                {what}
              </Link>{' '}
              <span className="quiet">{more}</span>
            </span>
          </li>
        ))}
      </ol>
    </section>
  );
}

const DECISIONS_AFTER = 3;

type Shown = { readonly key: string; readonly Part: ComponentType };
type Parts = {
  readonly cards: (Shown & { place: number })[];
  readonly summaries: Shown[];
  readonly decisions: Shown[];
};

/** The parts of all rooms, in the order of their places; made once, for a part made anew would begin anew. */
function partsOf(rooms: readonly Room[]): Parts {
  const cards = rooms
    .flatMap(({ name, today = [] }) => today.map((card, i) => ({ ...card, key: `${name} ${i}` })))
    .sort((a, b) => a.place - b.place);
  const some = (of: 'card' | 'summary' | 'decisions') =>
    cards.flatMap(({ key, place, [of]: load }) => (load ? [{ key, place, Part: later(load).Part }] : []));
  return {
    cards: some('card'),
    summaries: some('summary'),
    decisions: some('decisions'),
  };
}

function Decisions({ decisions }: { decisions: readonly Shown[] }) {
  return (
    <section className="mt-7 has-[tbody:empty]:hidden">
      <h2 className="pb-1.5">Waiting for a decision</h2>
      <table className="dense">
        <tbody>
          {decisions.map(({ key, Part }) => (
            <Part key={key} />
          ))}
        </tbody>
      </table>
    </section>
  );
}

export function TodayRoom() {
  const reader = useReader();
  const rooms = useRooms();
  const [{ cards, summaries, decisions }] = useState(() => partsOf(rooms));
  const [beside, setBeside] = useState<HTMLElement | null>(null);
  const { data: session } = server.useReadSessionQuery();
  return (
    <BesideProvider value={beside}>
      <div className="panes">
        <div className="min-w-0 flex-1 px-6 pt-5">
          <Suspense>
            <header className="flex flex-wrap items-baseline gap-x-5 pb-4">
              <h1>{session && sayDate(localDateAt(reader.zone, session.now)).slice(0, -5)}</h1>
              <p className="summary text-[0.93rem]">
                {summaries.map(({ key, Part }) => (
                  <Part key={key} />
                ))}
              </p>
            </header>
            <FirstSteps />
            {cards.map(({ key, place, Part }) => place <= DECISIONS_AFTER && <Part key={key} />)}
            <Decisions decisions={decisions} />
            {cards.map(({ key, place, Part }) => place > DECISIONS_AFTER && <Part key={key} />)}
            <div className="pb-10" />
          </Suspense>
        </div>
        <div ref={setBeside} className="contents" />
      </div>
    </BesideProvider>
  );
}
