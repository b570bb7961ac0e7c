// Who else has the order open: said while the page is open, so that two people do not change the same unknowingly.
import { useEffect } from 'react';
import { ordersApi } from './endpoints.ts';

const EVERY_MS = 30_000;

export function AlsoHere({ orderId }: { orderId: number }) {
  const [say, { data }] = ordersApi.useBeHereMutation();
  useEffect(() => {
    const now = (): void => void say({ params: { id: String(orderId) } });
    now();
    const timer = setInterval(now, EVERY_MS);
    return () => clearInterval(timer);
  }, [orderId, say]);
  if (!data || data.others.length === 0) return null;
  return (
    <p className="quiet" aria-live="polite">
      Also here: {data.others.map((o) => o.name).join(', ')}.
    </p>
  );
}
