// An agreement: header, what still keeps it from being in force, and its parts: coverage, upkeep, rights and price, versions.
import { useState } from 'react';
import { Link, useParams, useSearchParams } from 'react-router';
import { seesMoney } from '#core/people.ts';
import { agreementPdf, changeAgreement, type AgreementPage as Page } from '#api/agreements/index.ts';
import { readReview } from '#api/review.ts';
import { localDateAt } from '#core/time/index.ts';
import { Tabs } from '../parts/tabs.tsx';
import { plural, sayDate } from '../parts/words.ts';
import { useReader } from '../shell/reader.tsx';
import { agreementsApi } from './endpoints.ts';
import { Waiting } from '../shell/waiting.tsx';
import { Files } from '../files/index.ts';
import { Amend } from './amend.tsx';
import { EditAdministration } from './administration.tsx';
import { Checklist } from './checklist.tsx';
import { Coverage } from './coverage.tsx';
import type { ApplyChange } from './coverage-form.tsx';
import { EditHeader } from './header-form.tsx';
import { Matrix } from './matrix.tsx';
import { Price } from './price.tsx';
import { Rights } from './rights.tsx';
import { Schedules } from './schedules.tsx';
import { MOVES, MoveStage, saySuspended, type Move } from './stage-moves.tsx';
import { Versions } from './versions.tsx';

const PARTS = [
  ['coverage', 'Coverage'],
  ['upkeep', 'Upkeep'],
  ['price', 'Rights and price'],
  ['versions', 'Versions and files'],
] as const;
type Part = (typeof PARTS)[number][0];

/** The parts a reader is shown: prices and agreement documents are for whoever works at a desk. */
const partsFor = (money: boolean) => (money ? PARTS : PARTS.filter(([key]) => key === 'coverage' || key === 'upkeep'));

function Facts({ agreement }: { agreement: Page }) {
  const facts = [
    agreement.renewal,
    agreement.manager ? `Looked after by ${agreement.manager.name}.` : '',
    agreement.costCentre ? `Cost centre ${agreement.costCentre}.` : '',
    agreement.signOff ? 'The customer signs for work under it.' : '',
    agreement.contacts.length > 0
      ? `Contacts: ${agreement.contacts.map((c) => [c.name, c.phone].filter((x) => x).join(' ')).join(', ')}.`
      : '',
  ];
  return <p className="quiet mt-1">{facts.filter((f) => f !== '').join(' ')}</p>;
}

function History({ agreement }: { agreement: Page }) {
  const reader = useReader();
  return (
    <section className="mt-6">
      <h2>History</h2>
      <table className="dense mt-1">
        <tbody>
          {agreement.events.map((e, i) => (
            <tr key={i}>
              <td className="quiet w-40">{sayDate(localDateAt(reader.zone, e.at))}</td>
              <td>{e.text}</td>
              <td className="quiet">{e.who ?? ''}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </section>
  );
}

/** Changes of a draft are written at once. */
function useDraftChanges(id: string): ApplyChange {
  const [change] = agreementsApi.useChangeLinesMutation();
  return (one) => change({ params: { id }, body: { changes: [one] } });
}

/** What an amendment will change, each from its day; until then the head says what holds. */
function Coming({ head }: { head: Page['head'] }) {
  if (head.coming.length === 0) return null;
  return (
    <ul className="mt-2 border-y border-hairline py-1.5">
      {head.coming.map(({ from, changes }) => (
        <li key={from}>
          <span className="font-semibold">From {sayDate(from)}:</span>{' '}
          {changes.length === 0
            ? 'other terms of its coverage, the same machines and price'
            : changes.map((c) => `${c.name} ${c.before} → ${c.after}`).join('; ')}
        </li>
      ))}
    </ul>
  );
}

function Acts({
  agreement,
  amending,
  amend,
  float,
}: {
  agreement: Page;
  amending: boolean;
  amend: () => void;
  float: (what: 'header' | 'administration' | Move) => void;
}) {
  const { stage, id } = agreement;
  const reader = useReader();
  const mayWrite = reader.may(changeAgreement);
  const moves: readonly Move[] =
    stage === 'in force' ? ['suspended', 'ended'] : stage === 'suspended' ? ['in force', 'ended'] : [];
  return (
    <span className="ml-auto flex flex-wrap gap-2">
      {reader.may(agreementPdf) && (
        <a className="act" href={`/api/agreements/${id}/agreement.pdf`} target="_blank" rel="noreferrer">
          Print
        </a>
      )}
      {stage !== 'draft' && reader.may(readReview) && (
        <Link className="act" to={`/standing/review/${id}`}>
          Review
        </Link>
      )}
      {mayWrite && stage === 'draft' && (
        <button className="act" onClick={() => float('header')}>
          Change the header…
        </button>
      )}
      {mayWrite && (stage === 'in force' || stage === 'suspended') && !amending && (
        <>
          <button className="act" onClick={() => float('administration')}>
            Who looks after it…
          </button>
          <button className="act" onClick={amend}>
            Amend…
          </button>
        </>
      )}
      {mayWrite &&
        moves.map((m) => (
          <button key={m} className="act" onClick={() => float(m)}>
            {MOVES[m]}…
          </button>
        ))}
    </span>
  );
}

function Chosen({ agreement, part, showOn }: { agreement: Page; part: Part; showOn: (on: string | null) => void }) {
  const mayWrite = useReader().may(changeAgreement);
  const mayChange = mayWrite && agreement.stage === 'draft';
  const apply = useDraftChanges(String(agreement.id));
  switch (part) {
    case 'coverage':
      return (
        <>
          <Coverage agreement={agreement} apply={mayChange ? apply : null} />
          <Matrix key={agreement.on} agreement={agreement} apply={mayChange ? apply : null} />
        </>
      );
    case 'upkeep':
      return <Schedules agreement={agreement} mayAdd={mayWrite && agreement.stage !== 'ended'} mayRemove={mayChange} />;
    case 'price':
      return (
        <>
          <Rights agreement={agreement} mayWrite={mayWrite} />
          <Price agreement={agreement} mayWrite={mayWrite} />
        </>
      );
    case 'versions':
      return (
        <>
          <Versions agreement={agreement} showOn={showOn} />
          <History agreement={agreement} />
          <div className="mt-6">
            <h2>Files</h2>
            <Files subject="agreement" id={agreement.id} />
          </div>
        </>
      );
  }
}

function AgreementView({
  agreement,
  on,
  set,
}: {
  agreement: Page;
  on: string | null;
  set: (key: string, value: string | null) => void;
}) {
  const [params] = useSearchParams();
  const [floating, setFloating] = useState<'header' | 'administration' | Move | null>(null);
  const [amending, setAmending] = useState(false);
  const parts = partsFor(seesMoney(useReader().role));
  const part = parts.find(([key]) => key === params.get('part'))?.[0] ?? 'coverage';
  const close = (): void => setFloating(null);
  return (
    <article className="px-7 pt-5 pb-12">
      <p className="quiet">
        <Link className="link-ink" to="/agreements">
          Agreements
        </Link>{' '}
        · <span className="serial">{agreement.number}</span> ·{' '}
        <Link className="link-ink" to={`/register?customer=${agreement.customer.id}`}>
          {agreement.customer.name}
        </Link>
      </p>
      <header className="flex flex-wrap items-baseline gap-x-4">
        <h1>{agreement.name}</h1>
        <span className="font-semibold">{agreement.stage}</span>
        <span className="text-ink2">
          {agreement.head.coming.length > 0 && agreement.head.today.term
            ? agreement.head.today.term
            : `${sayDate(agreement.from)} to ${agreement.to ? sayDate(agreement.to) : 'open end'}`}{' '}
          · {plural(agreement.head.machines, 'machine')} covered
        </span>
        <Acts agreement={agreement} amending={amending} amend={() => setAmending(true)} float={setFloating} />
      </header>
      <Facts agreement={agreement} />
      <Coming head={agreement.head} />
      {agreement.reminder && (
        <p className="mt-2 border border-base-content bg-base-100 px-3 py-1.5">{agreement.reminder}</p>
      )}
      {agreement.stage === 'suspended' && <p className="mt-2 font-semibold">Suspended. {saySuspended(agreement)}</p>}
      {on !== null && (
        <p className="mt-2 border border-base-content bg-base-100 px-3 py-1.5">
          Coverage as it held on {sayDate(agreement.on)}.{' '}
          <button className="link-ink" onClick={() => set('on', null)}>
            Back to today
          </button>
        </p>
      )}
      {agreement.stage === 'draft' && <Checklist agreement={agreement} />}
      {amending ? (
        <Amend agreement={agreement} onDone={() => setAmending(false)} />
      ) : (
        <Tabs
          label="Parts of the agreement"
          tabs={parts}
          chosen={part}
          onChoose={(key) => set('part', key === 'coverage' ? null : key)}
        >
          <Chosen agreement={agreement} part={part} showOn={(day) => set('on', day)} />
        </Tabs>
      )}
      {floating === 'header' && <EditHeader agreement={agreement} onClose={close} />}
      {floating === 'administration' && <EditAdministration agreement={agreement} onClose={close} />}
      {floating && floating !== 'header' && floating !== 'administration' && (
        <MoveStage agreement={agreement} to={floating} onClose={close} />
      )}
    </article>
  );
}

export function AgreementPage() {
  const { id = '' } = useParams();
  const [params, setParams] = useSearchParams();
  const on = params.get('on');
  const query = agreementsApi.useReadAgreementQuery({ params: { id }, query: on === null ? {} : { on } });
  const set = (key: string, value: string | null): void =>
    setParams(
      (old) => {
        if (value === null) old.delete(key);
        else old.set(key, value);
        if (key === 'on' && value !== null) old.delete('part');
        return old;
      },
      { replace: true },
    );
  return (
    <Waiting query={{ ...query, data: query.currentData }}>
      {(agreement) => <AgreementView key={agreement.id} agreement={agreement} on={on} set={set} />}
    </Waiting>
  );
}
