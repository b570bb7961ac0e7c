// What is done with a claim: what is asked, where claims go, sending it, what they answer, what came in, letting it be.
import {
  answerClaim,
  changeClaim,
  changeMaker,
  claimNumber,
  closeClaim,
  giveClaimUp,
  openClaimAgain,
  sendClaim,
  type ClaimPage,
} from '#api/claims.ts';
import { sayAmountOf } from '#core/money.ts';
import type { ClaimWay } from '#core/settle/index.ts';
import { WireLongText, WireMoney, WireNumber, WireSelect, WireText } from '../parts/wire-fields.tsx';
import { useWireForm, WireForm } from '../parts/wire-form.tsx';
import { sayDate } from '../parts/words.ts';
import { Dialog } from '../shell/dialog.tsx';
import { settleApi } from './endpoints.ts';

type Props = { readonly page: ClaimPage; readonly onClose: () => void };
type Line = ClaimPage['lines'][number];
const paramsOf = ({ id }: ClaimPage) => ({ id: String(id) });
export const sayLine = ({ element, text, machine }: Line): string =>
  [element, text, machine?.tag].filter(Boolean).join(', ');
const amountOf = ({ currency }: ClaimPage, minor: number): string => `${currency} ${sayAmountOf(minor, currency)}`;

export function AskDialog({ page, onClose }: Props) {
  const [change] = settleApi.useChangeClaimMutation();
  type Typed = { maker: string; lines: { minor: number | null }[] };
  const bodyOf = ({ maker, lines }: Typed) => ({
    ...{ version: page.version, maker },
    lines: page.lines.map((l, i) => ({ chargeId: l.chargeId, minor: lines[i]?.minor ?? 0 })),
  });
  const form = useWireForm(
    changeClaim,
    { maker: page.maker, lines: page.lines.map((l) => ({ minor: l.asked })) } as Typed,
    bodyOf,
  );
  return (
    <Dialog title="What is asked for" onClose={onClose} wide>
      <WireForm
        form={form}
        name="What is asked for"
        save="Keep it"
        send={(typed) => change({ params: paramsOf(page), body: bodyOf(typed) })}
        onDone={onClose}
        onCancel={onClose}
      >
        <h1>What is asked for, and of whom</h1>
        <WireText name="maker" label="Maker" />
        {page.lines.map((line, i) => (
          <div
            key={line.chargeId}
            className="grid grid-cols-[1fr_12rem] items-center gap-3 border-t border-hairline py-1"
          >
            <span>
              {sayLine(line)} <span className="quiet">borne {amountOf(page, line.borne)}</span>
            </span>
            <WireMoney name={`lines.${i}.minor`} label={`Asked for ${sayLine(line)}`} currency={page.currency} />
          </div>
        ))}
      </WireForm>
    </Dialog>
  );
}

export function MakerDialog({ page, onClose }: Props) {
  const [change] = settleApi.useChangeMakerMutation();
  const form = useWireForm(changeMaker, { name: page.maker, ...page.terms });
  return (
    <Dialog title="Claims to them" onClose={onClose}>
      <WireForm
        form={form}
        name="Claims to them"
        save="Keep it"
        send={(body) => change({ body })}
        onDone={onClose}
        onCancel={onClose}
      >
        <h1>Claims to {page.maker}</h1>
        <p className="quiet">It holds for every claim to them.</p>
        <WireText name="mail" label="Go to" hint="A mail address; empty where they have a page of their own for it." />
        <WireNumber name="days" label="They take them for, days after the work" empty={null} hint="Empty: not known." />
      </WireForm>
    </Dialog>
  );
}

export function SendDialog({ page, onClose }: Props) {
  const [send] = settleApi.useSendClaimMutation();
  const form = useWireForm(sendClaim, {
    ...{ version: page.version, text: '' },
    way: page.terms.mail === '' ? 'otherwise' : 'mail',
  });
  const byMail = form.watch('way') === 'mail';
  return (
    <Dialog title="Send it" onClose={onClose}>
      <WireForm
        form={form}
        name="Send it"
        save={byMail ? `Send ${claimNumber(page.id)} by mail` : 'It was handed in'}
        send={(body) => send({ params: paramsOf(page), body })}
        onDone={onClose}
        onCancel={onClose}
      >
        <h1>
          {claimNumber(page.id)} over {amountOf(page, page.asked)} to {page.maker}
        </h1>
        {page.gaps.length > 0 && <p>Missing: {page.gaps.join('; ')}. It may be sent all the same.</p>}
        <WireSelect
          name="way"
          label="How"
          options={[
            [
              'mail',
              page.terms.mail === '' ? 'by mail: their address is not known yet' : `by mail to ${page.terms.mail}`,
            ],
            ['otherwise', 'otherwise, such as on a page of theirs'],
          ]}
        />
        <WireLongText
          name="text"
          label={byMail ? 'What else to say' : 'Where, and under what number'}
          hint={byMail ? 'It stands in the mail; the paper with photos and parts is attached.' : ''}
        />
      </WireForm>
    </Dialog>
  );
}

export function AnswerDialog({ page, onClose }: Props) {
  const [answer] = settleApi.useAnswerClaimMutation();
  type Typed = { theirNumber: string; lines: { minor: number | null; why: string }[] };
  const bodyOf = ({ theirNumber, lines }: Typed) => ({
    ...{ version: page.version, theirNumber },
    lines: page.lines.map((l, i) => ({
      chargeId: l.chargeId,
      minor: lines[i]?.minor ?? 0,
      why: lines[i]?.why ?? '',
    })),
  });
  const form = useWireForm(
    answerClaim,
    {
      theirNumber: page.theirNumber,
      lines: page.lines.map((l) => ({ minor: l.accepted ?? l.asked, why: l.why })),
    } as Typed,
    bodyOf,
  );
  return (
    <Dialog title="What they answer" onClose={onClose} wide>
      <WireForm
        form={form}
        name="What they answer"
        save="Keep their answer"
        send={(typed) => answer({ params: paramsOf(page), body: bodyOf(typed) })}
        onDone={onClose}
        onCancel={onClose}
      >
        <h1>What {page.maker} accepts</h1>
        <WireText name="theirNumber" label="Their number for it" />
        {page.lines.map((line, i) => (
          <div
            key={line.chargeId}
            className="grid grid-cols-[1fr_11rem_14rem] items-start gap-3 border-t border-hairline py-1"
          >
            <span className="pt-5">
              {sayLine(line)} <span className="quiet">asked {amountOf(page, line.asked)}</span>
            </span>
            <WireMoney name={`lines.${i}.minor`} label="Accepted" currency={page.currency} />
            <WireText name={`lines.${i}.why`} label="Why less" hint="Where they accept less." />
          </div>
        ))}
      </WireForm>
    </Dialog>
  );
}

export function CloseDialog({ page, onClose }: Props) {
  const [close] = settleApi.useCloseClaimMutation();
  type Typed = {
    way: ClaimWay;
    minor: number | null;
    because: string;
    theirNumber: string;
    incomingId: number | null;
  };
  const bodyOf = (typed: Typed) => ({
    ...{ ...typed, version: page.version, minor: typed.minor ?? NaN },
    incomingId: typed.way === 'payment' ? (typed.incomingId as never) : null,
  });
  const form = useWireForm(
    closeClaim,
    {
      ...{ way: 'credit note', minor: page.accepted, because: '', theirNumber: page.theirNumber },
      incomingId: page.payments.find((p) => p.left === page.accepted)?.id ?? null,
    } as Typed,
    bodyOf,
  );
  const way = form.watch('way');
  return (
    <Dialog title="What came in" onClose={onClose}>
      <WireForm
        form={form}
        name="What came in"
        save="Close the claim"
        send={(typed) => close({ params: paramsOf(page), body: bodyOf(typed) })}
        onDone={onClose}
        onCancel={onClose}
      >
        <h1>What came in of {amountOf(page, page.accepted ?? 0)}</h1>
        <WireSelect
          name="way"
          label="By"
          options={[
            ['credit note', 'a credit note of theirs'],
            ['payment', 'a payment that came in'],
          ]}
        />
        {way === 'credit note' ? (
          <WireText name="theirNumber" label="Number of their credit note" />
        ) : page.payments.length === 0 ? (
          <p>No payment waits that could be theirs. It is typed or loaded under Payments first.</p>
        ) : (
          <WireSelect
            name="incomingId"
            label="Which"
            hint="Payments that wait and are no customer’s, theirs and those of this very amount first."
            options={[
              [null, 'choose one'],
              ...page.payments.map(
                (p) =>
                  [
                    p.id,
                    `${sayDate(p.bookedOn)}, ${amountOf(page, p.left)}, ${p.payer || p.text || 'no payer named'}`,
                  ] as const,
              ),
            ]}
          />
        )}
        <WireMoney name="minor" label="Came in" currency={page.currency} />
        <WireLongText name="because" label="Why the rest is let be" hint="Where less came in than they accepted." />
      </WireForm>
    </Dialog>
  );
}

type ReasonProps = Props & { readonly what: 'give up' | 'open' };
export function ReasonDialog({ page, onClose, what }: ReasonProps) {
  const [giveUp] = settleApi.useGiveClaimUpMutation();
  const [open] = settleApi.useOpenClaimAgainMutation();
  const isOpening = what === 'open';
  const form = useWireForm(isOpening ? openClaimAgain : giveClaimUp, { version: page.version, because: '' });
  const title = isOpening ? 'Open it again' : 'Give it up';
  return (
    <Dialog title={title} onClose={onClose}>
      <WireForm
        form={form}
        name={title}
        save={title}
        send={(body) => (isOpening ? open : giveUp)({ params: paramsOf(page), body })}
        onDone={onClose}
        onCancel={onClose}
      >
        <h1>
          {isOpening ? `Open ${claimNumber(page.id)} again` : `Ask ${page.maker || 'nobody'} for nothing any more`}
        </h1>
        {isOpening && <p className="quiet">What its closing booked is booked back; a payment is left again.</p>}
        <WireLongText name="because" label="Why" />
      </WireForm>
    </Dialog>
  );
}
