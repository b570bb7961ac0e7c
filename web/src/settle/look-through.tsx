// Finished orders that wait to be billed: the odd ones to be looked at, the plain ones to be approved at one go.
import { useState } from 'react';
import { Link, useNavigate, useParams, useSearchParams } from 'react-router';
import type { listLooks } from '#api/billing.ts';
import { approveOrders, changeSettleSettings, type Look } from '#api/billing.ts';
import { orderNumber } from '#api/shapes.ts';
import type { Answer } from '#api/contract.ts';
import type { OrderId } from '#core/ids.ts';
import { sayAmountOf } from '#core/money.ts';
import { Pager, usePages } from '../parts/pager.tsx';
import { ErrorLine } from '../parts/problem.tsx';
import { Table, useTicks, type Column } from '../parts/table/index.ts';
import { Which } from '../parts/which.tsx';
import { plural, sayDate } from '../parts/words.ts';
import { Dialog } from '../shell/dialog.tsx';
import { useReader } from '../shell/reader.tsx';
import { Waiting } from '../shell/waiting.tsx';
import { settleApi } from './endpoints.ts';
import { LookRecord } from './look-record.tsx';
import { SettleParts } from './sections.tsx';
import { SAY_ODD } from './words.ts';

const SHOWS = ['odd', 'plain', 'second', 'approved', 'settled'] as const;
type Show = (typeof SHOWS)[number];
type Looks = Answer<typeof listLooks>;

const queryOf = (show: Show) =>
  show === 'odd' || show === 'plain' ? { state: 'to look at' as const, only: show } : { state: show };

const saidCount = (n: number): string => (n >= 1000 ? '1,000 or more' : String(n));
const WORDS = (counts: Looks['counts']): Readonly<Record<Show, string>> => ({
  odd: `Odd: ${saidCount(counts.odd)}`,
  plain: `Plain: ${saidCount(counts.plain)}`,
  second: `Wait for a second person: ${saidCount(counts.second)}`,
  approved: `Approved, to be billed: ${saidCount(counts.approved)}`,
  settled: 'Settled',
});

const columnsOf = (show: Show): Column<Look>[] => [
  {
    id: 'number',
    head: 'Order',
    width: 104,
    value: (row) => row.orderId,
    show: (row) => (
      <Link className="serial link-ink" to={`/settle/orders/${row.orderId}?show=${show}`}>
        {orderNumber(row.orderId)}
      </Link>
    ),
  },
  { id: 'customer', head: 'Customer', value: (row) => row.customer.name },
  { id: 'title', head: 'What', value: (row) => row.title },
  {
    id: 'done',
    head: 'Done',
    value: (row) => row.doneOn,
    show: (row) => sayDate(row.doneOn),
    className: 'whitespace-nowrap',
  },
  {
    id: 'odd',
    head: 'Odd',
    value: (row) => row.odd.map((o) => SAY_ODD[o][0]).join(', '),
  },
  {
    id: 'list',
    head: 'List',
    isNumber: true,
    value: (row) => row.list,
    show: (row) => sayAmountOf(row.list, row.currency),
  },
  {
    id: 'pay',
    head: 'To pay',
    isNumber: true,
    value: (row) => row.pay,
    show: (row) => sayAmountOf(row.pay, row.currency),
  },
];
const BESIDE = ['number', 'customer', 'odd', 'pay'];

/** What will be approved, before it is; what was left of it, after. */
function ApproveDialog({ looks, onClose }: { looks: readonly Look[]; onClose: (done: boolean) => void }) {
  const [approve, { data, error, isLoading }] = settleApi.useApproveOrdersMutation();
  const sums = new Map<string, number>();
  for (const l of looks) sums.set(l.currency, (sums.get(l.currency) ?? 0) + l.pay);
  const odd = looks.filter((l) => l.odd.length > 0).length;
  return (
    <Dialog title="Approve" onClose={() => onClose(data !== undefined)}>
      <h1>Approve {plural(looks.length, 'order')}</h1>
      <p>
        {[...sums].map(([currency, minor]) => `${currency} ${sayAmountOf(minor, currency)}`).join(' and ')} to pay,
        without tax{odd > 0 && `; ${odd} of them odd`}. Each is approved as it stands here; what changed since is left.
      </p>
      {data && (
        <div role="status" className="mt-2">
          <p>{plural(data.approved, 'order')} approved.</p>
          <ul>
            {data.left.map((l) => (
              <li key={l.orderId}>
                <span className="serial">{orderNumber(l.orderId as OrderId)}</span>: {l.reason}
              </li>
            ))}
          </ul>
        </div>
      )}
      <ErrorLine error={error} />
      <div className="mt-4 flex gap-2">
        {data ? (
          <button className="act-main" onClick={() => onClose(true)}>
            Close
          </button>
        ) : (
          <>
            <button
              className="act-main"
              disabled={isLoading}
              onClick={() =>
                void approve({ body: { orders: looks.map((l) => ({ id: l.orderId, digest: l.digest })) } })
              }
            >
              Approve {looks.length}
            </button>
            <button className="act" onClick={() => onClose(false)}>
              Cancel
            </button>
          </>
        )}
      </div>
    </Dialog>
  );
}

const NOTHING: Readonly<Record<Show, string>> = {
  odd: 'No finished order is odd. Plain ones are approved at one go.',
  plain: 'No plain order waits to be approved.',
  second: 'Nothing waits for a second person.',
  approved: 'Nothing approved waits to be billed.',
  settled: 'Nothing is settled yet.',
};

function NotBilling() {
  const reader = useReader();
  return (
    <p className="border-y border-hairline py-4">
      Nothing is billed here yet.{' '}
      {reader.may(changeSettleSettings) ? (
        <Link className="link-ink" to="/setup/billing">
          Say from which day, and in whose name
        </Link>
      ) : (
        'A manager says in Setup from which day, and in whose name.'
      )}
    </p>
  );
}

function List({ looks, show, chosen }: { looks: Looks; show: Show; chosen: string | undefined }) {
  const navigate = useNavigate();
  const reader = useReader();
  const ticks = useTicks();
  const [approving, setApproving] = useState<readonly Look[] | null>(null);
  const mayApprove = reader.may(approveOrders) && (show === 'odd' || show === 'plain');
  const ticked = looks.items.filter((i) => ticks.ticked.has(i.orderId));
  const first = ticked.length > 0 ? ticked : looks.items;
  // What is plain has nothing odd to say.
  const all = columnsOf(show).filter((c) => show !== 'plain' || c.id !== 'odd');
  return (
    <>
      {mayApprove && looks.items.length > 0 && (
        <p className="flex items-center gap-3 py-2">
          {(show === 'plain' || ticked.length > 0) && (
            <button className="act-main" onClick={() => setApproving(first)}>
              Approve {ticked.length > 0 ? `${ticked.length} ticked` : `these ${looks.items.length}`}…
            </button>
          )}
          <span className="quiet">
            {show === 'odd'
              ? 'Open one to see why; tick what may be approved all the same.'
              : 'Nothing speaks against these.'}
          </span>
        </p>
      )}
      {looks.items.length === 0 ? (
        <p className="quiet border-y border-hairline py-4">{NOTHING[show]}</p>
      ) : (
        <Table
          name="finished-orders"
          caption="Finished orders"
          rows={looks.items}
          columns={chosen === undefined ? all : all.filter((c) => BESIDE.includes(c.id))}
          idOf={(row) => row.orderId}
          rowClass={(row) => (String(row.orderId) === chosen ? 'font-semibold' : '')}
          ticks={
            mayApprove
              ? { of: ticks, idsOf: (row) => [row.orderId], nameOf: (row) => orderNumber(row.orderId) }
              : undefined
          }
          onOpen={(row) => void navigate(`/settle/orders/${row.orderId}?show=${show}`)}
        />
      )}
      {approving && (
        <ApproveDialog
          looks={approving}
          onClose={(isDone) => {
            setApproving(null);
            if (isDone) ticks.clear();
          }}
        />
      )}
    </>
  );
}

export function LookThrough() {
  const { id } = useParams();
  const pages = usePages();
  const [params, setParams] = useSearchParams();
  const show = SHOWS.find((s) => s === params.get('show')) ?? 'odd';
  const customer = params.get('customer');
  const { after } = pages;
  const query = settleApi.useListLooksQuery({
    query: { ...queryOf(show), ...(customer && { customer }), ...(after && { after }) },
  });
  return (
    <div className="flex min-h-full flex-1">
      <section className={`overflow-y-auto px-7 pt-5 pb-10 ${id === undefined ? 'flex-1' : 'w-[44%] shrink-0'}`}>
        <h1 className="mb-2">Settle</h1>
        <SettleParts />
        <Waiting query={query}>
          {(looks) =>
            looks.billsFrom === null ? (
              <div className="mt-3">
                <NotBilling />
              </div>
            ) : (
              <>
                <Which
                  of={SHOWS}
                  chosen={show}
                  wordOf={(s) => WORDS(looks.counts)[s]}
                  onChoose={(s) => {
                    pages.begin();
                    setParams(s === 'odd' ? {} : { show: s });
                  }}
                />
                <List key={show} looks={looks} show={show} chosen={id} />
                <Pager pages={pages} next={looks.next} words={['Earlier', 'Later']} />
              </>
            )
          }
        </Waiting>
      </section>
      {id !== undefined && (
        <div className="flex-1 overflow-y-auto border-l border-hairline">
          <LookRecord id={id} />
        </div>
      )}
    </div>
  );
}
