// What is decided on visits of a run, and raising them after a look at what will happen.
import type { ReactNode } from 'react';
import { decideVisits } from '#api/upkeep.ts';
import type { Proposal, UpkeepRun } from '#api/upkeep.ts';
import { addDays, type LocalDate } from '#core/time/index.ts';
import { GeneralError, useSubmit } from '../parts/fields.tsx';
import { Reminders } from '../parts/verdict.tsx';
import { plural, sayDate } from '../parts/words.ts';
import { WireDate, WireText } from '../parts/wire-fields.tsx';
import { useWireForm, WireForm } from '../parts/wire-form.tsx';
import { Dialog } from '../shell/dialog.tsx';
import { upkeepApi } from './endpoints.ts';
import { scopeBody, type Scope } from './scope.ts';

export type Key = string;
export const keyOf = (p: Proposal): Key => `${p.scheduleId}/${p.nominal}/${p.part}`;
export const visitOf = ({ scheduleId, nominal, part }: Proposal) => ({ scheduleId, nominal, part });

export type Deciding = 'held' | 'declined' | 'accepted';
const WORDS: Readonly<Record<Deciding, { title: string; act: string; what: string }>> = {
  held: {
    title: 'Hold back',
    act: 'Hold',
    what: 'They stay in the list, marked, until that day or until somebody lets them go on.',
  },
  declined: {
    title: 'Decline',
    act: 'Decline',
    what: 'They are not done: listed in standing as declined, not counted as missed.',
  },
  accepted: {
    title: 'Let go on',
    act: 'Let',
    what: 'They are raised with the next run in spite of what speaks against them.',
  },
};

/** Everything that speaks against the chosen visits, each said once with how often it does. */
function Against({ chosen }: { chosen: readonly Proposal[] }) {
  const said = new Map<string, number>();
  for (const p of chosen)
    for (const e of p.exceptions) if (e.level !== 'tells') said.set(e.text, (said.get(e.text) ?? 0) + 1);
  if (said.size === 0) return null;
  return (
    <ul className="mt-2 list-disc pl-5">
      {[...said].map(([text, n]) => (
        <li key={text}>
          {text}
          {n > 1 && <span className="quiet"> ({n} visits)</span>}
        </li>
      ))}
    </ul>
  );
}

type DialogOf = { chosen: readonly Proposal[]; run: UpkeepRun; onClose: () => void; onDone: () => void };

function DecisionForm({
  kind,
  chosen,
  run,
  onClose,
  onDone,
  children,
}: DialogOf & { kind: Deciding; children: ReactNode }) {
  const [decide] = upkeepApi.useDecideVisitsMutation();
  const decision =
    kind === 'held' ? { kind, reason: '', until: addDays(run.today, 7) as string | null } : { kind, reason: '' };
  const form = useWireForm(decideVisits, { visits: chosen.map(visitOf), to: run.to, decision } as never);
  const { title, act, what } = WORDS[kind];
  const many = plural(chosen.length, 'visit');
  return (
    <Dialog title={title} onClose={onClose}>
      <WireForm
        form={form}
        name={title}
        save={kind === 'accepted' ? `${act} ${many} go on` : `${act} ${many}`}
        send={(body) => decide({ body })}
        onDone={onDone}
        onCancel={onClose}
      >
        <h1>
          {title}: {many}
        </h1>
        <p>{what}</p>
        {kind === 'accepted' && <Against chosen={chosen} />}
        {children}
      </WireForm>
    </Dialog>
  );
}

export function DecideDialog({ kind, ...of }: DialogOf & { kind: Deciding }) {
  return (
    <DecisionForm kind={kind} {...of}>
      <WireText
        name="decision.reason"
        label="Why"
        {...(kind === 'accepted' && { hint: 'Asked for where a visit is stopped.' })}
        autoFocus
      />
      {kind === 'held' && (
        <WireDate
          name="decision.until"
          label="Until, if it is known"
          empty={null}
          hint="From that day it is proposed again by itself."
        />
      )}
    </DecisionForm>
  );
}

/** What will happen, before it happens. */
export function RaiseDialog({
  run,
  only,
  scope,
  onClose,
  onRaising,
}: {
  run: UpkeepRun;
  only: readonly Proposal[] | null;
  scope: Scope;
  onClose: () => void;
  onRaising: (id: number) => void;
}) {
  const [commit, { isLoading }] = upkeepApi.useCommitRunMutation();
  const { errors, submit } = useSubmit([]);
  const chosen = (only ?? run.proposals).filter((p) => p.standing === 'ready');
  const count = only ? chosen.length : run.counts.ready;
  const kept = only ? only.length - chosen.length : run.counts.toDecide;
  const beyond = only
    ? chosen.filter((p) => p.exceptions.some((e) => e.code === 'beyond right')).length
    : (run.counts.exceptions.find((e) => e.code === 'beyond right')?.count ?? 0);
  const send = async (): Promise<void> => {
    const body = { to: run.to, scope: scopeBody(scope), only: only ? chosen.map(visitOf) : null, seen: run.seen };
    const done = await submit(commit({ body }));
    if (!done) return;
    onRaising(done.id);
    onClose();
  };
  return (
    <Dialog title="Raise visits" onClose={onClose}>
      <h1>Raise {plural(count, 'visit')}</h1>
      <ul className="mt-3 list-disc pl-5">
        <li>
          {plural(count, 'preventive work order')}
          {chosen.length === count &&
            `, for ${plural(new Set(chosen.map((p) => p.assetId)).size, 'asset')} of ${plural(new Set(chosen.map((p) => p.customer)).size, 'customer')}`}
        </li>
        {chosen.length === count && chosen.length > 0 && (
          <li>
            planned from {sayDate(chosen[0]?.planned as LocalDate)} to{' '}
            {sayDate(chosen[chosen.length - 1]?.planned as LocalDate)}
          </li>
        )}
        {beyond > 0 && (
          <li>
            <strong className="font-semibold">{beyond} of them beyond the counted right: chargeable</strong>
          </li>
        )}
        {kept > 0 && <li>{plural(kept, 'visit')} wait for a decision and are left</li>}
        {run.counts.held > 0 && !only && <li>{plural(run.counts.held, 'visit')} held back, not raised</li>}
        {run.counts.needsAction > 0 && !only && (
          <li>{plural(run.counts.needsAction, 'schedule')} yield nothing and need action</li>
        )}
      </ul>
      <Reminders texts={[...new Set(chosen.flatMap((p) => (p.reminder ? [`${p.agreement}: ${p.reminder}`] : [])))]} />
      <GeneralError errors={errors} />
      <div className="mt-4 flex gap-2">
        <button className="act-main" disabled={isLoading || count === 0} onClick={() => void send()}>
          {isLoading ? 'Raising…' : `Raise ${plural(count, 'visit')}`}
        </button>
        <button className="act" onClick={onClose}>
          {isLoading ? 'Leave it running' : 'Cancel'}
        </button>
      </div>
    </Dialog>
  );
}
