// One claim to a maker: what is asked and accepted, what speaks for it, what is missing, what was done, and what comes next.
import { useState } from 'react';
import { Link, useParams } from 'react-router';
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
import { orderNumber } from '#api/shapes.ts';
import { sayAmountOf } from '#core/money.ts';
import { sayDate, sayMoment } from '../parts/words.ts';
import { useReader } from '../shell/reader.tsx';
import { server } from '../shell/store.ts';
import { Waiting } from '../shell/waiting.tsx';
import { AnswerDialog, AskDialog, CloseDialog, MakerDialog, ReasonDialog, SendDialog } from './claim-dialogs.tsx';
import { settleApi } from './endpoints.ts';
import { SettleParts } from './sections.tsx';

type Asking = 'ask' | 'maker' | 'send' | 'answer' | 'close' | 'give up' | 'open';
type Open = (what: Asking) => void;

const SAY_STATE: Readonly<Record<ClaimPage['state'], string>> = {
  'to send': 'To be sent',
  sent: 'Waits for their answer',
  answered: 'Answered; what they accepted is still to come',
  closed: 'Closed',
};

function Facts({ page, open }: { page: ClaimPage; open: Open }) {
  const reader = useReader();
  const { mail, days } = page.terms;
  return (
    <>
      <p className="mt-1">
        <span className="font-semibold">{SAY_STATE[page.state]}.</span> For{' '}
        <Link className="link-ink" to={`/settle/orders/${page.order.id}`}>
          <span className="serial">{orderNumber(page.order.id)}</span> {page.order.title}
        </Link>{' '}
        at {page.customer.name}, done {sayDate(page.doneOn)}.
      </p>
      {page.maker !== '' && (
        <p className="quiet">
          {mail === '' ? 'Where their claims go by mail is not known' : `Claims go to ${mail}`}
          {days === null ? '; how long they take them neither' : `, within ${days} days of the work`}
          {page.by && `, here until ${sayDate(page.by)}`}.{' '}
          {reader.may(changeMaker) && (
            <button className="link-ink" onClick={() => open('maker')}>
              Change…
            </button>
          )}
        </p>
      )}
      {page.theirNumber && <p className="quiet">Their number: {page.theirNumber}</p>}
    </>
  );
}

function Lines({ page }: { page: ClaimPage }) {
  const amount = (minor: number | null) => (minor === null ? '' : sayAmountOf(minor, page.currency));
  const isAnswered = page.accepted !== null;
  return (
    <table className="dense mt-3 max-w-4xl">
      <thead>
        <tr>
          <th className="text-left">What</th>
          <th className="text-left">Machine</th>
          <th className="num">The warranty bears</th>
          <th className="num">Asked, {page.currency}</th>
          {isAnswered && <th className="num">Accepted</th>}
        </tr>
      </thead>
      <tbody>
        {page.lines.map((l, i) => (
          <tr key={l.chargeId} className="align-top">
            <td>
              {l.element}
              {l.text && `, ${l.text}`}
              {l.why && <span className="quiet block">{l.why}</span>}
            </td>
            <td>
              {l.machine && l.machine.id !== page.lines[i - 1]?.machine?.id && (
                <Link className="link-ink" to={`/assets/${l.machine.id}`}>
                  {l.machine.model} <span className="serial">{l.machine.tag}</span>
                  {l.machine.serial && <span className="quiet block">serial {l.machine.serial}</span>}
                </Link>
              )}
            </td>
            <td className="num">{amount(l.borne)}</td>
            <td className="num">{amount(l.asked)}</td>
            {isAnswered && <td className="num">{amount(l.accepted)}</td>}
          </tr>
        ))}
      </tbody>
      <tfoot>
        <tr className="border-t border-base-content font-semibold">
          <td colSpan={3}>Together, without tax</td>
          <td className="num">{amount(page.asked)}</td>
          {isAnswered && <td className="num">{amount(page.accepted)}</td>}
        </tr>
      </tfoot>
    </table>
  );
}

function Evidence({ page }: { page: ClaimPage }) {
  const link = (f: { id: number; name: string }) => (
    <a key={f.id} className="link-ink mr-3" href={`/api/files/${f.id}/content`} target="_blank" rel="noreferrer">
      {f.name}
    </a>
  );
  return (
    <section aria-label="What speaks for it" className="mt-5 max-w-4xl">
      <h2>What speaks for it</h2>
      {page.because.map((b) => (
        <p key={b}>{b}</p>
      ))}
      {page.reports.length > 0 && <p>Papers: {page.reports.map(link)}</p>}
      {page.photos.length > 0 && <p>Photos: {page.photos.map(link)}</p>}
      {page.gaps.length > 0 && (
        <p>
          <span className="font-semibold">Missing:</span> {page.gaps.join('; ')}.
        </p>
      )}
      <p className="mt-1">
        <a className="link-ink" href={`/api/settle/claims/${page.id}/file`} target="_blank" rel="noreferrer">
          {page.hasPaper ? 'The paper as it was sent, as PDF' : 'How it will look, as PDF'}
        </a>
      </p>
    </section>
  );
}

/** What may be done with it now, the likely next first. */
function Acts({ page, open }: { page: ClaimPage; open: Open }) {
  const reader = useReader();
  const all: readonly (readonly [Asking, string, boolean])[] = [
    ['send', 'Send it…', page.state === 'to send' && reader.may(sendClaim)],
    ['answer', 'What they answer…', page.state === 'sent' && reader.may(answerClaim)],
    ['close', 'What came in…', page.state === 'answered' && reader.may(closeClaim)],
    ['ask', 'Ask for less…', page.state === 'to send' && reader.may(changeClaim)],
    ['answer', 'They answer otherwise…', page.state === 'answered' && reader.may(answerClaim)],
    ['send', 'Send it again…', page.state === 'answered' && reader.may(sendClaim)],
    ['give up', 'Give it up…', (page.state === 'to send' || page.state === 'sent') && reader.may(giveClaimUp)],
    ['open', 'Open it again…', page.state === 'closed' && reader.may(openClaimAgain)],
  ];
  const shown = all.filter(([, , may]) => may);
  return (
    <div className="mt-4 flex flex-wrap gap-2">
      {shown.map(([what, word], i) => (
        <button key={word} className={i === 0 && what !== 'open' ? 'act-main' : 'act'} onClick={() => open(what)}>
          {word}
        </button>
      ))}
    </div>
  );
}

function Steps({ page }: { page: ClaimPage }) {
  const { zone } = useReader();
  const { data: session } = server.useReadSessionQuery();
  if (page.steps.length === 0) return null;
  return (
    <section aria-label="What was done" className="mt-5 max-w-4xl">
      <h2>What was done</h2>
      <ul>
        {page.steps.map((s) => (
          <li key={s.at} className="flex gap-3 border-t border-hairline py-1">
            <span className="w-32 font-semibold">{s.what}</span>
            <span className="flex-1">{s.text}</span>
            <span className="quiet">
              {s.who}, {sayMoment(s.at, session?.now ?? s.at, zone)}
            </span>
          </li>
        ))}
      </ul>
    </section>
  );
}

function Page({ page }: { page: ClaimPage }) {
  const [asking, setAsking] = useState<Asking | null>(null);
  const on = { page, onClose: () => setAsking(null) };
  return (
    <article aria-label={claimNumber(page.id)}>
      <h1 className="mt-3">
        {claimNumber(page.id)} to {page.maker || 'a maker who is not named'}
      </h1>
      <Facts page={page} open={setAsking} />
      <Lines page={page} />
      <Acts page={page} open={setAsking} />
      <Evidence page={page} />
      <Steps page={page} />
      {asking === 'ask' && <AskDialog {...on} />}
      {asking === 'maker' && <MakerDialog {...on} />}
      {asking === 'send' && <SendDialog {...on} />}
      {asking === 'answer' && <AnswerDialog {...on} />}
      {asking === 'close' && <CloseDialog {...on} />}
      {(asking === 'give up' || asking === 'open') && <ReasonDialog {...on} what={asking} />}
    </article>
  );
}

export function OneClaim({ id }: { id: string }) {
  const query = settleApi.useReadClaimQuery({ params: { id } });
  return (
    <div className="flex-1 overflow-y-auto px-7 pt-5 pb-10">
      <SettleParts />
      <Waiting query={query}>{(page) => <Page key={page.id} page={page} />}</Waiting>
    </div>
  );
}

export function ClaimRoom() {
  const { id = '' } = useParams();
  return <OneClaim id={id} />;
}
