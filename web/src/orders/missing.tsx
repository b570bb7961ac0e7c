// What is missing before an order is done, each leading to where it is put right.
import type { OrderPage } from '#api/orders.ts';

type Missing = OrderPage['missing'][number];

const PLACES: Readonly<Record<Missing['what'], string>> = {
  task: 'tasks',
  form: 'forms',
  findings: 'findings',
  'sign-off': 'acts',
  'running time': 'time',
};
const SAID: Readonly<Record<Missing['what'], string>> = {
  task: 'to do',
  form: 'to fill in',
  findings: 'to say',
  'sign-off': 'to record',
  'running time': 'has time running',
};
const SHOWN = 12;

export function StillMissing({ order }: { order: OrderPage }) {
  const { missing, lines } = order;
  // Before anybody was there everything is missing, and says nothing.
  if (missing.length === 0 || order.stage !== 'on site') return null;
  const tagOf = ({ lineId }: Missing): string =>
    lines.length > 1 ? (lines.find((l) => l.id === lineId)?.tag ?? '') : '';
  return (
    <section className="mt-3" aria-label="Missing before it is done">
      <h2>Missing before it is done</h2>
      <ul className="mt-1 flex flex-wrap gap-x-5">
        {missing.slice(0, SHOWN).map((m) => (
          <li key={`${m.what} ${m.lineId} ${m.id}`}>
            <a className="link-ink" href={`#${PLACES[m.what]}`}>
              {m.text}
            </a>{' '}
            <span className="quiet">
              {SAID[m.what]}
              {m.what === 'task' || m.what === 'form' ? tagOf(m) && `, ${tagOf(m)}` : ''}
            </span>
          </li>
        ))}
        {missing.length > SHOWN && <li className="quiet">and {missing.length - SHOWN} more</li>}
      </ul>
    </section>
  );
}
