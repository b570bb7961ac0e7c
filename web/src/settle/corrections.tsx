// Corrections before an order is approved: goodwill, and who pays instead, each with its reason.
import { useState } from 'react';
import { addCorrection, type LookPage } from '#api/billing.ts';
import { sayAmountOf } from '#core/money.ts';
import type { ChargeElement } from '#core/settle/index.ts';
import { ChooseCustomer } from '../customers/index.ts';
import type { Choice } from '../parts/choose.tsx';
import { newRequestKey } from '../parts/fields.tsx';
import { WireLongText, WireMoney, WireNumber, WireSelect } from '../parts/wire-fields.tsx';
import { useWireForm, WireForm } from '../parts/wire-form.tsx';
import { sayMoment } from '../parts/words.ts';
import { Dialog } from '../shell/dialog.tsx';
import { useReader } from '../shell/reader.tsx';
import { server } from '../shell/store.ts';
import { settleApi } from './endpoints.ts';

type Props = { readonly page: LookPage; readonly onClose: () => void };

/** Which charges are meant: all, those of an element, or those of a machine. */
function MeantFields({ page }: { page: LookPage }) {
  const elements = [...new Set(page.charges.map((c) => c.element))];
  const lines = [...new Map(page.charges.map((c) => [c.lineId, c.machine ?? 'the place'] as const))];
  return (
    <div className="grid grid-cols-2 gap-3">
      <WireSelect
        name="element"
        label="Of"
        options={[[null, 'everything'] as const, ...elements.map((e) => [e, e] as const)]}
      />
      {lines.length > 1 && (
        <WireSelect name="lineId" label="At" options={[[null, 'every machine'] as const, ...lines]} />
      )}
    </div>
  );
}

type Goodwill = {
  lineId: number | null;
  element: ChargeElement | null;
  reason: string;
  by: 'percent' | 'amount';
  percent: number;
  minor: number;
};

export function GoodwillDialog({ page, onClose }: Props) {
  const [add] = settleApi.useAddCorrectionMutation();
  const [requestKey] = useState(newRequestKey);
  const bodyOf = ({ by, percent, minor, ...rest }: Goodwill) => ({
    ...{ ...rest, requestKey, payers: [] },
    goodwill: by === 'percent' ? { percent } : { minor },
  });
  const form = useWireForm(
    addCorrection,
    { lineId: null, element: null, reason: '', by: 'percent', percent: 100, minor: 0 } as Goodwill,
    bodyOf,
  );
  const by = form.watch('by');
  return (
    <Dialog title="Goodwill" onClose={onClose}>
      <WireForm
        form={form}
        name="Goodwill"
        save="Give it"
        send={(typed) => add({ params: { id: String(page.orderId) }, body: bodyOf(typed) })}
        onDone={onClose}
        onCancel={onClose}
      >
        <h1>Goodwill</h1>
        <p className="quiet">Taken off what is left to pay. It stands on the invoice, with its reason here.</p>
        <MeantFields page={page} />
        <div className="grid grid-cols-2 gap-3">
          <WireSelect
            name="by"
            label="As"
            options={[
              ['percent', 'a percentage'],
              ['amount', 'an amount'],
            ]}
          />
          {by === 'percent' ? (
            <WireNumber name="percent" label="Percent off" min={1} />
          ) : (
            <WireMoney name="minor" label="Off" currency={page.currency} />
          )}
        </div>
        <WireLongText name="reason" label="Why" />
      </WireForm>
    </Dialog>
  );
}

type Payer = { lineId: number | null; element: ChargeElement | null; reason: string; percent: number };

export function PayerDialog({ page, onClose }: Props) {
  const [add] = settleApi.useAddCorrectionMutation();
  const [payer, setPayer] = useState<Choice | null>(null);
  const [requestKey] = useState(newRequestKey);
  const bodyOf = ({ percent, ...rest }: Payer) => ({
    ...{ ...rest, requestKey, goodwill: null },
    payers: payer ? [{ customerId: payer.id, percent }] : [],
  });
  const form = useWireForm(addCorrection, { lineId: null, element: null, reason: '', percent: 100 } as Payer, bodyOf);
  return (
    <Dialog title="Somebody else pays" onClose={onClose}>
      <WireForm
        form={form}
        name="Somebody else pays"
        save="Let them pay"
        send={(typed) => add({ params: { id: String(page.orderId) }, body: bodyOf(typed) })}
        onDone={onClose}
        onCancel={onClose}
        disabled={payer === null}
      >
        <h1>Somebody else pays</h1>
        <ChooseCustomer label="Who" chosen={payer} onChoose={setPayer} except={[page.customer.id]} />
        <MeantFields page={page} />
        <WireNumber name="percent" label="Their part, percent" min={1} />
        <p className="quiet">The rest stays with {page.customer.name}.</p>
        <WireLongText name="reason" label="Why" />
      </WireForm>
    </Dialog>
  );
}

function sayCorrection(c: LookPage['corrections'][number], currency: string): string {
  const of = c.element === null ? '' : ` of ${c.element}`;
  if (c.kind === 'goodwill')
    return `goodwill ${c.percent === null ? `${currency} ${sayAmountOf(c.minor ?? 0, currency)}` : `${c.percent} %`}${of}`;
  return `${c.payers.map((p) => `${p.customer.name} pays ${p.percent} %`).join(', ')}${of}`;
}

export function Corrections({ page }: { page: LookPage }) {
  const { zone } = useReader();
  const { data: session } = server.useReadSessionQuery();
  const [remove] = settleApi.useRemoveCorrectionMutation();
  if (page.corrections.length === 0) return null;
  return (
    <section className="mt-3" aria-label="Corrections">
      <h3>Corrections</h3>
      <ul>
        {page.corrections.map((c) => (
          <li key={c.id}>
            {sayCorrection(c, page.currency)}: {c.reason}{' '}
            <span className="quiet">
              {c.who}, {sayMoment(c.at, session?.now ?? c.at, zone)}
            </span>{' '}
            {page.state === 'to look at' && (
              <button
                className="link-ink"
                onClick={() => void remove({ params: { id: String(page.orderId), correction: String(c.id) } })}
              >
                take back
              </button>
            )}
          </li>
        ))}
      </ul>
    </section>
  );
}
