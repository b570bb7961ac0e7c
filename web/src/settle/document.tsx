// One invoice or credit note: its lines with what is off and why, its taxes, its paper and file, and what may be done with it.
import { useState } from 'react';
import { Link, useNavigate, useParams } from 'react-router';
import { creditDocument, discardDocument, issueDocument, type DocumentPage } from '#api/documents.ts';
import { sayAmountOf } from '#core/money.ts';
import { sayQuantity } from '#core/stores/index.ts';
import { newRequestKey } from '../parts/fields.tsx';
import { MoneyField } from '../parts/money-field.tsx';
import { ErrorLine } from '../parts/problem.tsx';
import { WireLongText, WireTick } from '../parts/wire-fields.tsx';
import { useWireForm, WireForm } from '../parts/wire-form.tsx';
import { sayDate } from '../parts/words.ts';
import { Dialog } from '../shell/dialog.tsx';
import { useReader } from '../shell/reader.tsx';
import { Waiting } from '../shell/waiting.tsx';
import { settleApi } from './endpoints.ts';
import { Paid } from './paid.tsx';
import { SettleParts } from './sections.tsx';

type Line = DocumentPage['lines'][number];
const UNITS: Readonly<Record<string, string>> = { MIN: 'min', LTR: 'l', MTR: 'm', KGM: 'kg', KMT: 'km' };

function LineRow({ line, page, first }: { line: Line; page: DocumentPage; first: boolean }) {
  const amount = (minor: number) => sayAmountOf(minor, page.currency);
  const group = line.order ?? line.agreement;
  return (
    <>
      {first && group && (
        <tr>
          <td colSpan={5} className="pt-2 font-semibold">
            <Link
              className="link-ink"
              to={line.orderId === null ? `/agreements/${line.agreementId}` : `/settle/orders/${line.orderId}`}
            >
              {group}
            </Link>
          </td>
        </tr>
      )}
      <tr className="align-top">
        <td>
          {line.text}
          {line.off !== 0 && <span className="quiet block">{line.offBecause}</span>}
        </td>
        <td className="num whitespace-nowrap">
          {sayQuantity(line.quantity)} {UNITS[line.unit] ?? ''}
        </td>
        <td className="num">{amount(line.list)}</td>
        <td className="num">{line.off === 0 ? '' : amount(-line.off)}</td>
        <td className="num">
          {amount(line.net)}
          {line.credited !== 0 && <span className="quiet block">credited {amount(line.credited)}</span>}
        </td>
      </tr>
    </>
  );
}

function Lines({ page }: { page: DocumentPage }) {
  const amount = (minor: number) => sayAmountOf(minor, page.currency);
  const groupOf = (line: Line | undefined) => line?.order ?? line?.agreement ?? null;
  return (
    <table className="dense mt-3 max-w-4xl">
      <thead>
        <tr>
          <th className="text-left">What</th>
          <th className="num">Quantity</th>
          <th className="num">List</th>
          <th className="num">Off</th>
          <th className="num">{page.currency}</th>
        </tr>
      </thead>
      <tbody>
        {page.lines.map((line, i) => (
          <LineRow key={line.id} line={line} page={page} first={groupOf(line) !== groupOf(page.lines[i - 1])} />
        ))}
      </tbody>
      <tfoot>
        <tr className="border-t border-base-content">
          <td colSpan={4}>Without tax</td>
          <td className="num">{amount(page.withoutTax)}</td>
        </tr>
        {page.taxes.map((t) => (
          <tr key={`${t.category} ${t.hundredths}`}>
            <td colSpan={4}>
              Tax {t.category}, {t.hundredths / 100} % of {amount(t.taxable)}
            </td>
            <td className="num">{amount(t.tax)}</td>
          </tr>
        ))}
        <tr className="font-semibold">
          <td colSpan={4}>With tax</td>
          <td className="num">{amount(page.withTax)}</td>
        </tr>
        {page.paid > 0 && (
          <>
            <tr>
              <td colSpan={4}>Paid on site by card</td>
              <td className="num">{amount(-page.paid)}</td>
            </tr>
            <tr className="font-semibold">
              <td colSpan={4}>Left to pay</td>
              <td className="num">{amount(page.left)}</td>
            </tr>
          </>
        )}
      </tfoot>
    </table>
  );
}

type Props = { readonly page: DocumentPage; readonly onClose: () => void };

function CreditDialog({ page, onClose }: Props) {
  const navigate = useNavigate();
  const [credit] = settleApi.useCreditDocumentMutation();
  const [requestKey] = useState(newRequestKey);
  const leftOf = (line: Line): number => line.net - line.credited;
  const creditable = page.lines.filter((line) => leftOf(line) !== 0);
  const [amounts, setAmounts] = useState(() => new Map(creditable.map((line) => [line.id, leftOf(line)])));
  type Typed = { reason: string; again: boolean };
  const bodyOf = (typed: Typed) => ({
    ...{ ...typed, requestKey },
    lines: creditable.flatMap((line) => {
      const minor = amounts.get(line.id) ?? 0;
      return minor === 0 ? [] : [{ lineId: line.id, minor }];
    }),
  });
  const form = useWireForm(creditDocument, { reason: '', again: false } as Typed, bodyOf);
  const sum = [...amounts.values()].reduce((total, minor) => total + minor, 0);
  return (
    <Dialog title="Write a credit note" onClose={onClose} wide>
      <WireForm
        form={form}
        name="Write a credit note"
        save={`Issue the credit note over ${page.currency} ${sayAmountOf(sum, page.currency)} without tax`}
        send={(typed) => credit({ params: { id: String(page.id) }, body: bodyOf(typed) })}
        onDone={(made) => {
          onClose();
          void navigate(`/settle/documents/${made.id}`);
        }}
        onCancel={onClose}
        disabled={sum === 0}
      >
        <h1>Credit {page.number}</h1>
        <p className="quiet">In full unless you write less. The invoice itself never changes.</p>
        <ul className="max-h-72 overflow-y-auto">
          {creditable.map((line) => (
            <li key={line.id} className="flex items-end gap-3 border-t border-hairline py-1">
              <span className="flex-1">{line.text}</span>
              <span className="quiet whitespace-nowrap">of {sayAmountOf(leftOf(line), page.currency)}</span>
              <MoneyField
                label={`Credit of ${line.text}`}
                currency={page.currency}
                value={amounts.get(line.id) ?? 0}
                onChange={(minor) => setAmounts(new Map(amounts).set(line.id, minor ?? 0))}
              />
            </li>
          ))}
        </ul>
        <WireLongText name="reason" label="Why" />
        <WireTick name="again" label="It is to be billed again: to somebody else, or otherwise" className="" />
      </WireForm>
    </Dialog>
  );
}

function DraftActs({ page }: { page: DocumentPage }) {
  const navigate = useNavigate();
  const reader = useReader();
  const [issue, issuing] = settleApi.useIssueDocumentMutation();
  const [discard, discarding] = settleApi.useDiscardDocumentMutation();
  const ask = { params: { id: String(page.id) }, body: { version: page.version } };
  const giveUp = async (): Promise<void> => {
    const gone = await discard(ask);
    if (!gone.error) void navigate('/settle/documents?state=draft');
  };
  return (
    <>
      <div className="mt-4 flex gap-2">
        {reader.may(issueDocument) && (
          <button className="act-main" disabled={issuing.isLoading} onClick={() => void issue(ask)}>
            Issue it, with its number
          </button>
        )}
        {reader.may(discardDocument) && (
          <button className="act" onClick={() => void giveUp()}>
            Give the draft up
          </button>
        )}
      </div>
      <p className="quiet mt-1">Given up, what is on it waits to be billed again.</p>
      <ErrorLine error={issuing.error ?? discarding.error} />
    </>
  );
}

function Facts({ page }: { page: DocumentPage }) {
  return (
    <p className="quiet">
      <Link className="link-ink" to={`/settle/documents?customer=${page.customer.id}`}>
        {page.customer.name}
      </Link>
      , {page.about}
      {page.issuedOn && `, issued ${sayDate(page.issuedOn)}`}
      {page.kind === 'invoice' && page.dueOn && `, to be paid by ${sayDate(page.dueOn)}`}
      {page.reference && `, their number ${page.reference}`}
      {page.of && (
        <>
          , credits{' '}
          <Link className="serial link-ink" to={`/settle/documents/${page.of.id}`}>
            {page.of.number}
          </Link>
        </>
      )}
      {page.reason && `: ${page.reason}`}
    </p>
  );
}

function Page({ page }: { page: DocumentPage }) {
  const reader = useReader();
  const [isCrediting, setCrediting] = useState(false);
  const file = (as: string) => `/api/settle/documents/${page.id}/file?as=${as}`;
  const isIssued = page.state === 'issued';
  const mayCredit = isIssued && page.kind === 'invoice' && page.credited < page.withTax && reader.may(creditDocument);
  return (
    <article aria-label={page.number ?? 'Draft'}>
      <h1 className="mt-3">
        {page.kind === 'invoice' ? 'Invoice' : 'Credit note'} {page.number ?? '(draft)'}
      </h1>
      <Facts page={page} />
      <Lines page={page} />
      {page.notes.length > 0 && (
        <p className="mt-2">
          Credited by{' '}
          {page.notes.map((n, i) => (
            <span key={n.id}>
              {i > 0 && ', '}
              <Link className="serial link-ink" to={`/settle/documents/${n.id}`}>
                {n.number}
              </Link>{' '}
              over {page.currency} {sayAmountOf(n.withTax, page.currency)}
            </span>
          ))}
          .
        </p>
      )}
      <p className="mt-4 flex gap-4">
        <a className="link-ink" href={file('pdf')} target="_blank" rel="noreferrer">
          {isIssued ? 'The paper, as PDF' : 'How it will look, as PDF'}
        </a>
        {isIssued && (
          <a className="link-ink" href={file('ubl')}>
            As a file (UBL 2.1)
          </a>
        )}
      </p>
      {!isIssued && <DraftActs page={page} />}
      {mayCredit && (
        <button className="act mt-4" onClick={() => setCrediting(true)}>
          Credit it…
        </button>
      )}
      {isIssued && <Paid page={page} />}
      {isCrediting && <CreditDialog page={page} onClose={() => setCrediting(false)} />}
    </article>
  );
}

export function OneDocument({ id }: { id: string }) {
  const query = settleApi.useReadDocumentQuery({ params: { id } });
  return (
    <div className="flex-1 overflow-y-auto px-7 pt-5 pb-10">
      <SettleParts />
      <Waiting query={query}>{(page) => <Page key={page.id} page={page} />}</Waiting>
    </div>
  );
}

export function DocumentRoom() {
  const { id = '' } = useParams();
  return <OneDocument id={id} />;
}
