// Claims to makers: those to send first, the one whose time runs out soonest at the top; who owes how much, and what was answered.
import { Link, useNavigate, useSearchParams } from 'react-router';
import { claimNumber, type ClaimList, type ClaimRow } from '#api/claims.ts';
import { orderNumber } from '#api/shapes.ts';
import { sayAmountOf } from '#core/money.ts';
import { CLAIM_STATES, type ClaimState } from '#core/settle/index.ts';
import { localDateAt, type LocalDate } from '#core/time/index.ts';
import { Pager, usePages } from '../parts/pager.tsx';
import { Table, type Column } from '../parts/table/index.ts';
import { Which } from '../parts/which.tsx';
import { sayDate } from '../parts/words.ts';
import { useReader } from '../shell/reader.tsx';
import { server } from '../shell/store.ts';
import { Waiting } from '../shell/waiting.tsx';
import { settleApi } from './endpoints.ts';
import { SettleParts } from './sections.tsx';

const wordsOf = (counts: ClaimList['counts'] | undefined): Readonly<Record<ClaimState, string>> => {
  const many = (n: number | undefined): string => (n === undefined ? '' : `: ${n >= 1000 ? '1,000 or more' : n}`);
  return {
    'to send': `To send${many(counts?.['to send'])}`,
    sent: `Wait for an answer${many(counts?.sent)}`,
    answered: `Answered, to be paid${many(counts?.answered)}`,
    closed: 'Closed',
  };
};

const columns = (today: LocalDate | null): Column<ClaimRow>[] => [
  {
    id: 'number',
    head: 'Claim',
    width: 88,
    value: (row) => row.id,
    show: (row) => (
      <Link className="serial link-ink" to={`/settle/claims/${row.id}`}>
        {claimNumber(row.id)}
      </Link>
    ),
  },
  {
    id: 'maker',
    head: 'Maker',
    value: (row) => row.maker,
    show: (row) =>
      row.maker === '' ? (
        'none is named'
      ) : (
        <Link className="link-ink" to={`/settle/claims?${new URLSearchParams({ state: row.state, maker: row.maker })}`}>
          {row.maker}
        </Link>
      ),
  },
  {
    id: 'order',
    head: 'Work',
    value: (row) => row.order.id,
    show: (row) => (
      <>
        <span className="serial">{orderNumber(row.order.id)}</span> {row.order.title}
      </>
    ),
  },
  { id: 'customer', head: 'Customer', value: (row) => row.customer.name },
  {
    id: 'done',
    head: 'Done',
    value: (row) => row.doneOn,
    show: (row) => sayDate(row.doneOn),
    className: 'whitespace-nowrap',
  },
  {
    id: 'by',
    head: 'They take it until',
    value: (row) => row.by,
    className: 'whitespace-nowrap',
    show: (row) =>
      row.by === null ? (
        ''
      ) : today !== null && row.state === 'to send' && row.by < today ? (
        <span className="text-missed">✕ {sayDate(row.by)}</span>
      ) : (
        sayDate(row.by)
      ),
  },
  {
    id: 'asked',
    head: 'Asked',
    isNumber: true,
    value: (row) => row.asked,
    show: (row) => `${row.currency} ${sayAmountOf(row.asked, row.currency)}`,
  },
  {
    id: 'accepted',
    head: 'Accepted',
    isNumber: true,
    value: (row) => row.accepted,
    show: (row) => (row.accepted === null ? '' : sayAmountOf(row.accepted, row.currency)),
  },
];

function Sums({ sums }: Pick<ClaimList, 'sums'>) {
  if (sums.length === 0) return null;
  return (
    <p className="quiet pb-2">
      {sums.map((s) => (
        <span key={s.currency} className="mr-4">
          Together {s.currency} {sayAmountOf(s.asked, s.currency)} asked
          {s.accepted > 0 && `, ${sayAmountOf(s.accepted, s.currency)} accepted`}.
        </span>
      ))}
    </p>
  );
}

const NOTHING: Readonly<Record<ClaimState, string>> = {
  'to send':
    'Nothing is to be claimed. A claim is drawn up as soon as an order is approved of which a warranty bears something.',
  sent: 'No claim waits for an answer.',
  answered: 'No answer waits to be paid.',
  closed: 'No claim was closed yet.',
};

export function ClaimsRoom() {
  const navigate = useNavigate();
  const reader = useReader();
  const { data: session } = server.useReadSessionQuery();
  const pages = usePages();
  const [params, setParams] = useSearchParams();
  const state = CLAIM_STATES.find((s) => s === params.get('state')) ?? 'to send';
  const maker = params.get('maker') ?? '';
  const { after } = pages;
  const query = settleApi.useListClaimsQuery({
    query: { state, ...(maker !== '' && { maker }), ...(after && { after }) },
  });
  const ask = (next: { state?: ClaimState; maker?: string }): void => {
    pages.begin();
    const all = { state, maker, ...next };
    setParams({ state: all.state, ...(all.maker !== '' && { maker: all.maker }) });
  };
  const today = session ? localDateAt(reader.zone, session.now) : null;
  return (
    <div className="flex-1 overflow-y-auto px-7 pt-5 pb-10">
      <h1 className="mb-2">Claims to makers</h1>
      <SettleParts />
      <Which
        of={CLAIM_STATES}
        chosen={state}
        wordOf={(s) => wordsOf(query.data?.counts)[s]}
        onChoose={(s) => ask({ state: s })}
      />
      {maker !== '' && (
        <button className="link-ink pb-2" onClick={() => ask({ maker: '' })}>
          Of {maker} only: lift it
        </button>
      )}
      <Waiting query={query}>
        {({ items, next, sums }) =>
          items.length === 0 ? (
            <p className="quiet border-y border-hairline py-4">{NOTHING[state]}</p>
          ) : (
            <>
              <Sums sums={sums} />
              <Table
                name="claims"
                caption="Claims to makers"
                rows={items}
                columns={columns(today)}
                idOf={(row) => row.id}
                onOpen={(row) => void navigate(`/settle/claims/${row.id}`)}
              />
              <Pager pages={pages} next={next} words={['Before', 'After']} />
            </>
          )
        }
      </Waiting>
    </div>
  );
}
