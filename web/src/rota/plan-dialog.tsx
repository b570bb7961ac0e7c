// The house plans: for how long, whose depot, what counts more, and what may move. Nothing is changed by it; a proposal comes of it.
import { useState } from 'react';
import { useNavigate } from 'react-router';
import { proposePlan } from '#api/rota-plans.ts';
import { PLAN_RULE_NAMES, type PlanRules } from '#core/rota/index.ts';
import type { LocalDate } from '#core/time/index.ts';
import { newRequestKey } from '../parts/fields.tsx';
import { WireDate, WireSelect, WireTick } from '../parts/wire-fields.tsx';
import { useWireForm, Wire, WireForm } from '../parts/wire-form.tsx';
import { setupApi } from '../setup/index.ts';
import { Dialog } from '../shell/dialog.tsx';
import { rotaApi } from './endpoints.ts';

/** What each set of rules puts first, after missed promises. */
const RULES: Readonly<Record<PlanRules, string>> = {
  'promises first': 'promises first: then windows, overtime, travel',
  'no overtime': 'no overtime: before windows and travel',
  'short ways': 'short ways: travel before windows and overtime',
  'same technician': 'same technician: whom the customer prefers, before travel',
};

export type PlanDialogProps = {
  readonly date: LocalDate;
  readonly depot: number | null;
  /** The order that is looked at, or those that are ticked. */
  readonly only: { readonly ids: readonly number[]; readonly words: string } | null;
  /** As many as are looked at. */
  readonly days: number;
  readonly onClose: () => void;
};

export function PlanDialog({ date, depot, only, days, onClose }: PlanDialogProps) {
  const navigate = useNavigate();
  const { data } = setupApi.useReadDepotsQuery();
  const [propose] = rotaApi.useProposePlanMutation();
  const [requestKey] = useState(newRequestKey);
  const rulesOf = (id: number | null): PlanRules =>
    data?.depots.find((d) => d.id === id)?.planRules ?? 'promises first';
  const form = useWireForm(proposePlan, {
    ...{ requestKey, from: date, days, depotId: depot, rules: rulesOf(depot) },
    ...{ orders: only ? [...only.ids] : null, moves: true, movesTold: false },
  });
  return (
    <Dialog title="Plan for me" onClose={onClose}>
      <WireForm
        form={form}
        name="Plan for me"
        save="Propose a rota"
        send={(body) => propose({ body })}
        onDone={({ id }) => void navigate(`/rota/plans/${id}`)}
        onCancel={onClose}
      >
        <h1>Plan for me</h1>
        <p className="quiet">A rota is proposed and nothing is changed: you accept all of it, some, or none.</p>
        {only && (
          <Wire<number[] | null> name="orders">
            {({ value, change }) => (
              <label className="flex items-center gap-2">
                <input
                  type="checkbox"
                  className="box-tick"
                  checked={value !== null}
                  onChange={(e) => change(e.target.checked ? [...only.ids] : null)}
                />
                Put in {only.words} only, with the least damage
              </label>
            )}
          </Wire>
        )}
        <div className="grid grid-cols-2 gap-3">
          <WireDate name="from" label="From" />
          <WireSelect
            name="days"
            label="For"
            options={[
              [1, 'one day'],
              [2, 'two days'],
              [5, 'five days'],
              [7, 'a week'],
            ]}
          />
          <WireSelect
            name="depotId"
            label="Depot"
            options={[[null, 'every depot'] as const, ...(data?.depots ?? []).map((d) => [d.id, d.name] as const)]}
            onChosen={(id) => form.setValue('rules', rulesOf(id))}
          />
        </div>
        <WireSelect
          name="rules"
          label="What counts more"
          options={PLAN_RULE_NAMES.map((r) => [r, RULES[r]] as const)}
        />
        <WireTick name="moves" label="What is planned already may move" />
        <WireTick name="movesTold" label="Also what customers were told of" className="" />
      </WireForm>
    </Dialog>
  );
}
