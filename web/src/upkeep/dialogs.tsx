// Holding visits back, and raising them after a look at what will happen.
import { holdVisits } from '#api/upkeep.ts';
import type { Proposal, UpkeepRun } from '#api/upkeep.ts';
import { type LocalDate } from '#core/time/index.ts';
import { GeneralError, useSubmit } from '../parts/fields.tsx';
import { Reminders } from '../parts/verdict.tsx';
import { plural, sayDate } from '../parts/words.ts';
import { WireText } from '../parts/wire-fields.tsx';
import { useWireForm, WireForm } from '../parts/wire-form.tsx';
import { Dialog } from '../shell/dialog.tsx';
import { upkeepApi } from './endpoints.ts';

export type Key = string;
export const keyOf = (p: Proposal): Key => `${p.scheduleId}/${p.nominal}`;
export const visitOf = (p: Proposal) => ({ scheduleId: p.scheduleId, nominal: p.nominal });

export function HoldDialog({ chosen, to, onClose }: { chosen: Proposal[]; to: LocalDate; onClose: () => void }) {
  const [hold] = upkeepApi.useHoldVisitsMutation();
  const form = useWireForm(holdVisits, { visits: chosen.map(visitOf), to, reason: '' });
  return (
    <Dialog title="Hold back" onClose={onClose}>
      <WireForm
        form={form}
        name="Hold back"
        save={<>Hold {plural(chosen.length, 'visit')}</>}
        send={(body) => hold({ body })}
        onDone={onClose}
        onCancel={onClose}
      >
        <h1>Hold back {plural(chosen.length, 'visit')}</h1>
        <p>They stay in the list, marked, until somebody lets them go on.</p>
        <WireText name="reason" label="Why" autoFocus />
      </WireForm>
    </Dialog>
  );
}

/** What will happen, before it happens. */
export function RaiseDialog({
  run,
  only,
  onClose,
  onDone,
}: {
  run: UpkeepRun;
  only: Proposal[] | null;
  onClose: () => void;
  onDone: (text: string) => void;
}) {
  const [commit, { isLoading }] = upkeepApi.useCommitRunMutation();
  const { errors, submit } = useSubmit([]);
  const chosen = only?.filter((p) => p.state === 'proposed') ?? run.proposals.filter((p) => p.state === 'proposed');
  const count = only ? chosen.length : run.counts.proposed;
  const late = chosen.filter((p) => p.remark?.includes('over')).length;
  const beyond = only ? chosen.filter((p) => p.beyond !== null).length : run.counts.beyond;
  const send = async (): Promise<void> => {
    const done = await submit(commit({ body: { to: run.to, only: only ? chosen.map(visitOf) : null } }));
    if (!done) return;
    onDone(
      `${plural(done.raised, 'visit')} raised as work orders${done.alreadyRaised > 0 ? `; ${done.alreadyRaised} had been raised already` : ''}${done.held > 0 ? `; ${done.held} held back` : ''}.`,
    );
    onClose();
  };
  return (
    <Dialog title="Raise visits" onClose={onClose}>
      <h1>Raise {plural(count, 'visit')}</h1>
      <ul className="mt-3 list-disc pl-5">
        <li>
          {plural(count, 'preventive work order')} for {plural(new Set(chosen.map((p) => p.assetId)).size, 'asset')} of{' '}
          {plural(new Set(chosen.map((p) => p.customer)).size, 'customer')}
          {run.proposals.length < run.counts.proposed && !only ? ' and more below the list' : ''}
        </li>
        {chosen.length > 0 && (
          <li>
            due from {sayDate(chosen[0]?.due as LocalDate)} to {sayDate(chosen[chosen.length - 1]?.due as LocalDate)}
          </li>
        )}
        {late > 0 && <li>{late} of them after their window is over</li>}
        {beyond > 0 && (
          <li>
            <strong className="font-semibold">{beyond} of them beyond the counted right: chargeable</strong>
          </li>
        )}
        {run.counts.held > 0 && <li>{plural(run.counts.held, 'visit')} held back, not raised</li>}
        {run.counts.needsAction > 0 && (
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
          Cancel
        </button>
      </div>
    </Dialog>
  );
}
