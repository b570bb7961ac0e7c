// What Today shows of signals: alerts that go on.
import { Link } from 'react-router';
import { orderNumber } from '#api/shapes.ts';
import { sayMoment } from '../parts/words.ts';
import { useReader } from '../shell/reader.tsx';
import { signalsApi } from './endpoints.ts';

export function AlertsCard() {
  const { zone } = useReader();
  const { data: active } = signalsApi.useReadActiveAlertsQuery();
  if (!active) return null;
  return (
    <section className="mt-7">
      <h2 className="pb-1.5">Active alerts</h2>
      {active.items.length === 0 ? (
        <p className="quiet border-y border-hairline py-2">None: no machine that reports is beyond its limits.</p>
      ) : (
        <table className="dense">
          <tbody>
            {active.items.map((a) => (
              <tr key={a.id}>
                <td className="w-[38%] font-semibold">{a.text}</td>
                <td>
                  {a.model}{' '}
                  <Link className="serial link-ink" to={`/assets/${a.assetId}`}>
                    {a.tag}
                  </Link>
                </td>
                <td className="quiet">active since {sayMoment(a.startedAt, active.now, zone)}</td>
                <td className="quiet">
                  {a.orderId ? (
                    <Link className="link-ink" to={`/orders/${a.orderId}`}>
                      {orderNumber(a.orderId)}
                    </Link>
                  ) : (
                    'no order'
                  )}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
    </section>
  );
}
