// A statement or list of the bank, loaded: what it would bring is said first, payment by payment.
import { useState } from 'react';
import type { BankPreview } from '#api/payments.ts';
import { sayAmountOf } from '#core/money.ts';
import { ChooseFile } from '../parts/choose-file.tsx';
import { GeneralError, newRequestKey, useSubmit } from '../parts/fields.tsx';
import { plural, sayDate } from '../parts/words.ts';
import { Dialog } from '../shell/dialog.tsx';
import { settleApi } from './endpoints.ts';

function Brings({ of }: { of: BankPreview }) {
  const sums = of.sums.map((s) => `${s.currency} ${sayAmountOf(s.minor, s.currency)}`).join(' and ');
  return (
    <div className="border-y border-hairline py-2" aria-live="polite">
      <p>
        <strong>{plural(of.entries, 'new payment')}</strong>
        {sums && `, together ${sums}`}; {of.laid} of them allocated at once to what they name
        {of.known > 0 && `; ${of.known} loaded before`}
        {of.passedOver > 0 && `; ${of.passedOver} are no payments to us`}.
      </p>
      {of.doubts.map((d) => (
        <p key={d} className="font-semibold">
          {d}
        </p>
      ))}
      {of.bad.length > 0 && (
        <ul className="text-missed">
          {of.bad.map((b) => (
            <li key={`${b.line} ${b.column}`}>
              Line {b.line}, {b.column}: {b.message}
            </li>
          ))}
          {of.wrong > of.bad.length && <li>and {of.wrong - of.bad.length} more</li>}
        </ul>
      )}
      {of.shown.length > 0 && (
        <div className="mt-2 max-h-72 overflow-y-auto">
          <table className="dense">
            <thead>
              <tr>
                <th className="text-left">Booked</th>
                <th className="text-left">Paid by</th>
                <th className="text-left">What they wrote</th>
                <th className="num">Amount</th>
                <th className="text-left">What becomes of it</th>
              </tr>
            </thead>
            <tbody>
              {of.shown.map((e, i) => (
                <tr key={`${e.line} ${i}`} className={e.isKnown ? 'quiet' : ''}>
                  <td className="whitespace-nowrap">{sayDate(e.bookedOn)}</td>
                  <td>{e.payer}</td>
                  <td className="max-w-72 truncate" title={e.text}>
                    {e.text}
                  </td>
                  <td className="num whitespace-nowrap">
                    {e.currency} {sayAmountOf(e.minor, e.currency)}
                  </td>
                  <td>{e.isCertain ? `allocated: ${e.because}` : e.isKnown ? e.because : `waits: ${e.because}`}</td>
                </tr>
              ))}
            </tbody>
          </table>
        </div>
      )}
    </div>
  );
}

type Chosen = { readonly name: string; readonly text: string; readonly requestKey: string; readonly of: BankPreview };

export function LoadBank({ onClose }: { onClose: () => void }) {
  const [preview] = settleApi.usePreviewBankMutation();
  const [load, { isLoading }] = settleApi.useLoadBankMutation();
  const { errors, submit } = useSubmit([]);
  const [file, setFile] = useState<Chosen | null>(null);
  const look = async (name: string, text: string): Promise<void> => {
    const of = await submit(preview({ body: { name, text } }));
    if (of) setFile({ name, text, requestKey: newRequestKey(), of });
  };
  const choose = async (chosen: File | undefined): Promise<void> => {
    setFile(null);
    if (chosen) await look(chosen.name, await chosen.text());
  };
  const send = async (): Promise<void> => {
    if (!file) return;
    const { name, text, requestKey, of } = file;
    const body = { requestKey, name, text, seen: of.seen, without: of.wrong };
    if (await submit(load({ body }))) onClose();
  };
  return (
    <Dialog title="Load a file of the bank" onClose={onClose} wide>
      <h1>Load a file of the bank</h1>
      <p className="quiet">
        A statement by ISO 20022 (camt.053), or a CSV with date and amount, and any of payer, iban, text, currency and
        id. What was loaded before comes once.
      </p>
      <ChooseFile accept=".xml,.csv,.txt,text/csv,text/xml,application/xml" onChoose={(file) => void choose(file)} />
      {file && <Brings of={file.of} />}
      <GeneralError errors={errors} />
      <div className="form-acts">
        <button className="act-main" disabled={(file?.of.entries ?? 0) === 0 || isLoading} onClick={() => void send()}>
          {file && file.of.wrong > 0 ? `Load without the ${file.of.wrong} that cannot be read` : 'Load'}
        </button>
        {file && errors.problem && (
          <button className="act" onClick={() => void look(file.name, file.text)}>
            Look again
          </button>
        )}
        <button className="act" onClick={onClose}>
          Cancel
        </button>
      </div>
    </Dialog>
  );
}
