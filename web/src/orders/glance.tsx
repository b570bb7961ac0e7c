// An order at a glance: the nearest promise as the largest figure, the verdict, what happened, and the likely next acts.
import { Link } from 'react-router';
import { orderNumber } from '#api/shapes.ts';
import { compareByDue, marginOf } from '#core/service-levels/index.ts';
import { sayLength, type Zone } from '#core/time/index.ts';
import { sayMargin, TONE } from '../parts/margin-bar.tsx';
import { CoverVerdict } from '../parts/verdict.tsx';
import { sayMoment } from '../parts/words.ts';
import { useReader } from '../shell/reader.tsx';
import { ordersApi } from './endpoints.ts';
import { Waiting } from '../shell/waiting.tsx';
import { ActButtons } from './acts.tsx';

export function OrderGlance({ id }: { id: number }) {
  const reader = useReader();
  const query = ordersApi.useReadOrderQuery({ params: { id: String(id) } });
  return (
    <Waiting query={query}>
      {(order) => {
        const open = order.clocks.filter((c) => c.stoppedAt === null && c.state !== 'void').sort(compareByDue)[0];
        const line = order.lines[0];
        return (
          <>
            <p className="quiet">
              Work order{' '}
              <Link to={`/orders/${id}`} className="serial link-ink">
                {orderNumber(id)}
              </Link>{' '}
              · {order.kind} · P{order.priority}
            </p>
            <h2 className="font-serif text-[1.35rem] leading-tight font-medium">{order.title}</h2>
            {line && (
              <p className="quiet">
                {line.className} {line.model}{' '}
                <Link to={`/assets/${line.assetId}`} className="serial link-ink">
                  {line.tag}
                </Link>
              </p>
            )}
            {open && (
              <div className={`mt-4 ${TONE[marginOf(open)]}`}>
                <p className="figure">
                  {open.state === 'missed' ? `+ ${sayLength(open.over ?? 0)}` : sayLength(open.left ?? 0)}
                </p>
                <p className="quiet">
                  {open.target}: {sayMargin(open, order.now, reader.zone)} ({open.measure})
                </p>
              </div>
            )}
            {order.lines.length > 1 && <p className="quiet">and {order.lines.length - 1} more</p>}
            {line?.verdict && (
              <div className="mt-4 border-t border-hairline pt-3 text-[0.93rem]">
                <CoverVerdict sentence={line.verdict.sentence} promise="" considered={line.verdict.considered} />
              </div>
            )}
            <ol className="mt-4 border-t border-hairline pt-3 text-[0.93rem]">
              {order.events.slice(-6).map((e) => (
                <li key={e.id} className="grid grid-cols-[5.2rem_1fr] gap-1">
                  <span className="quiet tabular-nums">{sayMoment(e.at, order.now, order.zone as Zone)}</span>
                  <span>{e.text}</span>
                </li>
              ))}
            </ol>
            <div className="mt-4 pb-6">
              <ActButtons order={order} most={3} />
              <p className="pt-2">
                <Link className="link-ink" to={`/orders/${id}`}>
                  Open the order
                </Link>
              </p>
            </div>
          </>
        );
      }}
    </Waiting>
  );
}
