// What people outside were told of an order, when, and by which way.
import type { OrderPage } from '#api/orders.ts';
import type { Zone } from '#core/time/index.ts';
import { sayMoment } from '../parts/words.ts';
import { ordersApi } from './endpoints.ts';

const STATE = { waiting: 'waiting to be sent', sent: 'sent', dead: '✕ could not be sent' } as const;

export function Told({ order }: { order: OrderPage }) {
  const { data } = ordersApi.useReadToldQuery({ params: { id: String(order.id) } });
  if (!data || data.items.length === 0) return null;
  const zone = order.zone as Zone;
  return (
    <section>
      <h2>Told outside</h2>
      <table className="dense mt-1">
        <tbody>
          {data.items.map((m) => (
            <tr key={m.id}>
              <td className="quiet whitespace-nowrap">{sayMoment(m.sentAt ?? m.at, order.now, zone)}</td>
              <td>
                {m.subject}
                <span className="quiet block">
                  to {m.to} by {m.way}, {STATE[m.state]}
                </span>
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </section>
  );
}
