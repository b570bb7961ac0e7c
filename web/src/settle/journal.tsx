// The journal: what was booked on each account in a month, the month as a file for the accounts, and the closing of months.
import { useState } from 'react';
import { useSearchParams } from 'react-router';
import { closeJournal, nameAccounts, type JournalPage } from '#api/journal.ts';
import { sayAmountOf } from '#core/money.ts';
import { ACCOUNTS } from '#core/settle/index.ts';
import { ErrorLine } from '../parts/problem.tsx';
import { WireText } from '../parts/wire-fields.tsx';
import { useWireForm, WireForm } from '../parts/wire-form.tsx';
import { plural, sayDate } from '../parts/words.ts';
import { Dialog } from '../shell/dialog.tsx';
import { useReader } from '../shell/reader.tsx';
import { Waiting } from '../shell/waiting.tsx';
import { settleApi } from './endpoints.ts';
import { SettleParts } from './sections.tsx';

const shown = (minor: number, currency: string): string => (minor === 0 ? '' : sayAmountOf(minor, currency));

function Accounts({ page }: { page: JournalPage }) {
  const sums = new Map<string, { debit: number; credit: number }>();
  for (const a of page.accounts) {
    const own = sums.get(a.currency) ?? { debit: 0, credit: 0 };
    sums.set(a.currency, { debit: own.debit + a.debit, credit: own.credit + a.credit });
  }
  return (
    <table className="dense mt-3 max-w-4xl">
      <thead>
        <tr>
          <th className="text-left">Account</th>
          <th className="text-left">In the books</th>
          <th className="text-left">Of</th>
          <th className="num">Debit</th>
          <th className="num">Credit</th>
        </tr>
      </thead>
      <tbody>
        {page.accounts.map((a) => (
          <tr key={`${a.currency} ${a.account} ${a.centre}`}>
            <td>{a.account}</td>
            <td className="serial">{a.code}</td>
            <td>{a.centre}</td>
            <td className="num">{shown(a.debit, a.currency)}</td>
            <td className="num">{shown(a.credit, a.currency)}</td>
          </tr>
        ))}
      </tbody>
      <tfoot>
        {[...sums].map(([currency, { debit, credit }]) => (
          <tr key={currency} className="border-t border-base-content font-semibold">
            <td colSpan={3}>
              {plural(page.entries, 'entry', 'entries')}, together in {currency}
            </td>
            <td className="num">{sayAmountOf(debit, currency)}</td>
            <td className="num">{sayAmountOf(credit, currency)}</td>
          </tr>
        ))}
      </tfoot>
    </table>
  );
}

function AccountsDialog({ page, onClose }: { page: JournalPage; onClose: () => void }) {
  const [name] = settleApi.useNameAccountsMutation();
  const form = useWireForm(nameAccounts, { version: page.version, codes: { ...page.codes } });
  return (
    <Dialog title="Accounts" onClose={onClose} wide>
      <WireForm
        form={form}
        name="Accounts"
        save="Keep them"
        send={(body, seen) => name({ body: { ...body, version: seen ?? page.version } })}
        onDone={onClose}
        onCancel={onClose}
      >
        <h1>What the accounts are called in the books</h1>
        <div className="grid grid-cols-3 gap-x-4 gap-y-3">
          {ACCOUNTS.map((a) => (
            <WireText key={a} name={`codes.${a}`} label={a} />
          ))}
        </div>
      </WireForm>
    </Dialog>
  );
}

function Close({ next }: { next: NonNullable<JournalPage['next']> }) {
  const reader = useReader();
  const [close, closing] = settleApi.useCloseJournalMutation();
  if (!reader.may(closeJournal)) return null;
  return (
    <>
      <button
        className="act"
        disabled={next.whyNot !== null || closing.isLoading}
        title={next.whyNot ?? undefined}
        onClick={() => void close({ body: { month: next.month } })}
      >
        Close {next.month}
      </button>
      {next.whyNot !== null && <span className="quiet">{next.whyNot}</span>}
      <ErrorLine error={closing.error} />
    </>
  );
}

function Page({ page, choose }: { page: JournalPage; choose: (month: string) => void }) {
  const reader = useReader();
  const [isNaming, setNaming] = useState(false);
  if (page.month === '') return <p className="quiet border-y border-hairline py-4">Nothing was billed or paid yet.</p>;
  return (
    <>
      <div className="flex flex-wrap items-center gap-3 py-3">
        <select
          aria-label="Month"
          className="box-select w-44"
          value={page.month}
          onChange={(e) => choose(e.target.value)}
        >
          {page.months.map((m) => (
            <option key={m.month} value={m.month}>
              {m.month}
              {m.isClosed && ', closed'}
            </option>
          ))}
        </select>
        <a className="link-ink" href={`/api/settle/journal.csv?month=${page.month}`}>
          As a file for the accounts (CSV)
        </a>
        {reader.may(nameAccounts) && (
          <button className="act" onClick={() => setNaming(true)}>
            Accounts…
          </button>
        )}
        {page.next && <Close next={page.next} />}
      </div>
      <p className="quiet">
        {page.closedTo === null
          ? 'No month is closed yet.'
          : `Closed to ${sayDate(page.closedTo)}: nothing changes there any more; what comes late is told after it.`}
      </p>
      {page.accounts.length === 0 ? (
        <p className="quiet mt-3 border-y border-hairline py-4">Nothing was booked in {page.month}.</p>
      ) : (
        <Accounts page={page} />
      )}
      {isNaming && <AccountsDialog page={page} onClose={() => setNaming(false)} />}
    </>
  );
}

export function JournalRoom() {
  const [params, setParams] = useSearchParams();
  const month = params.get('month');
  const query = settleApi.useReadJournalQuery({ query: month === null ? {} : { month } });
  return (
    <div className="flex-1 overflow-y-auto px-7 pt-5 pb-10">
      <h1 className="mb-2">Journal</h1>
      <SettleParts />
      <Waiting query={query}>{(page) => <Page page={page} choose={(m) => setParams({ month: m })} />}</Waiting>
    </div>
  );
}
