// Payments that came in: those that wait to be allocated first; typed, or loaded from a file of the bank.
import { useState } from 'react';
import { Link, useNavigate, useSearchParams } from 'react-router';
import { loadBank, typePayment, type PaymentRow } from '#api/payments.ts';
import { sayAmountOf } from '#core/money.ts';
import type { Part } from '#core/settle/index.ts';
import { localDateAt } from '#core/time/index.ts';
import { ChooseCustomer, useCustomerChoice } from '../customers/index.ts';
import type { Choice } from '../parts/choose.tsx';
import { newRequestKey } from '../parts/fields.tsx';
import { Pager, usePages, type Pages } from '../parts/pager.tsx';
import { Table, type Column } from '../parts/table/index.ts';
import { WireDate, WireMoney, WireText } from '../parts/wire-fields.tsx';
import { useWireForm, WireForm } from '../parts/wire-form.tsx';
import { sayDate } from '../parts/words.ts';
import { Dialog } from '../shell/dialog.tsx';
import { useReader } from '../shell/reader.tsx';
import { server } from '../shell/store.ts';
import { Waiting } from '../shell/waiting.tsx';
import { LoadBank } from './bank-file.tsx';
import { settleApi } from './endpoints.ts';
import { LayOn } from './lay-on.tsx';
import { SettleParts } from './sections.tsx';

const CURRENCY = 'EUR';

type Typed = { minor: number | null; bookedOn: string; text: string };

type TypeProps = { readonly of?: Choice | undefined; readonly onClose: () => void };

function TypeForm({ of, onClose, today }: TypeProps & { readonly today: string }) {
  const [type] = settleApi.useTypePaymentMutation();
  const [requestKey] = useState(newRequestKey);
  const [customer, setCustomer] = useState<Choice | null>(of ?? null);
  const [parts, setParts] = useState<Part[]>([]);
  const bodyOf = (typed: Typed) => ({
    ...{ requestKey, customerId: customer?.id ?? 0, currency: CURRENCY, parts },
    ...{ ...typed, minor: typed.minor ?? NaN },
  });
  const form = useWireForm(typePayment, { minor: null, bookedOn: today, text: '' } as Typed, bodyOf);
  const left = form.watch('minor') ?? 0;
  return (
    <WireForm
      form={form}
      name="Type a payment"
      save="Keep it"
      send={(typed) => type({ body: bodyOf(typed) })}
      onDone={onClose}
      onCancel={onClose}
      disabled={customer === null}
    >
      <h1>A payment that came in</h1>
      <div className="grid grid-cols-3 items-start gap-3">
        <ChooseCustomer
          label="From"
          chosen={customer}
          onChoose={(c) => {
            setCustomer(c);
            setParts([]);
          }}
        />
        <WireMoney name="minor" label="Amount" currency={CURRENCY} />
        <WireDate name="bookedOn" label="Booked on" />
      </div>
      <WireText name="text" label="What they wrote" />
      <h2 className="mt-3">What it pays</h2>
      {customer === null ? (
        <p className="quiet">Say from whom it is; then what they have open stands here.</p>
      ) : (
        <LayOn customerId={customer.id} currency={CURRENCY} left={left} parts={parts} onChange={setParts} />
      )}
      <p className="quiet mt-1">What is not allocated stays in their favour, and can be allocated later.</p>
    </WireForm>
  );
}

export function TypeDialog({ of, onClose }: TypeProps) {
  const reader = useReader();
  const { data: session } = server.useReadSessionQuery();
  return (
    <Dialog title="Type a payment" onClose={onClose} wide>
      {session && <TypeForm of={of} onClose={onClose} today={localDateAt(reader.zone, session.now)} />}
    </Dialog>
  );
}

const STATES: Readonly<Record<PaymentRow['state'], string>> = {
  open: 'waits to be allocated',
  laid: 'allocated',
  aside: 'set aside',
};

const COLUMNS: Column<PaymentRow>[] = [
  {
    id: 'booked',
    head: 'Booked',
    value: (row) => row.bookedOn,
    show: (row) => (
      <Link className="link-ink whitespace-nowrap" to={`/settle/payments/${row.id}`}>
        {sayDate(row.bookedOn)}
      </Link>
    ),
  },
  { id: 'customer', head: 'Customer', value: (row) => row.customer?.name ?? '' },
  { id: 'payer', head: 'Paid by', value: (row) => row.payer },
  { id: 'text', head: 'What they wrote', value: (row) => row.text },
  { id: 'state', head: 'Stage', value: (row) => STATES[row.state] },
  {
    id: 'amount',
    head: 'Amount',
    isNumber: true,
    value: (row) => row.minor,
    show: (row) => `${row.currency} ${sayAmountOf(row.minor, row.currency)}`,
  },
  {
    id: 'left',
    head: 'Left',
    isNumber: true,
    value: (row) => row.left,
    show: (row) => (row.left === 0 ? '' : sayAmountOf(row.left, row.currency)),
  },
];

function List({
  page: { items, next },
  pages,
  isFiltered,
  showAll,
}: {
  page: { readonly items: PaymentRow[]; readonly next: string | null };
  pages: Pages;
  isFiltered: boolean;
  showAll: () => void;
}) {
  const navigate = useNavigate();
  if (items.length === 0)
    return (
      <p className="quiet border-y border-hairline py-4">
        {isFiltered ? (
          <>
            No payment fits these filters.{' '}
            <button className="link-ink" onClick={showAll}>
              Show all
            </button>
          </>
        ) : (
          'No payment came in yet. Type one, or load a statement of the bank.'
        )}
      </p>
    );
  return (
    <>
      <Table
        name="payments"
        caption="Payments"
        rows={items}
        columns={COLUMNS}
        idOf={(row) => row.id}
        onOpen={(row) => void navigate(`/settle/payments/${row.id}`)}
      />
      <Pager pages={pages} next={next} words={['Newer', 'Older']} />
    </>
  );
}

const FILTERS = ['state', 'customer'] as const;
type Held = { state?: PaymentRow['state']; customer?: string };

export function PaymentsRoom() {
  const reader = useReader();
  const pages = usePages();
  const [params, setParams] = useSearchParams();
  const [asking, setAsking] = useState<'type' | 'load' | null>(null);
  const held = Object.fromEntries(FILTERS.flatMap((f) => (params.get(f) ? [[f, params.get(f)]] : []))) as Held;
  const customer = useCustomerChoice(held.customer ?? '');
  const { after } = pages;
  const query = settleApi.useListIncomingQuery({ query: { ...held, ...(after && { after }) } });
  const set = (name: keyof Held, value: string): void => {
    pages.begin();
    const { [name]: _, ...rest } = held;
    setParams(value === '' ? rest : { ...rest, [name]: value });
  };
  const close = (): void => setAsking(null);
  return (
    <div className="flex-1 overflow-y-auto px-7 pt-5 pb-10">
      <h1 className="mb-2">Payments</h1>
      <SettleParts />
      <div className="flex flex-wrap items-end gap-3 py-3">
        <select
          aria-label="Stage"
          className="box-select w-48"
          value={held.state ?? ''}
          onChange={(e) => set('state', e.target.value)}
        >
          <option value="">every payment</option>
          <option value="open">that wait to be allocated</option>
          <option value="laid">allocated</option>
          <option value="aside">set aside</option>
        </select>
        <ChooseCustomer
          label="Customer"
          chosen={customer}
          onChoose={(c) => set('customer', c ? String(c.id) : '')}
          none="every customer"
          className="w-64"
        />
        {reader.may(typePayment) && (
          <button className="act" onClick={() => setAsking('type')}>
            Type a payment…
          </button>
        )}
        {reader.may(loadBank) && (
          <button className="act" onClick={() => setAsking('load')}>
            Load a file of the bank…
          </button>
        )}
      </div>
      <Waiting query={query}>
        {(page) => (
          <List page={page} pages={pages} isFiltered={Object.keys(held).length > 0} showAll={() => setParams({})} />
        )}
      </Waiting>
      {asking === 'type' && <TypeDialog onClose={close} />}
      {asking === 'load' && <LoadBank onClose={close} />}
    </div>
  );
}
