// What only the office knows: where else a part is, and parts that neither the van nor the order names. Without a network it says so.
import { useEffect, useState } from 'react';
import type { PartOut } from '#api/stores.ts';
import { listParts } from '#api/stores.ts';
import { readPartStock, type PartStock } from '#api/stock.ts';
import { sayAmount } from '#core/stores/index.ts';
import { sayDay } from '#core/time/index.ts';
import { useHeld, usePhone } from './held.ts';
import type { Phone } from './phone/phone.ts';

const TYPING_MS = 300;
const MOST = 12;

/** The server's answer to what a key stands for; null: not here yet, or there is no network. A null key asks nothing. */
function useAnswer<T>(key: string | null, ask: (phone: Phone) => Promise<T | null>): T | null {
  const phone = usePhone();
  const [said, setSaid] = useState<{ readonly key: string; readonly value: T | null } | null>(null);
  useEffect(() => {
    if (key === null) return;
    let isWanted = true;
    const timer = setTimeout(() => {
      void ask(phone).then((value) => isWanted && setSaid({ key, value }));
    }, TYPING_MS);
    return () => {
      isWanted = false;
      clearTimeout(timer);
    };
    // What is asked is said by the key.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [phone, key]);
  return said?.key === key ? said.value : null;
}

/** Parts of the parts list by a fragment of their number or name. */
export const useListed = (typed: string): readonly PartOut[] => {
  const q = typed.trim();
  return (
    useAnswer(q.length < 2 ? null : q, async (phone) => {
      const said = await phone.read(listParts, { query: { q, limit: String(MOST) } });
      return said?.items ?? null;
    }) ?? []
  );
};

const whose = ({ store, person }: PartStock['stores'][number]): string =>
  person ? `${store.name}, ${person.name}` : store.name;

/** Where a part is free besides the own van, and when more of it comes. */
export function Elsewhere({ partId, unit }: { partId: number; unit: string }) {
  const { net, days } = useHeld();
  const said = useAnswer(String(partId), (phone) => phone.read(readPartStock, { params: { id: String(partId) } }));
  if (said === null)
    return net === 'gone' ? <p className="quiet mt-3">Where else it is can be seen when there is a signal.</p> : null;
  const others = said.stores.filter((s) => s.store.id !== days?.van?.id && s.free > 0);
  return (
    <section aria-label="Elsewhere">
      <h2>Elsewhere</h2>
      {others.slice(0, MOST).map((s) => (
        <p key={s.store.id} className="row">
          <span className="flex-1">{whose(s)}</span>
          <span className="shrink-0">{sayAmount(s.free, unit)} free</span>
        </p>
      ))}
      {said.ordered.map((o) => (
        <p key={`${o.purchaseId} ${o.store.id}`} className="row">
          <span className="flex-1">
            ordered from {o.supplier.name}, to {o.store.name}
          </span>
          <span className="shrink-0 text-right">
            {sayAmount(o.thousandths, unit)}
            <span className="quiet block">{o.promisedOn === null ? 'no day yet' : sayDay(o.promisedOn)}</span>
          </span>
        </p>
      ))}
      {others.length + said.ordered.length === 0 && <p className="quiet mt-2">Nowhere else, and none is ordered.</p>}
    </section>
  );
}
