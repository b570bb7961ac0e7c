// What runs low: each part with the days to come as a curve, why, and how many to order; ordered in bulk.
import { Link } from 'react-router';
import { buy, lookForLow, type LowOut } from '#api/purchases.ts';
import { sayAmount, sayQuantity } from '#core/stores/index.ts';
import type { Instant } from '#core/time/index.ts';
import { useSubmit, GeneralError } from '../parts/fields.tsx';
import { Pager, usePages } from '../parts/pager.tsx';
import { TickBox, useTicks, type Ticks } from '../parts/table/index.ts';
import { plural, sayDate, sayMoment } from '../parts/words.ts';
import { useReader } from '../shell/reader.tsx';
import { server } from '../shell/store.ts';
import { Waiting } from '../shell/waiting.tsx';
import { BuyButton, type ToOrder } from './buying.tsx';
import { StockCurve } from './curve.tsx';
import { storesApi } from './endpoints.ts';
import { StoresParts } from './sections.tsx';

const keyOf = (i: LowOut): string => `${i.part.id} ${i.store.id}`;
const orderOf = (i: LowOut): ToOrder => ({
  ...{ partId: i.part.id, storeId: i.store.id, supplierId: i.supplier?.id ?? null, thousandths: i.propose, needs: [] },
});

const sayWhy = (i: LowOut): string =>
  [
    `below ${sayQuantity(i.minimum)} on ${sayDate(i.belowOn)}`,
    i.needed > 0 && `work takes ${sayQuantity(i.needed)}`,
    i.coming > 0 && `${sayQuantity(i.coming)} come`,
    i.supplier && `${plural(i.leadDays, 'day')} to deliver`,
  ]
    .filter((x) => x)
    .join(', ');

function LookedAt({ madeAt }: { madeAt: Instant | null }) {
  const reader = useReader();
  const { data: session } = server.useReadSessionQuery();
  const [look, { isLoading }] = storesApi.useLookForLowMutation();
  const { errors, submit } = useSubmit([]);
  return (
    <>
      {madeAt !== null && session && `Looked at ${sayMoment(madeAt, session.now, reader.zone)}. `}
      {reader.may(lookForLow) && (
        <button className="link-ink" disabled={isLoading} onClick={() => void submit(look())}>
          look again
        </button>
      )}
      <GeneralError errors={errors} />
    </>
  );
}

function LowRow({ of: i, ticks }: { of: LowOut; ticks: Ticks<string> | null }) {
  return (
    <tr className="[&>td]:align-middle">
      {ticks && (
        <td>
          <TickBox
            name={`${i.part.number} in ${i.store.name}`}
            checked={ticks.ticked.has(keyOf(i))}
            onTick={() => ticks.toggle([keyOf(i)])}
          />
        </td>
      )}
      <td className="serial whitespace-nowrap">
        <Link className="link-ink" to={`/stores/parts/${i.part.id}`}>
          {i.part.number}
        </Link>
      </td>
      <td>{i.part.name}</td>
      <td>{i.store.name}</td>
      <td className="num">{sayQuantity(i.free)}</td>
      <td>
        <StockCurve from={i.fromDay} curve={i.curve} minimum={i.minimum} />
      </td>
      <td>{sayWhy(i)}</td>
      <td className="num whitespace-nowrap">{sayAmount(i.propose, i.part.unit)}</td>
      <td>{i.supplier?.name ?? <span className="text-missed">✕ nobody sells it</span>}</td>
    </tr>
  );
}

export function LowRoom() {
  const reader = useReader();
  const pages = usePages();
  const { after } = pages;
  const query = storesApi.useReadLowQuery({ query: { ...(after && { after }) } });
  const ticks = useTicks<string>();
  const may = reader.may(buy);
  return (
    <article className="px-7 pt-5 pb-10">
      <h1 className="mb-2">Runs low</h1>
      <StoresParts />
      <Waiting query={query}>
        {({ items, total, madeAt, next }) => (
          <>
            <p className="quiet mt-3">
              {total === 0
                ? 'Nothing runs low that a store keeps between a minimum and a maximum. '
                : `${plural(total, 'part')}, the first day first. `}
              <LookedAt madeAt={madeAt} />
            </p>
            {items.length > 0 && (
              <>
                <div className="mt-2">
                  <BuyButton
                    lines={items.filter((i) => ticks.ticked.has(keyOf(i))).map(orderOf)}
                    onDone={ticks.clear}
                  />
                </div>
                <table className="dense mt-3">
                  <thead>
                    <tr>
                      {may && (
                        <th>
                          <TickBox
                            name="all"
                            checked={items.every((i) => ticks.ticked.has(keyOf(i)))}
                            some={ticks.ticked.size > 0}
                            onTick={() => ticks.toggle(items.filter((i) => i.supplier !== null).map(keyOf))}
                          />
                        </th>
                      )}
                      <th>Number</th>
                      <th>Part</th>
                      <th>Store</th>
                      <th className="num">Free</th>
                      <th>The days to come</th>
                      <th>Why</th>
                      <th className="num">Order</th>
                      <th>Of whom</th>
                    </tr>
                  </thead>
                  <tbody>
                    {items.map((i) => (
                      <LowRow key={keyOf(i)} of={i} ticks={may ? ticks : null} />
                    ))}
                  </tbody>
                </table>
                <Pager pages={pages} next={next} />
              </>
            )}
          </>
        )}
      </Waiting>
    </article>
  );
}
