// Who was warned of an order's promises and who sees to it; who was warned answers here, where the message leads.
import type { ClockAtWork } from '#api/clocks.ts';
import type { OrderPage } from '#api/orders.ts';
import type { Instant, Zone } from '#core/time/index.ts';
import { ErrorLine } from '../parts/problem.tsx';
import { sayMoment } from '../parts/words.ts';
import { useReader } from '../shell/reader.tsx';
import { ordersApi } from './endpoints.ts';

type Warning = ClockAtWork['warnings'][number];

/** When they were told: "at 25 %", of what was promised was left. */
export const sayStep = ({ percent }: Pick<Warning, 'percent'>): string =>
  percent === 0 ? 'missed' : `at ${percent} %`;

export const sayAnswer = ({ acknowledged, at }: Warning, now: Instant, zone: Zone): string =>
  acknowledged ? `${acknowledged.by} sees to it` : `${sayMoment(at, now, zone)}, unanswered`;

export function SeeToIt({ orderId }: { orderId: number }) {
  const [acknowledge, state] = ordersApi.useAcknowledgeWarningsMutation();
  return (
    <>
      <button
        className="link-ink"
        disabled={state.isLoading}
        onClick={() => void acknowledge({ params: { id: String(orderId) } })}
      >
        I see to it
      </button>
      <ErrorLine error={state.error} />
    </>
  );
}

/** Nothing where nobody was warned. */
export function WarnedOfOrder({ order }: { order: Pick<OrderPage, 'id' | 'lines'> }) {
  const { zone } = useReader();
  const { data } = ordersApi.useReadWarningsQuery({ params: { id: String(order.id) } });
  const told = (data?.items ?? []).filter((w) => w.told.length > 0);
  if (!data || told.length === 0) return null;
  const tagOf = (tag: string): string => (order.lines.length > 1 ? ` of ${tag}` : '');
  return (
    <section className="col-span-full" aria-label="Who was warned">
      <ul className="flex flex-wrap gap-x-6">
        {told.map((w) => (
          <li key={`${w.tag} ${w.target} ${w.percent} ${w.at}`}>
            <span className="inline-block first-letter:uppercase">{w.target}</span>
            {tagOf(w.tag)} {sayStep(w)}: {w.told.join(', ')} warned{' '}
            <span className="quiet">{sayAnswer(w, data.now, zone)}</span>
          </li>
        ))}
      </ul>
      {data.mayAnswer && <SeeToIt orderId={order.id} />}
    </section>
  );
}
