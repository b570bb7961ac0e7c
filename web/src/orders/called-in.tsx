// What somebody who is out says by phone of an order, typed for them: that the customer knows, that they are there, that it is done; and
// their hours.
import { Suspense, useState } from 'react';
import { addEntry } from '#api/labour.ts';
import type { LocalDate } from '#core/time/index.ts';
import { EntryDialog } from '../labour/index.ts';
import { useReader } from '../shell/reader.tsx';
import { Waiting } from '../shell/waiting.tsx';
import { ActButtons } from './acts.tsx';
import { ordersApi } from './endpoints.ts';

type Who = { readonly id: number; readonly name: string };

const MOST = 4;

export function CalledIn({ id, who, day }: { id: number; who: readonly Who[]; day: LocalDate }) {
  const mayEnter = useReader().may(addEntry);
  const query = ordersApi.useReadOrderQuery({ params: { id: String(id) } });
  const [entering, setEntering] = useState<Who | null>(null);
  return (
    <Waiting query={{ ...query, data: query.currentData }}>
      {(order) => (
        <>
          <ActButtons order={order} most={MOST} without={['planned', 'sent', 'note', 'called off']} />
          {mayEnter && order.lines.length > 0 && (
            <p className="quiet mt-1 flex flex-wrap gap-x-3">
              {who.map((p) => (
                <button key={p.id} className="link-ink" onClick={() => setEntering(p)}>
                  Hours of {p.name}…
                </button>
              ))}
            </p>
          )}
          <Suspense>
            {entering && (
              <EntryDialog
                personId={entering.id}
                day={day}
                entry={null}
                lines={order.lines
                  .filter((l) => !l.off)
                  .map((l) => ({ lineId: l.id, orderId: order.id, title: order.title, tag: l.tag }))}
                onClose={() => setEntering(null)}
              />
            )}
          </Suspense>
        </>
      )}
    </Waiting>
  );
}
