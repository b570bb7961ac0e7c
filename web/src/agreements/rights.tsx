// Counted rights of an agreement: what is granted, drawn and left in the present period, and what drew it.
import { useState } from 'react';
import { Link } from 'react-router';
import { type AgreementPage as Page, setAllowances } from '#api/agreements/index.ts';
import { orderNumber } from '#api/shapes.ts';
import { ALLOWANCE_PERIODS, ALLOWANCE_UNITS, sayAmount, type AllowanceUnit } from '#core/entitlement/index.ts';
import { NumberField, SelectField } from '../parts/fields.tsx';
import { useWireForm, Wire, WireForm } from '../parts/wire-form.tsx';
import { sayDate } from '../parts/words.ts';
import { Dialog } from '../shell/dialog.tsx';
import { agreementsApi } from './endpoints.ts';

type Right = Pick<Page['allowances'][number], 'unit' | 'amount' | 'period' | 'carriesOver'>;

/** Hours are typed in hours and kept in minutes. */
const shown = (unit: AllowanceUnit, amount: number): number => (unit === 'hours' ? amount / 60 : amount);
const kept = (unit: AllowanceUnit, n: number): number => (unit === 'hours' ? Math.round(n * 60) : n);

function RightRow({
  right: r,
  units,
  error,
  change,
  remove,
}: {
  right: Right;
  units: readonly AllowanceUnit[];
  error: string | undefined;
  change: (over: Partial<Right>) => void;
  remove: () => void;
}) {
  return (
    <div className="grid grid-cols-[7rem_7rem_10rem_1fr_auto] items-end gap-3">
      <SelectField
        label="Counts"
        value={r.unit}
        onChange={(unit) => change({ unit: unit as AllowanceUnit })}
        options={units.map((u) => [u, u] as const)}
      />
      <NumberField
        label={r.unit === 'hours' ? 'Hours' : 'How many'}
        value={shown(r.unit, r.amount)}
        min={0}
        step="any"
        onChange={(n) => change({ amount: kept(r.unit, n) })}
        error={error}
      />
      <SelectField
        label="For each"
        value={r.period}
        onChange={(period) => change({ period: period as Right['period'] })}
        options={ALLOWANCE_PERIODS.map((p) => [p, p] as const)}
      />
      <label className="flex items-center gap-1.5 pb-1.5">
        <input
          type="checkbox"
          className="box-tick"
          checked={r.carriesOver}
          onChange={(e) => change({ carriesOver: e.target.checked })}
        />
        what is left goes into the next
      </label>
      <button type="button" className="act" onClick={remove}>
        Remove
      </button>
    </div>
  );
}

/** The counted rights under `name` in the form around. */
export function RightFields({ name }: { name: string }) {
  return (
    <Wire<readonly Right[]> name={name}>
      {({ value: rights, change, errorAt }) => {
        const free = ALLOWANCE_UNITS.filter((u) => !rights.some((r) => r.unit === u));
        const next = free[0];
        return (
          <div className="space-y-2">
            {rights.map((right, i) => (
              <RightRow
                key={right.unit}
                right={right}
                units={[right.unit, ...free]}
                error={errorAt(String(i))}
                change={(over) => change(rights.map((r, n) => (n === i ? { ...r, ...over } : r)))}
                remove={() => change(rights.filter((_, n) => n !== i))}
              />
            ))}
            {next && (
              <button
                type="button"
                className="link-ink"
                onClick={() =>
                  change([...rights, { unit: next, amount: 5, period: 'agreement year', carriesOver: false }])
                }
              >
                Add a counted right
              </button>
            )}
          </div>
        );
      }}
    </Wire>
  );
}

function EditRights({ agreement, onClose }: { agreement: Page; onClose: () => void }) {
  const [set] = agreementsApi.useSetAllowancesMutation();
  const form = useWireForm(setAllowances, {
    version: agreement.version,
    allowances: agreement.allowances.map(({ unit, amount, period, carriesOver }) => ({
      unit,
      amount,
      period,
      carriesOver,
    })),
  });
  return (
    <Dialog title="Counted rights" onClose={onClose} wide>
      <WireForm
        form={form}
        name="Counted rights"
        save="Save the counted rights"
        send={(body) => set({ params: { id: String(agreement.id) }, body })}
        onDone={onClose}
        onCancel={onClose}
      >
        <h1>Counted rights</h1>
        <p>
          Visits are drawn when a preventive visit is raised, call-outs with each repair or inspection, hours by the
          labour of finished orders.
        </p>
        <RightFields name="allowances" />
      </WireForm>
    </Dialog>
  );
}

const drawnIn = (a: Page['allowances'][number], period: string): number =>
  a.draws.reduce((sum, d) => sum + (d.periodFrom === period && !d.returned ? d.amount : 0), 0);

export function Rights({ agreement, mayWrite }: { agreement: Page; mayWrite: boolean }) {
  const [editing, setEditing] = useState(false);
  return (
    <section className="mt-5">
      <div className="flex items-baseline gap-3">
        <h2>Counted rights</h2>
        {mayWrite && agreement.stage !== 'ended' && (
          <button className="act" onClick={() => setEditing(true)}>
            Set counted rights…
          </button>
        )}
      </div>
      {agreement.allowances.length === 0 ? (
        <p className="quiet mt-1 border-y border-hairline py-2">
          None: visits, hours and call-outs are not counted under this agreement.
        </p>
      ) : (
        <div className="mt-1 grid grid-cols-2 gap-x-8 gap-y-4">
          {agreement.allowances.map((a) => (
            <div key={a.id} className="border-t border-hairline pt-2">
              <p>
                <span className="figure">{sayAmount(a.unit, Math.max(0, a.granted - a.drawn))}</span>{' '}
                <span className="quiet">left of {sayAmount(a.unit, a.granted)}</span>
              </p>
              <div
                className="h-2 w-full border border-base-content"
                role="meter"
                aria-label={`Left of ${a.unit}`}
                aria-valuemin={0}
                aria-valuemax={a.granted}
                aria-valuenow={Math.max(0, a.granted - a.drawn)}
              >
                <div
                  className="h-full bg-base-content"
                  style={{ width: `${a.granted === 0 ? 0 : (Math.max(0, a.granted - a.drawn) / a.granted) * 100}%` }}
                />
              </div>
              <p className="quiet">
                {sayDate(a.from)} to {a.to ? sayDate(a.to) : 'open end'}; {sayAmount(a.unit, a.amount)} for each{' '}
                {a.period}
                {a.carriesOver ? ', what is left goes into the next' : ''}
                {a.usedUpOn && (
                  <strong className="font-semibold text-base-content"> · used up on {sayDate(a.usedUpOn)}</strong>
                )}
              </p>
              {[...new Set(a.draws.map((d) => d.periodFrom))].map((period) => (
                <ul key={period} className="quiet mt-1 max-h-32 overflow-y-auto">
                  {period !== a.from && (
                    <li className="font-semibold">
                      In the period from {sayDate(period)}: {sayAmount(a.unit, drawnIn(a, period))}
                    </li>
                  )}
                  {a.draws
                    .filter((d) => d.periodFrom === period)
                    .map((d) => (
                      <li key={d.orderId}>
                        {sayDate(d.on)}{' '}
                        <Link className="serial link-ink" to={`/orders/${d.orderId}`}>
                          {orderNumber(d.orderId)}
                        </Link>{' '}
                        {d.returned ? <s>{sayAmount(a.unit, d.amount)}</s> : sayAmount(a.unit, d.amount)}
                        {d.returned ? ' given back' : ''}
                      </li>
                    ))}
                </ul>
              ))}
            </div>
          ))}
        </div>
      )}
      {editing && <EditRights agreement={agreement} onClose={() => setEditing(false)} />}
    </section>
  );
}
