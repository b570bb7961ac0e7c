// Recording what happened on an order: the acts its stage offers.
import { Suspense, useState } from 'react';
import { recordAct } from '#api/orders.ts';
import type { OrderPage } from '#api/orders.ts';
import { later, useAhead } from '../shell/later.ts';
import { useReader } from '../shell/reader.tsx';
import type { Kind } from './act-dialog.tsx';

const ActDialog = later(async () => (await import('./act-dialog.tsx')).ActDialog);

const NAMES: Record<Kind, string> = {
  planned: 'Plan…',
  sent: 'Send to technician',
  told: 'Told the customer who comes…',
  arrived: 'On site…',
  paused: 'Pause…',
  resumed: 'Resume…',
  restored: 'Back in use…',
  done: 'Done…',
  'called off': 'Call off…',
  note: 'Note…',
};
export function ActButtons({ order, most }: { order: OrderPage; most?: number }) {
  const reader = useReader();
  const [kind, setKind] = useState<Kind | null>(null);
  useAhead(ActDialog);
  if (!reader.may(recordAct)) return null;
  const offered = (order.offered as Kind[]).slice(0, most ?? 20);
  return (
    <>
      <div className="flex flex-wrap gap-2">
        {offered.map((k, i) => (
          <button key={k} className={i === 0 && k !== 'note' ? 'act-main' : 'act'} onClick={() => setKind(k)}>
            {NAMES[k]}
          </button>
        ))}
      </div>
      <Suspense>{kind && <ActDialog.Part order={order} kind={kind} onClose={() => setKind(null)} />}</Suspense>
    </>
  );
}
