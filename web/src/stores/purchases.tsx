// Purchase orders: those that are open, with what each comes to and when it is here.
import { Link, useSearchParams } from 'react-router';
import { purchaseNumber, type PurchaseRow } from '#api/purchases.ts';
import { seesMoney } from '#core/people.ts';
import { Pager, usePages } from '../parts/pager.tsx';
import { plural, sayDate, sayMoment } from '../parts/words.ts';
import { useReader } from '../shell/reader.tsx';
import { server } from '../shell/store.ts';
import { Waiting } from '../shell/waiting.tsx';
import { amountOf } from './counted.tsx';
import { storesApi } from './endpoints.ts';
import { StoresParts } from './sections.tsx';

/** What is to be done next, or what came of it. */
function sayStanding({ stage, needsApproval, late, promisedOn }: PurchaseRow): string {
  if (stage === 'draft') return needsApproval ? 'draft, to be approved' : 'draft, to be sent';
  if (stage !== 'sent') return stage;
  if (promisedOn === null) return 'sent';
  return late ? `▲ late: promised for ${sayDate(promisedOn)}` : `sent, here on ${sayDate(promisedOn)}`;
}

export function PurchasesRoom() {
  const reader = useReader();
  const { data: session } = server.useReadSessionQuery();
  const [params, setParams] = useSearchParams();
  const show = params.get('show') === 'all' ? 'all' : 'open';
  const pages = usePages();
  const { after } = pages;
  const query = storesApi.useListPurchasesQuery({ query: { show, ...(after && { after }) } });
  const isMoneySeen = seesMoney(reader.role);
  return (
    <article className="px-7 pt-5 pb-10">
      <h1 className="mb-2">Purchase orders</h1>
      <StoresParts />
      <label className="mt-3 flex items-center gap-2">
        <input
          type="checkbox"
          className="box-tick"
          checked={show === 'all'}
          onChange={(e) => {
            pages.begin();
            setParams(e.target.checked ? { show: 'all' } : {}, { replace: true });
          }}
        />
        With those that are over
      </label>
      <Waiting query={query}>
        {({ items, next }) =>
          items.length === 0 ? (
            <p className="quiet mt-3">
              {show === 'open' ? 'No purchase order is open. ' : 'Nothing was bought yet. '}
              <Link className="link-ink" to="/stores/buy">
                What is to be bought
              </Link>
            </p>
          ) : (
            <>
              <table className="dense mt-3">
                <thead>
                  <tr>
                    <th>Number</th>
                    <th>Supplier</th>
                    <th>To</th>
                    <th>Stands</th>
                    <th className="num">Parts</th>
                    {isMoneySeen && <th className="num">EUR</th>}
                    <th>Made</th>
                  </tr>
                </thead>
                <tbody>
                  {items.map((p) => (
                    <tr key={p.id}>
                      <td className="serial">
                        <Link className="link-ink" to={`/stores/purchases/${p.id}`}>
                          {purchaseNumber(p.id)}
                        </Link>
                      </td>
                      <td>{p.supplier.name}</td>
                      <td>{p.store.name}</td>
                      <td className={p.late ? 'text-short' : undefined}>{sayStanding(p)}</td>
                      <td className="num">{plural(p.lines, 'part')}</td>
                      {isMoneySeen && <td className="num">{amountOf(p.total)}</td>}
                      <td className="quiet whitespace-nowrap">
                        {session && sayMoment(p.createdAt, session.now, reader.zone)}
                      </td>
                    </tr>
                  ))}
                </tbody>
              </table>
              <Pager pages={pages} next={next} words={['Newer', 'Older']} />
            </>
          )
        }
      </Waiting>
    </article>
  );
}
