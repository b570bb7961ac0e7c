// Invoices and credit notes: drafts to be issued, and what was issued.
import { Link, useNavigate, useSearchParams } from 'react-router';
import type { DocumentRow, listDocuments } from '#api/documents.ts';
import type { Sent } from '#api/contract.ts';
import { DOCUMENT_KINDS } from '#core/settle/index.ts';
import { sayAmountOf } from '#core/money.ts';
import { ChooseCustomer, useCustomerChoice } from '../customers/index.ts';
import { Pager, usePages } from '../parts/pager.tsx';
import { Table, type Column } from '../parts/table/index.ts';
import { sayDate } from '../parts/words.ts';
import { Waiting } from '../shell/waiting.tsx';
import { settleApi } from './endpoints.ts';
import { SettleParts } from './sections.tsx';

const signed = (row: DocumentRow, minor: number): number => (row.kind === 'invoice' ? minor : -minor);

const COLUMNS: Column<DocumentRow>[] = [
  {
    id: 'number',
    head: 'Number',
    width: 112,
    value: (row) => row.number ?? '',
    show: (row) => (
      <Link className="serial link-ink" to={`/settle/documents/${row.id}`}>
        {row.number ?? 'draft'}
      </Link>
    ),
  },
  { id: 'kind', head: 'Kind', value: (row) => row.kind },
  { id: 'customer', head: 'Customer', value: (row) => row.customer.name },
  { id: 'about', head: 'About', value: (row) => row.about },
  {
    id: 'issued',
    head: 'Issued',
    value: (row) => row.issuedOn,
    show: (row) => (row.issuedOn ? sayDate(row.issuedOn) : ''),
    className: 'whitespace-nowrap',
  },
  {
    id: 'due',
    head: 'To be paid by',
    value: (row) => (row.kind === 'invoice' ? row.dueOn : null),
    show: (row) => (row.kind === 'invoice' && row.dueOn ? sayDate(row.dueOn) : ''),
    className: 'whitespace-nowrap',
  },
  {
    id: 'without',
    head: 'Without tax',
    isNumber: true,
    value: (row) => signed(row, row.withoutTax),
    show: (row) => sayAmountOf(signed(row, row.withoutTax), row.currency),
  },
  {
    id: 'with',
    head: 'With tax',
    isNumber: true,
    value: (row) => signed(row, row.withTax),
    show: (row) => `${row.currency} ${sayAmountOf(signed(row, row.withTax), row.currency)}`,
  },
  {
    id: 'credited',
    head: 'Credited',
    isNumber: true,
    value: (row) => (row.credited === 0 ? null : row.credited),
    show: (row) => (row.credited === 0 ? '' : sayAmountOf(row.credited, row.currency)),
  },
];

/** The filters as they stand in the address. */
const FILTERS = ['state', 'kind', 'customer', 'run', 'number'] as const;

type Held = NonNullable<Sent<typeof listDocuments>['query']>;

function Filters({ held, set }: { held: Held; set: (name: (typeof FILTERS)[number], value: string) => void }) {
  const customer = useCustomerChoice(held.customer ?? '');
  return (
    <div className="flex flex-wrap items-end gap-3 py-3">
      <input
        aria-label="Number"
        placeholder="Number"
        className="box-field w-32"
        defaultValue={held.number ?? ''}
        onChange={(e) => set('number', e.target.value.trim())}
      />
      <select
        aria-label="Stage"
        className="box-select w-40"
        value={held.state ?? ''}
        onChange={(e) => set('state', e.target.value)}
      >
        <option value="">drafts and issued</option>
        <option value="draft">drafts</option>
        <option value="issued">issued</option>
      </select>
      <select
        aria-label="Kind"
        className="box-select w-60"
        value={held.kind ?? ''}
        onChange={(e) => set('kind', e.target.value)}
      >
        <option value="">invoices and credit notes</option>
        {DOCUMENT_KINDS.map((k) => (
          <option key={k} value={k}>
            {k}s
          </option>
        ))}
      </select>
      <ChooseCustomer
        label="Customer"
        chosen={customer}
        onChoose={(c) => set('customer', c ? String(c.id) : '')}
        none="every customer"
        className="w-64"
      />
      {held.run && (
        <button className="act" onClick={() => set('run', '')}>
          of one run only: lift it
        </button>
      )}
    </div>
  );
}

export function DocumentsRoom() {
  const navigate = useNavigate();
  const pages = usePages();
  const [params, setParams] = useSearchParams();
  const held = Object.fromEntries(
    FILTERS.flatMap((f) => (params.get(f) ? [[f, params.get(f) as string]] : [])),
  ) as Held;
  const { after } = pages;
  const query = settleApi.useListDocumentsQuery({ query: { ...held, ...(after && { after }) } });
  const set = (name: (typeof FILTERS)[number], value: string): void => {
    pages.begin();
    const { [name]: _, ...rest } = held;
    setParams(value === '' ? rest : { ...rest, [name]: value });
  };
  return (
    <div className="flex-1 overflow-y-auto px-7 pt-5 pb-10">
      <h1 className="mb-2">Documents</h1>
      <SettleParts />
      <Filters held={held} set={set} />
      <Waiting query={query}>
        {({ items, next }) =>
          items.length === 0 ? (
            <p className="quiet border-y border-hairline py-4">
              {Object.keys(held).length > 0 ? (
                <>
                  No document fits these filters.{' '}
                  <button className="link-ink" onClick={() => setParams({})}>
                    Show all
                  </button>
                </>
              ) : (
                <>
                  No document yet. What is approved is billed under{' '}
                  <Link className="link-ink" to="/settle/bill">
                    Bill
                  </Link>
                  .
                </>
              )}
            </p>
          ) : (
            <>
              <Table
                name="documents"
                caption="Documents"
                rows={items}
                columns={COLUMNS}
                idOf={(row) => row.id}
                onOpen={(row) => void navigate(`/settle/documents/${row.id}`)}
              />
              <Pager pages={pages} next={next} words={['Newer', 'Older']} />
            </>
          )
        }
      </Waiting>
    </div>
  );
}
