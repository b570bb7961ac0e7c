// An agreement: header, what still keeps it from being in force, coverage beside the threads, schedules, history.
import { useState } from 'react';
import { Link, useNavigate, useParams } from 'react-router';
import type { AgreementPage as Page } from '#api/agreements.ts';
import { agreementNumber } from '#api/shapes.ts';
import { localDateAt } from '#core/time/index.ts';
import { Field, useSubmit } from '../parts/fields.tsx';
import { Form } from '../parts/form.tsx';
import { plural, sayDate, sayMinutes } from '../parts/words.ts';
import { Dialog } from '../shell/dialog.tsx';
import { useReader, WRITERS } from '../shell/reader.tsx';
import { server } from '../shell/store.ts';
import { Waiting } from '../shell/waiting.tsx';
import { AssetTable } from '../register/asset-table.tsx';
import { CoverageForm } from './coverage-form.tsx';
import { HeaderFields, type Header } from './list.tsx';
import { ScheduleForm } from './schedule-form.tsx';

function EditHeader({ agreement, onClose }: { agreement: Page; onClose: () => void }) {
  const [header, setHeader] = useState<Header>({
    name: agreement.name,
    from: agreement.from,
    to: agreement.to ?? '',
    noticeDays: agreement.noticeDays,
    reminder: agreement.reminder,
  });
  const [change, { isLoading }] = server.useChangeAgreementMutation();
  const { errors, submit } = useSubmit(['name', 'from', 'to', 'noticeDays', 'reminder']);
  return (
    <Dialog title="Change the header" onClose={onClose}>
      <Form
        name="Change the header"
        save="Save the header"
        onSave={() =>
          submit(
            change({
              params: { id: String(agreement.id) },
              body: { version: agreement.version, ...header, to: header.to || null },
            }),
          ).then((done) => done && onClose())
        }
        onCancel={onClose}
        errors={errors}
        disabled={isLoading}
      >
        <h1>{agreementNumber(agreement.id)}</h1>
        <HeaderFields header={header} change={setHeader} error={errors.of} />
      </Form>
    </Dialog>
  );
}

const MOVES = {
  suspended: ['Suspend the agreement', 'Visits and promises stop while it is suspended.'],
  'in force': ['Lift the suspension', 'Visits and promises run again.'],
  ended: ['End the agreement', 'This is final: no further visit is raised and nothing new is covered.'],
} as const;

function MoveStage({ agreement, to, onClose }: { agreement: Page; to: keyof typeof MOVES; onClose: () => void }) {
  const [reason, setReason] = useState('');
  const [move, { isLoading }] = server.useMoveStageMutation();
  const { errors, submit } = useSubmit(['reason']);
  return (
    <Dialog title={MOVES[to][0]} onClose={onClose}>
      <Form
        name={MOVES[to][0]}
        save={MOVES[to][0]}
        onSave={() =>
          submit(move({ params: { id: String(agreement.id) }, body: { version: agreement.version, to, reason } })).then(
            (done) => done && onClose(),
          )
        }
        onCancel={onClose}
        errors={errors}
        disabled={isLoading}
      >
        <h1>{MOVES[to][0]}</h1>
        <p>{MOVES[to][1]}</p>
        <Field label="Why" error={errors.of('reason')}>
          {(id) => (
            <textarea
              id={id}
              className="box-area"
              rows={3}
              value={reason}
              onChange={(e) => setReason(e.target.value)}
            />
          )}
        </Field>
      </Form>
    </Dialog>
  );
}

function Checklist({ agreement }: { agreement: Page }) {
  const reader = useReader();
  const [put, { isLoading }] = server.usePutInForceMutation();
  const { errors, submit } = useSubmit([]);
  const open = agreement.checklist.filter((i) => !i.satisfied);
  const satisfied = agreement.checklist.length - open.length;
  return (
    <section className="sheet mt-4 p-4" aria-label="Checklist">
      <div className="flex items-center gap-4">
        <h2>
          {open.length === 0
            ? 'Ready to be put in force'
            : `${plural(open.length, 'point')} keep${open.length === 1 ? 's' : ''} it from being in force`}
        </h2>
        {reader.may(...WRITERS) && (
          <button
            className="act-main ml-auto"
            disabled={isLoading}
            onClick={() =>
              void submit(put({ params: { id: String(agreement.id) }, body: { version: agreement.version } }))
            }
          >
            Put in force
          </button>
        )}
      </div>
      <ul className="mt-1">
        {[...new Map(open.map((i) => [i.subject + i.text, i])).values()].map((i) => (
          <li key={i.text}>
            ✕ <strong className="font-semibold">{i.subject}</strong>: {i.text}
          </li>
        ))}
      </ul>
      {satisfied > 0 && (
        <details className="quiet mt-1">
          <summary className="w-fit link-ink">{satisfied} satisfied</summary>
          <ul>
            {agreement.checklist
              .filter((i) => i.satisfied)
              .slice(0, 60)
              .map((i, n) => (
                <li key={n}>
                  ✓ {i.subject}: {i.text}
                </li>
              ))}
          </ul>
        </details>
      )}
      {errors.problem && (
        <p role="alert" className="mt-2 text-missed">
          ✕ Not put in force: {errors.problem.detail}
        </p>
      )}
    </section>
  );
}

function Coverage({ agreement, mayChange }: { agreement: Page; mayChange: boolean }) {
  const [adding, setAdding] = useState(false);
  const [remove] = server.useRemoveCoverageMutation();
  return (
    <section className="mt-6">
      <div className="flex items-baseline gap-4">
        <h2>Coverage</h2>
        {mayChange && !adding && (
          <button className="act" onClick={() => setAdding(true)}>
            Add coverage…
          </button>
        )}
      </div>
      {adding && <CoverageForm agreement={agreement} onDone={() => setAdding(false)} />}
      {agreement.lines.length === 0 ? (
        !adding && <p className="quiet mt-1 border-y border-hairline py-2">Nothing is covered yet.</p>
      ) : (
        <table className="dense mt-1">
          <thead>
            <tr>
              <th>Covers</th>
              <th className="num">Assets</th>
              <th className="num">Labour %</th>
              <th className="num">Parts %</th>
              <th className="num">Travel %</th>
              <th>Service level</th>
              <th>Work included</th>
              <th>Left out</th>
              {mayChange && <th />}
            </tr>
          </thead>
          <tbody>
            {agreement.lines.map((l) => (
              <tr key={l.id}>
                <td>{l.label}</td>
                <td className="num">{l.assetsReached}</td>
                <td className="num">{l.shares.labour}</td>
                <td className="num">{l.shares.parts}</td>
                <td className="num">{l.shares.travel}</td>
                <td>{l.serviceLevel?.name ?? 'none'}</td>
                <td className="quiet">{l.kinds.join(', ')}</td>
                <td className="quiet">{l.excludedCauses.join(', ') || 'nothing'}</td>
                {mayChange && (
                  <td>
                    <button
                      className="quiet link-ink"
                      onClick={() => void remove({ params: { id: String(agreement.id), line: String(l.id) } })}
                    >
                      remove
                    </button>
                  </td>
                )}
              </tr>
            ))}
          </tbody>
        </table>
      )}
    </section>
  );
}

const SCHEDULES_SHOWN = 12;

function Schedules({ agreement, mayChange }: { agreement: Page; mayChange: boolean }) {
  const [adding, setAdding] = useState(false);
  const [all, setAll] = useState(false);
  const [remove] = server.useRemoveScheduleMutation();
  const shown = all ? agreement.schedules : agreement.schedules.slice(0, SCHEDULES_SHOWN);
  return (
    <section className="mt-6">
      <div className="flex items-baseline gap-4">
        <h2>Upkeep schedules</h2>
        {mayChange && !adding && agreement.assetsTotal > 0 && (
          <button className="act" onClick={() => setAdding(true)}>
            Add a schedule…
          </button>
        )}
      </div>
      {adding && <ScheduleForm agreement={agreement} onDone={() => setAdding(false)} />}
      {agreement.schedules.length === 0 ? (
        !adding && (
          <p className="quiet mt-1 border-y border-hairline py-2">
            No visits are owed under this agreement
            {agreement.assetsTotal === 0 && mayChange ? '; add coverage first' : ''}.
          </p>
        )
      ) : (
        <>
          <table className="dense mt-1">
            <thead>
              <tr>
                <th>Asset</th>
                <th>Job plan</th>
                <th className="num">Duration</th>
                <th>When</th>
                <th>In time</th>
                <th>Raised ahead</th>
                <th>Next due</th>
                {mayChange && <th />}
              </tr>
            </thead>
            <tbody>
              {shown.map((s) => (
                <tr key={s.id}>
                  <td>
                    <Link className="serial link-ink" to={`/assets/${s.assetId}`}>
                      {s.tag}
                    </Link>
                  </td>
                  <td>{s.jobPlan}</td>
                  <td className={`num ${s.minutes === 0 ? 'font-semibold' : ''}`}>{sayMinutes(s.minutes)}</td>
                  <td title={s.rule}>{s.sentence}</td>
                  <td className="quiet">{s.window}</td>
                  <td className="quiet">{s.lead}</td>
                  <td>{s.next ? sayDate(s.next) : 'none in the term'}</td>
                  {mayChange && (
                    <td>
                      <button
                        className="quiet link-ink"
                        onClick={() => void remove({ params: { id: String(agreement.id), schedule: String(s.id) } })}
                      >
                        remove
                      </button>
                    </td>
                  )}
                </tr>
              ))}
            </tbody>
          </table>
          {agreement.schedules.length > SCHEDULES_SHOWN && (
            <button className="quiet link-ink mt-1" onClick={() => setAll(!all)}>
              {all ? 'show fewer' : `all ${agreement.schedules.length} schedules`}
            </button>
          )}
        </>
      )}
    </section>
  );
}

function AgreementView({ agreement }: { agreement: Page }) {
  const reader = useReader();
  const navigate = useNavigate();
  const [floating, setFloating] = useState<'header' | keyof typeof MOVES | null>(null);
  const [chosen, setChosen] = useState(-1);
  const mayWrite = reader.may(...WRITERS);
  const mayChange = mayWrite && agreement.stage === 'draft';
  const moves =
    agreement.stage === 'in force'
      ? (['suspended', 'ended'] as const)
      : agreement.stage === 'suspended'
        ? (['in force', 'ended'] as const)
        : [];
  const close = (): void => setFloating(null);
  return (
    <article
      className="px-7 pt-5 pb-12"
      onKeyDown={(e) => e.key === 'Escape' && !floating && void navigate('/agreements')}
    >
      <p className="quiet">
        <Link className="link-ink" to="/agreements">
          Agreements
        </Link>{' '}
        · <span className="serial">{agreementNumber(agreement.id)}</span> ·{' '}
        <Link className="link-ink" to={`/register?customer=${agreement.customer.id}`}>
          {agreement.customer.name}
        </Link>
      </p>
      <header className="flex flex-wrap items-baseline gap-x-4">
        <h1>{agreement.name}</h1>
        <span className="font-semibold">{agreement.stage}</span>
        <span className="text-ink2">
          {sayDate(agreement.from)} to {agreement.to ? sayDate(agreement.to) : 'open end'}
          {agreement.noticeBy ? ` · notice by ${sayDate(agreement.noticeBy)}` : ''} ·{' '}
          {plural(agreement.assetsTotal, 'asset')} covered
        </span>
        <span className="ml-auto flex gap-2">
          {mayChange && (
            <button className="act" onClick={() => setFloating('header')}>
              Change the header…
            </button>
          )}
          {mayWrite &&
            moves.map((m) => (
              <button key={m} className="act" onClick={() => setFloating(m)}>
                {MOVES[m][0]}…
              </button>
            ))}
        </span>
      </header>
      {agreement.reminder && (
        <p className="mt-2 border border-base-content bg-base-100 px-3 py-1.5">{agreement.reminder}</p>
      )}
      {agreement.stage === 'suspended' && (
        <p className="mt-2 font-semibold">
          Suspended: nothing is covered and no visit is raised until the suspension is lifted.
        </p>
      )}
      {agreement.stage === 'draft' && <Checklist agreement={agreement} />}
      <Coverage agreement={agreement} mayChange={mayChange} />
      <Schedules agreement={agreement} mayChange={mayChange} />
      {agreement.assets.length > 0 && (
        <section className="mt-6">
          <h2 className="pb-1">
            Covered assets
            {agreement.assetsTotal > agreement.assets.length
              ? `, the first ${agreement.assets.length} of ${agreement.assetsTotal}`
              : ''}
          </h2>
          <AssetTable
            rows={agreement.assets}
            count={agreement.assets.length}
            span={{ from: agreement.ribbonFrom, to: agreement.ribbonTo, now: agreement.now }}
            chosen={chosen}
            choose={setChosen}
            height="26rem"
          />
        </section>
      )}
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
      {floating === 'header' && <EditHeader agreement={agreement} onClose={close} />}
      {floating && floating !== 'header' && <MoveStage agreement={agreement} to={floating} onClose={close} />}
    </article>
  );
}

export function AgreementPage() {
  const { id = '' } = useParams();
  const query = server.useReadAgreementQuery({ params: { id } });
  return (
    <Waiting query={{ ...query, data: query.currentData }}>
      {(agreement) => <AgreementView key={agreement.id} agreement={agreement} />}
    </Waiting>
  );
}
