// The machines of an order: one, or several that a visit each brought together, every one with its own window, cover and result.
import { group } from 'd3-array';
import { useState } from 'react';
import { Link } from 'react-router';
import { swapAsset } from '#api/assets.ts';
import { recordAct, type ActIn, type OrderPage } from '#api/orders.ts';
import { orderNumber } from '#api/shapes.ts';
import { usePlanned } from '#api/stores.ts';
import { sayAmountOf } from '#core/money.ts';
import { isFinished } from '#core/orders/index.ts';
import { sayAmount } from '#core/stores/index.ts';
import { localDateAt, sayDay } from '#core/time/index.ts';
import { GeneralError, useSubmit } from '../parts/fields.tsx';
import { CoverVerdict, Reminders } from '../parts/verdict.tsx';

import { plural, sayDate, sayMinutes } from '../parts/words.ts';
import { storesApi } from '../stores/index.ts';
import { useReader } from '../shell/reader.tsx';
import { LeaveForm, useRecordNow } from './tasks.tsx';

type Line = OrderPage['lines'][number];
type OwedVisit = NonNullable<Line['visit']>;

const isInWindow = ({ completedOn, windowFrom, windowTo }: OwedVisit): boolean =>
  completedOn !== null && completedOn >= windowFrom && completedOn <= windowTo;

/** The visit it was raised for, and whether it was done in time. */
function Owed({ visit, minutes }: { visit: OwedVisit; minutes: number | null }) {
  const { completedOn, windowFrom, windowTo } = visit;
  return (
    <section>
      <h2>Upkeep visit</h2>
      <p>
        Owed under{' '}
        <Link className="link-ink" to={`/agreements/${visit.agreementId}`}>
          {visit.agreement}
        </Link>
        : due {sayDate(visit.due)}, in time from {sayDate(windowFrom)} to {sayDate(windowTo)}.
        {completedOn ? ` Done ${sayDate(completedOn)}, ${isInWindow(visit) ? 'in window' : 'outside its window'}.` : ''}{' '}
        {minutes ? `Planned for ${sayMinutes(minutes)}.` : ''}
        {visit.price &&
          ` Billed ${visit.price.currency} ${sayAmountOf(visit.price.minor, visit.price.currency)} by the visit.`}
      </p>
      {visit.beyond && (
        <p>
          <strong className="font-semibold">Not borne by {visit.agreement}:</strong> {visit.beyond}.
        </p>
      )}
    </section>
  );
}

function Address({ order }: { order: OrderPage }) {
  return (
    <p className="quiet mt-1">
      {order.address ? (
        <>
          {order.address.value} (from {order.address.from})
        </>
      ) : (
        'No address is known: give one to the place or the customer.'
      )}
    </p>
  );
}

/** A place has no page of its own; it is named. */
const AssetLink = ({ line }: { line: Line }) =>
  line.assetId === null ? (
    <span>{line.tag}</span>
  ) : (
    <Link className="serial link-ink" to={`/assets/${line.assetId}`}>
      {line.tag}
    </Link>
  );

function OneMachine({ order, line }: { order: OrderPage; line: Line }) {
  return (
    <section>
      <h2>{line.assetId === null ? 'Place' : 'Asset'}</h2>
      {line.assetId === null && <p>No machine is named yet; name it under “Priority, machine, cause”.</p>}
      <p>
        {line.assetId === null ? '' : line.className} {line.model} <AssetLink line={line} />{' '}
        <span className="quiet">
          <span className="serial">{line.serial}</span> · {line.place}
        </span>
      </p>
      <Address order={order} />
    </section>
  );
}

function saidResult({ left, off, visit, finishedAt, restoredAt, handedOn }: Line): string {
  if (off) return `taken off: ${left}`;
  if (left !== null) return `left undone: ${left}`;
  if (handedOn !== null) return `goes on with ${orderNumber(handedOn)}`;
  if (finishedAt !== null) return 'finished';
  if (!visit) return restoredAt === null ? '' : 'back in use';
  if (visit.completedOn === null) return 'to do';
  return `done ${sayDate(visit.completedOn)}, ${isInWindow(visit) ? 'in window' : 'outside its window'}`;
}

type LineAct = Extract<ActIn, { kind: 'line' }>;

/** What may be recorded of one of several machines by itself. */
function LineActs({
  order,
  line,
  recordNow,
  ask,
}: {
  order: OrderPage;
  line: Line;
  recordNow: (act: ActIn) => unknown;
  ask: (outcome: 'left' | 'off') => void;
}) {
  const reader = useReader();
  const { left, off, finishedAt, handedOn } = line;
  if (isFinished(order.stage) || !reader.may(recordAct) || handedOn !== null) return null;
  const act: Pick<LineAct, 'kind' | 'lineId' | 'text'> = { kind: 'line', lineId: line.id, text: '' };
  const isRepaired = order.kind === 'repair' && line.restoredAt === null;
  if (left !== null || finishedAt !== null)
    return (
      <button
        className="quiet link-ink"
        onClick={() => void recordNow({ ...act, outcome: 'to do' })}
        aria-label={`Do ${line.tag} after all`}
      >
        {off ? 'put it back' : 'do it after all'}
      </button>
    );
  return (
    <span className="flex flex-wrap gap-x-3">
      {isRepaired && (
        <button
          className="quiet link-ink"
          onClick={() => void recordNow({ kind: 'restored', lineId: line.id })}
          aria-label={`${line.tag} is back in use`}
        >
          back in use
        </button>
      )}
      <button
        className="quiet link-ink"
        onClick={() => void recordNow({ ...act, outcome: 'done' })}
        aria-label={`Finish ${line.tag}`}
      >
        finish
      </button>
      <button className="quiet link-ink" onClick={() => ask('left')} aria-label={`Leave ${line.tag}…`}>
        leave…
      </button>
      {line.visit === null && (
        <button className="quiet link-ink" onClick={() => ask('off')} aria-label={`Take ${line.tag} off…`}>
          take off…
        </button>
      )}
      {line.assetId !== null && reader.may(swapAsset) && (
        <Link
          className="quiet link-ink inline-block py-[3px]"
          to={`/assets/${line.assetId}?swap=1`}
          aria-label={`Swap ${line.tag}`}
        >
          swap…
        </Link>
      )}
    </span>
  );
}

/** Decisions that were taken again: what had held until then. */
function Former({ line }: { line: Line }) {
  const zone = useReader().zone;
  return line.former.map((was) => (
    <p key={was.until} className="quiet">
      Until {sayDate(localDateAt(zone, was.until))}
      {was.tag && was.tag !== line.tag ? ` (${was.tag})` : ''}: {was.sentence} {was.promise}
    </p>
  ));
}

function MachineRow({ order, line }: { order: OrderPage; line: Line }) {
  const { visit, left } = line;
  const [leaving, setLeaving] = useState<'left' | 'off' | null>(null);
  const { errors, recordNow } = useRecordNow(order);
  return (
    <>
      <tr>
        <td>
          <AssetLink line={line} /> {line.className} <span className="quiet">{line.model}</span>
        </td>
        <td className="quiet">{line.place}</td>
        {order.lines.some((l) => l.visit) && (
          <td className="whitespace-nowrap">
            {visit && (
              <>
                due {sayDate(visit.due)}
                <span className="quiet block">
                  in time {sayDay(visit.windowFrom)} to {sayDay(visit.windowTo)}
                </span>
              </>
            )}
          </td>
        )}
        <td className="w-64">
          {left === null ? saidResult(line) : <strong className="font-semibold">{saidResult(line)}</strong>}
          <LineActs order={order} line={line} recordNow={recordNow} ask={setLeaving} />
          <GeneralError errors={errors} />
        </td>
      </tr>
      {leaving && (
        <tr>
          <td colSpan={4}>
            <LeaveForm
              order={order}
              act={{ kind: 'line', lineId: line.id, text: '', outcome: leaving }}
              name={leaving === 'off' ? `Take ${line.tag} off` : `Leave ${line.tag}`}
              label={
                leaving === 'off'
                  ? 'Why it is no part of the order any more'
                  : visit
                    ? 'Why the machine is left undone; its visit is owed again, held with this reason'
                    : 'Why the machine is left undone'
              }
              onDone={() => setLeaving(null)}
            />
          </td>
        </tr>
      )}
    </>
  );
}

/** The same cover is said once for all machines it holds for, with everything that was looked at for any of them. */
function Covers({ order }: { order: OrderPage }) {
  const covered = order.lines.flatMap(({ tag, verdict }) => (verdict ? [{ tag, verdict }] : []));
  if (covered.length === 0) return null;
  const alike = [...group(covered, ({ verdict }) => `${verdict.sentence} ${verdict.promise}`).values()];
  return (
    <section>
      <h2>Cover, as decided {order.lines.some((l) => l.former.length > 0) ? 'again' : 'when raised'}</h2>
      {alike.map((own) => {
        const [{ tag, verdict }] = own as [(typeof own)[number]];
        const looked = own.flatMap((o) => o.verdict.considered);
        const considered = [...group(looked, (c) => JSON.stringify(c)).values()].flatMap(([c]) => c ?? []);
        return (
          <div key={tag} className="mt-1">
            {alike.length > 1 && <p className="serial quiet">{own.map((o) => o.tag).join(', ')}</p>}
            <CoverVerdict {...verdict} considered={considered} />
          </div>
        );
      })}
      {order.lines.map((line) => (
        <Former key={line.id} line={line} />
      ))}
      <Reminders texts={order.reminders} />
    </section>
  );
}

/** Several machines as a table over the whole width; one needs none. */
export function SeveralMachines({ order }: { order: OrderPage }) {
  if (order.lines.length < 2) return null;
  const machines = new Set(order.lines.map((l) => l.assetId)).size;
  return (
    <section className="mt-5">
      <h2>
        {machines === order.lines.length
          ? `${machines} machines`
          : `${order.lines.length} visits at ${plural(machines, 'machine')}`}{' '}
        <span className="quiet font-normal">{order.minutes ? `planned for ${sayMinutes(order.minutes)}` : ''}</span>
      </h2>
      <table className="dense mt-1">
        <thead>
          <tr>
            <th>Asset</th>
            <th>Where it stands</th>
            {order.lines.some((l) => l.visit) && <th>Visit</th>}
            <th>Result</th>
          </tr>
        </thead>
        <tbody>
          {order.lines.map((line) => (
            <MachineRow key={line.id} order={order} line={line} />
          ))}
        </tbody>
      </table>
      <Address order={order} />
    </section>
  );
}

/** By which job plan each line is done: people, skill, what to read first, and the parts it takes. */
/** The planned parts entered as used, in one press. */
function BookPlanned({ order }: { order: OrderPage }) {
  const [book, { data }] = storesApi.useUsePlannedMutation();
  const { errors, submit } = useSubmit([]);
  const isOver = order.stage === 'called off' || order.stage === 'settled';
  const isPlanned = order.lines.some((l) => !l.off && (l.plan?.parts.length ?? 0) > 0);
  const may = useReader().may(usePlanned);
  if (isOver || !isPlanned || !may) return null;
  return (
    <>
      <button
        type="button"
        className="act mt-1"
        onClick={() => void submit(book({ params: { id: String(order.id) } }))}
      >
        They were used
      </button>
      {data && (
        <span className="quiet ml-3" role="status">
          {data.booked > 0 ? `${plural(data.booked, 'part')} entered.` : 'Nothing is left to enter.'}
          {data.left.length > 0 && ` Enter by itself: ${data.left.join(', ')}.`}
        </span>
      )}
      <GeneralError errors={errors} />
    </>
  );
}

export function ByPlan({ order }: { order: OrderPage }) {
  const planned = order.lines.filter((l) => l.plan !== null && !l.off);
  const alike = [...group(planned, (l) => JSON.stringify(l.plan)).values()];
  if (alike.length === 0) return null;
  return (
    <section>
      <h2>By job plan</h2>
      {alike.map((own) => {
        const [{ plan, tag }] = own as [Line];
        if (!plan) return null;
        return (
          <div key={tag} className="border-t border-hairline py-1">
            {order.lines.length > 1 && <p className="serial quiet">{own.map((l) => l.tag).join(', ')}</p>}
            <p>
              {plan.name} <span className="quiet">version {plan.version}</span>: {sayMinutes(plan.minutes)},{' '}
              {plan.crew === 1 ? 'one person' : `${plan.crew} people`}
              {plan.skills.length > 0 && `, ${plan.skills.join(' and ')}`}.
            </p>
            {plan.safety && <p className="border border-base-content bg-base-100 px-3 py-1">{plan.safety}</p>}
            {plan.parts.length > 0 && (
              <p>
                Takes{' '}
                {plan.parts.map((p) => `${sayAmount(p.thousandths, p.unit)} of ${p.name} (${p.number})`).join(', ')}.
              </p>
            )}
          </div>
        );
      })}
      <BookPlanned order={order} />
    </section>
  );
}

/** Who bears the work, and what it is of where it is one machine. */
export function CoverAndMachine({ order }: { order: OrderPage }) {
  const [only, ...others] = order.lines;
  if (!only || others.length > 0) return <Covers order={order} />;
  return (
    <>
      <Covers order={order} />
      {only.visit && <Owed visit={only.visit} minutes={order.minutes} />}
      <OneMachine order={order} line={only} />
    </>
  );
}
