// Renewals: agreements by the date on which notice is due; a new term with its new price is accepted, or the end decided.
import type { Answer } from '#api/contract.ts';
import { type listRenewals, decideRenewal } from '#api/agreements/index.ts';
import { useState } from 'react';
import { Link } from 'react-router';
import { sayAmountOf, timesRatio } from '#core/money.ts';
import type { LocalDate } from '#core/time/index.ts';
import { SelectField } from '../parts/fields.tsx';
import { WireNumber, WireText } from '../parts/wire-fields.tsx';
import { useWireForm, WireForm } from '../parts/wire-form.tsx';
import { Table, type Column } from '../parts/table/index.ts';
import { plural, sayDate } from '../parts/words.ts';
import { Dialog } from '../shell/dialog.tsx';
import { useReader } from '../shell/reader.tsx';
import { agreementsApi } from './endpoints.ts';
import { Waiting } from '../shell/waiting.tsx';

type Row = {
  id: number;
  version: number;
  number: string;
  name: string;
  to: LocalDate;
  months: number;
  currency: string;
  priceMinor: number | null;
};

function Accept({ row, onClose }: { row: Row; onClose: () => void }) {
  const [decide] = agreementsApi.useDecideRenewalMutation();
  const form = useWireForm(decideRenewal, {
    decision: 'accepted',
    version: row.version,
    months: row.months,
    priceChange: 0,
    reason: '',
  });
  const change = form.watch('priceChange');
  const next =
    row.priceMinor === null || Number.isNaN(change)
      ? null
      : timesRatio(row.priceMinor, BigInt(10_000 + change), 10_000n);
  return (
    <Dialog title="Renew" onClose={onClose}>
      <WireForm
        form={form}
        name="Renew"
        save={`Renew for ${plural(form.watch('months') || 0, 'month')}`}
        send={(body) => decide({ params: { id: String(row.id) }, body })}
        onDone={onClose}
        onCancel={onClose}
      >
        <h1>
          Renew {row.number} {row.name}
        </h1>
        <p>The new term begins after {sayDate(row.to)} as a version of its own; what held before stays as it was.</p>
        <div className="grid grid-cols-2 gap-3">
          <WireNumber name="months" label="For, months" min={1} max={120} />
          <WireNumber
            name="priceChange"
            label="Every price changes by, %"
            per={100}
            step="0.01"
            hint={
              next === null
                ? 'Lines with a price of their own change alike.'
                : `${sayAmountOf(row.priceMinor as number, row.currency)} becomes ${row.currency} ${sayAmountOf(next, row.currency)}`
            }
          />
        </div>
        <WireText name="reason" label="Remark" />
      </WireForm>
    </Dialog>
  );
}

function Decline({ row, onClose }: { row: Row; onClose: () => void }) {
  const [decide] = agreementsApi.useDecideRenewalMutation();
  const form = useWireForm(decideRenewal, { decision: 'declined', version: row.version, reason: '' });
  return (
    <Dialog title="Let it end" onClose={onClose}>
      <WireForm
        form={form}
        name="Let it end"
        save={`Let it end on ${sayDate(row.to)}`}
        send={(body) => decide({ params: { id: String(row.id) }, body })}
        onDone={onClose}
        onCancel={onClose}
      >
        <h1>
          Let {row.number} {row.name} end
        </h1>
        <p>It stays in force until {sayDate(row.to)} and ends after that day.</p>
        <WireText name="reason" label="Why" />
      </WireForm>
    </Dialog>
  );
}

type Due = Answer<typeof listRenewals>['items'][number];

const columnsOn = (today: LocalDate): Column<Due>[] => [
  {
    id: 'notice',
    head: 'Notice by',
    value: (r) => r.noticeBy,
    show: (r) => `${r.noticeBy < today ? '✕ ' : ''}${sayDate(r.noticeBy)}`,
    className: (r) => `whitespace-nowrap ${r.noticeBy < today ? 'text-missed' : ''}`,
  },
  {
    id: 'agreement',
    head: 'Agreement',
    value: (r) => `${r.number} ${r.name}`,
    show: (r) => (
      <>
        <Link className="link-ink" to={`/agreements/${r.id}`}>
          <span className="serial">{r.number}</span> {r.name}
        </Link>
        {r.stage === 'suspended' && <span className="quiet block">suspended</span>}
      </>
    ),
  },
  { id: 'customer', head: 'Customer', value: (r) => r.customer.name },
  { id: 'ends', head: 'Ends', value: (r) => r.to, show: (r) => sayDate(r.to), className: 'whitespace-nowrap' },
  { id: 'stands', head: 'Where it stands', value: (r) => r.sentence, className: 'quiet' },
  { id: 'manager', head: 'Manager', value: (r) => r.manager, show: (r) => r.manager ?? 'nobody', className: 'quiet' },
  {
    id: 'price',
    head: 'Price',
    isNumber: true,
    value: (r) => (r.priceMinor === null ? null : r.priceMinor / 100),
    show: (r) => (r.priceMinor === null ? '' : `${r.currency} ${sayAmountOf(r.priceMinor, r.currency)}`),
    className: 'whitespace-nowrap',
  },
];

export function RenewalsPage() {
  const may = useReader().may(decideRenewal);
  const [days, setDays] = useState('90');
  const [floating, setFloating] = useState<{ what: 'accept' | 'decline'; row: Row } | null>(null);
  const query = agreementsApi.useListRenewalsQuery({ query: { days } });
  const decide: Column<Due> = {
    id: 'decide',
    head: '',
    drawnHead: <span className="sr-only">Decide</span>,
    className: 'text-right whitespace-nowrap',
    show: (row) => (
      <>
        <button className="link-ink" onClick={() => setFloating({ what: 'accept', row })}>
          renew
        </button>{' '}
        {row.decision !== 'declined' && (
          <button className="link-ink" onClick={() => setFloating({ what: 'decline', row })}>
            let it end
          </button>
        )}
      </>
    ),
  };
  return (
    <article className="px-7 pt-5 pb-12">
      <p className="quiet">
        <Link className="link-ink" to="/agreements">
          Agreements
        </Link>
      </p>
      <div className="flex items-end gap-4">
        <h1>Renewals</h1>
        <SelectField
          label="Notice is due"
          value={days}
          onChange={setDays}
          options={[
            ['30', 'within 30 days'],
            ['90', 'within 90 days'],
            ['180', 'within half a year'],
            ['366', 'within a year'],
          ]}
          className="w-44"
        />
      </div>
      <Waiting query={query}>
        {({ items, today }) =>
          items.length === 0 ? (
            <p className="mt-3 border-y border-hairline py-4">No agreement has its notice date in that time.</p>
          ) : (
            <Table
              name="renewals"
              caption="Agreements by notice date"
              title={<p className="quiet">{plural(items.length, 'agreement')}, by notice date</p>}
              columns={[...columnsOn(today), ...(may ? [decide] : [])]}
              rows={items}
              idOf={(r) => r.id}
            />
          )
        }
      </Waiting>
      {floating?.what === 'accept' && <Accept row={floating.row} onClose={() => setFloating(null)} />}
      {floating?.what === 'decline' && <Decline row={floating.row} onClose={() => setFloating(null)} />}
    </article>
  );
}
