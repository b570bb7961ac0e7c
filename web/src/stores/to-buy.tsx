// What is to be bought: what orders wait for and what runs low, by part and store; ticked, and made into purchase orders by supplier.
import { useState } from 'react';
import { Link } from 'react-router';
import type { ToBuyOut } from '#api/purchases.ts';
import { orderNumber } from '#api/shapes.ts';
import { sayAmountOf } from '#core/money.ts';
import { sayAmount, sayQuantity } from '#core/stores/index.ts';
import { Pager, usePages } from '../parts/pager.tsx';
import { TickBox, useTicks } from '../parts/table/index.ts';
import { plural, sayDate } from '../parts/words.ts';
import { Waiting } from '../shell/waiting.tsx';
import { BuyButton, type ToOrder } from './buying.tsx';
import { storesApi } from './endpoints.ts';
import { StoresParts } from './sections.tsx';

const keyOf = (i: ToBuyOut): string => `${i.part.id} ${i.store.id}`;

type Chosen = ReadonlyMap<string, { readonly supplierId?: number; readonly thousandths?: number }>;

/** As it is proposed, unless somebody chose otherwise. */
function orderOf(i: ToBuyOut, chosen: Chosen): ToOrder {
  const own = chosen.get(keyOf(i));
  return {
    ...{ partId: i.part.id, storeId: i.store.id, supplierId: own?.supplierId ?? i.supplier?.id ?? null },
    thousandths: own?.thousandths ?? i.propose,
    needs: i.needs.map(({ needId, thousandths }) => ({ needId, thousandths })),
  };
}

function Why({ of: { needs, forNeeds, toReorder, part } }: { of: ToBuyOut }) {
  const [first] = needs;
  return (
    <>
      {first && (
        <div>
          {sayAmount(forNeeds, part.unit)} for{' '}
          <Link className="serial link-ink" to={`/orders/${first.orderId}`}>
            {orderNumber(first.orderId)}
          </Link>
          {needs.length > 1 && ` and ${plural(needs.length - 1, 'other')}`}
        </div>
      )}
      {toReorder > 0 && <div className="quiet">runs low: {sayQuantity(toReorder)} to the maximum</div>}
    </>
  );
}

function Row({
  item,
  chosen,
  ticked,
  tick,
  choose,
}: {
  item: ToBuyOut;
  chosen: Chosen;
  ticked: boolean;
  tick: () => void;
  choose: (over: { supplierId?: number; thousandths?: number }) => void;
}) {
  const asked = orderOf(item, chosen);
  const offer = item.offers.find((o) => o.supplier.id === asked.supplierId);
  return (
    <tr className="align-top">
      <td>
        <TickBox name={`${item.part.number} for ${item.store.name}`} checked={ticked} onTick={tick} />
      </td>
      <td className="serial whitespace-nowrap">
        <Link className="link-ink" to={`/stores/parts/${item.part.id}`}>
          {item.part.number}
        </Link>
      </td>
      <td>{item.part.name}</td>
      <td>
        <Why of={item} />
      </td>
      <td className="whitespace-nowrap">{item.day === null ? '' : sayDate(item.day)}</td>
      <td>{item.store.name}</td>
      <td>
        {item.offers.length === 0 ? (
          <Link className="link-ink text-missed" to={`/stores/parts/${item.part.id}`}>
            ✕ nobody sells it: say who
          </Link>
        ) : (
          <select
            className="box-field"
            aria-label={`Supplier of ${item.part.name}`}
            value={asked.supplierId ?? ''}
            onChange={(e) => choose({ supplierId: Number(e.target.value) })}
          >
            {item.offers.map((o) => (
              <option key={o.supplier.id} value={o.supplier.id}>
                {o.supplier.name}
              </option>
            ))}
          </select>
        )}
        {offer && (
          <div className="quiet">
            {offer.unitPrice === null ? 'no price yet' : `EUR ${sayAmountOf(offer.unitPrice, 'EUR')}`}
            {offer.pack !== 1000 && `, packs of ${sayQuantity(offer.pack)}`}, {plural(offer.leadDays, 'day')}
          </div>
        )}
      </td>
      <td className="whitespace-nowrap">
        <input
          className="box-field num w-20"
          type="number"
          min={0}
          step="any"
          aria-label={`Quantity of ${item.part.name}`}
          value={asked.thousandths / 1000}
          onChange={(e) => choose({ thousandths: Math.round(Number(e.target.value) * 1000) })}
        />{' '}
        {item.part.unit}
      </td>
    </tr>
  );
}

export function ToBuyRoom() {
  const pages = usePages();
  const { after } = pages;
  const query = storesApi.useReadToBuyQuery({ query: { ...(after && { after }) } });
  const ticks = useTicks<string>();
  const [chosen, setChosen] = useState<Chosen>(new Map());
  return (
    <article className="px-7 pt-5 pb-10">
      <h1 className="mb-2">To buy</h1>
      <StoresParts />
      <Waiting query={query}>
        {({ items, total, next }) => {
          const asked = items.filter((i) => ticks.ticked.has(keyOf(i))).map((i) => orderOf(i, chosen));
          const buyable = items.filter((i) => i.offers.length > 0).map(keyOf);
          return (
            <>
              <p className="quiet mt-3">
                {total === 0
                  ? 'Nothing is to be bought: no order waits for a part that nobody ordered, and nothing runs low.'
                  : `${plural(total, 'part')}, the first day first.`}
              </p>
              {items.length > 0 && (
                <>
                  <div className="mt-2">
                    <BuyButton
                      lines={asked}
                      onDone={() => {
                        ticks.clear();
                        setChosen(new Map());
                      }}
                    />
                  </div>
                  <table className="dense mt-3">
                    <thead>
                      <tr>
                        <th>
                          <TickBox
                            name="all"
                            checked={buyable.length > 0 && buyable.every((k) => ticks.ticked.has(k))}
                            some={ticks.ticked.size > 0}
                            onTick={() => ticks.toggle(buyable)}
                          />
                        </th>
                        <th>Number</th>
                        <th>Part</th>
                        <th>Why</th>
                        <th>Needed</th>
                        <th>To</th>
                        <th>Of whom</th>
                        <th>How many</th>
                      </tr>
                    </thead>
                    <tbody>
                      {items.map((item) => (
                        <Row
                          key={keyOf(item)}
                          item={item}
                          chosen={chosen}
                          ticked={ticks.ticked.has(keyOf(item))}
                          tick={() => ticks.toggle([keyOf(item)])}
                          choose={(over) =>
                            setChosen((old) => new Map([...old, [keyOf(item), { ...old.get(keyOf(item)), ...over }]]))
                          }
                        />
                      ))}
                    </tbody>
                  </table>
                  <Pager pages={pages} next={next} />
                </>
              )}
            </>
          );
        }}
      </Waiting>
    </article>
  );
}
