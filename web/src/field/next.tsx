// The foot of a page: what is most likely next at an order as one wide button, and beside it what one reaches for on site.
import { Link, useNavigate } from 'react-router';
import type { FieldAppointment } from '#api/field.ts';
import { nextOnSite } from '#core/field/index.ts';
import { Refused, useDoing } from './doing.tsx';
import type { OnOrder } from './held.ts';
import { isWorkaroundOwed } from './promises.ts';

const WORDS = { arrived: 'I am there', restored: 'Back in use', resumed: 'Go on with it', done: 'Finish' } as const;

/** What one reaches for on site: where it is, and its word. */
const ON_SITE = [
  ['part', 'Part'],
  ['hours', 'Hours'],
  ['pause', 'Pause'],
  ['workaround', 'Works for now'],
  ['note', 'Note'],
  ['cost', 'Cost'],
  ['help', 'Help'],
  ['rest', 'Rest'],
] as const;

function saidOf({ here, facts }: OnOrder): string {
  const open = here.missing.filter((m) => m.what === 'task').length;
  const forms = here.missing.filter((m) => m.what === 'form').length;
  const said = [
    ...(facts.tasks.length > 0
      ? [`${facts.tasks.filter((t) => here.state.tasks.has(t.id)).length} of ${facts.tasks.length} tasks`]
      : []),
    ...(forms > 0 ? [`${forms} ${forms === 1 ? 'form' : 'forms'} open`] : []),
    ...(open > 0 && facts.tasks.length === 0 ? [`${open} open`] : []),
  ];
  return said.join(' · ');
}

export function NextAct({ order, appointment }: { order: OnOrder; appointment?: FieldAppointment | undefined }) {
  const navigate = useNavigate();
  const { refusals, actOn } = useDoing();
  const next = nextOnSite(order.facts, order.here) as keyof typeof WORDS | null;
  const { id, title } = order.page;
  if (next === null) return null;
  const isThere = order.here.state.stage === 'on site';
  const isOffered = (path: (typeof ON_SITE)[number][0]): boolean =>
    path === 'pause' ? next !== 'resumed' : path !== 'workaround' || isWorkaroundOwed(order.page.clocks, order.here);
  const go = (): void => {
    if (next === 'done') void navigate(`/order/${id}/finish`);
    else if (next === 'restored') void actOn(order, { kind: 'restored', lineId: null }, { stay: true });
    else if (next === 'arrived')
      void actOn(order, { kind: 'arrived' }, { stay: true }).then((did) => did && navigate(`/order/${id}`));
    else void actOn(order, { kind: 'resumed' }, { stay: true });
  };
  return (
    <footer className="field-foot" aria-label="Next">
      <div className="mb-2 flex items-baseline justify-between gap-3">
        <span className="truncate font-semibold">{title}</span>
        <span className="quiet shrink-0">{saidOf(order)}</span>
      </div>
      <Refused refusals={refusals} />
      <button className="wide" onClick={go}>
        {WORDS[next]}
      </button>
      <nav aria-label="On site" className="mt-2 flex flex-wrap gap-2">
        {isThere ? (
          <>
            {/* Done, it is back in use at the latest. */}
            {next === 'restored' && (
              <Link className="plain" to={`/order/${id}/finish`}>
                Finish
              </Link>
            )}
            {ON_SITE.filter(([path]) => isOffered(path)).map(([path, word]) => (
              <Link key={path} className="plain" to={`/order/${id}/${path}`}>
                {word}
              </Link>
            ))}
          </>
        ) : (
          appointment && (
            <>
              <Link className="plain" to={`/appointment/${appointment.id}/late`}>
                Running late
              </Link>
              <Link className="plain" to={`/appointment/${appointment.id}/answer`}>
                {appointment.answer ? (appointment.answer.accepted ? 'Accepted' : 'Not accepted') : 'Accept?'}
              </Link>
            </>
          )
        )}
      </nav>
    </footer>
  );
}
