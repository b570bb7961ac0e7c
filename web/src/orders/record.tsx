// The record of one order: what it is, its clocks, its cover as decided when it was raised, and what happened.
import { Link } from 'react-router';
import { readDerivations } from '#api/derivations.ts';
import type { OrderPage } from '#api/orders.ts';
import { orderNumber } from '#api/shapes.ts';
import { isFinished } from '#core/orders/index.ts';
import { type Zone } from '#core/time/index.ts';
import { Files } from '../files/index.ts';
import { ComesTo } from '../settle/index.ts';
import { PartsNeeded } from '../stores/index.ts';
import { OffersOf } from '../offers/index.ts';
import { AlertsOf } from '../signals/index.ts';
import { MarginBar } from '../parts/margin-bar.tsx';
import { StageMoon } from '../parts/stage-moon.tsx';
import { sayDate, sayMinutes, sayMoment, sayMoney, sayZone } from '../parts/words.ts';
import { useReader } from '../shell/reader.tsx';
import { ByPlan, CoverAndMachine, SeveralMachines } from './machines.tsx';
import { AlsoHere } from './also-here.tsx';
import { Findings } from './findings.tsx';
import { Around, ChangeHead } from './head.tsx';
import { StillMissing } from './missing.tsx';
import { Tasks } from './tasks.tsx';
import { Told } from './told.tsx';
import { WarnedOfOrder } from './warned.tsx';
import { ActButtons } from './acts.tsx';
import { OrderForms } from './forms.tsx';

/** What the work took, as told when it was done. Costs are shown to those who see prices. */
function Took({ took }: { took: NonNullable<OrderPage['took']> }) {
  const rows = [
    ['Fault', took.fault],
    ['Labour', took.labourMinutes === null ? null : sayMinutes(took.labourMinutes)],
    ['Parts', took.partsCost === null ? null : sayMoney(took.partsCost, 'EUR')],
    ['Other', took.otherCost === null ? null : sayMoney(took.otherCost, 'EUR')],
  ] as const;
  return (
    <section>
      <h2>What it took</h2>
      <dl className="mt-1 grid grid-cols-[6rem_1fr] border-y border-hairline py-1">
        {rows.flatMap(([name, value]) =>
          value === null
            ? []
            : [
                <dt key={`${name} name`} className="quiet">
                  {name}
                </dt>,
                <dd key={name} className="tabular-nums first-letter:uppercase">
                  {value}
                </dd>,
              ],
        )}
      </dl>
    </section>
  );
}

function Clocks({ order }: { order: OrderPage }) {
  const reader = useReader();
  const { zone } = reader;
  return (
    <section
      className="mt-5 grid grid-cols-3 gap-x-6 gap-y-1 max-sm:gap-3 border-y border-hairline py-3"
      aria-label="Clocks"
    >
      {order.clocks.map((c) => (
        <div key={`${c.target}${c.assetId}`}>
          <h2 className="first-letter:uppercase">
            {c.target}{' '}
            <span className="quiet font-normal">
              {sayMinutes(c.promisedMinutes)}, {c.measure}
            </span>
          </h2>
          <MarginBar clock={c} now={order.now} reader={zone} />
        </div>
      ))}
      {order.clocks.length > 0 && <WarnedOfOrder order={order} />}
      {reader.may(readDerivations) && (
        <p className="col-span-full">
          <Link className="link-ink" to={`/orders/${order.id}/clocks`}>
            how they were counted, line by line
          </Link>
        </p>
      )}
    </section>
  );
}

function Happened({ order }: { order: OrderPage }) {
  const zone = order.zone as Zone;
  return (
    <section>
      <h2>
        What happened <span className="quiet font-normal">in {sayZone(zone)} time</span>
      </h2>
      <table className="dense mt-1">
        <tbody>
          {order.events.map((e) => (
            <tr key={e.id}>
              <td className="quiet w-20 whitespace-nowrap">{sayMoment(e.at, order.now, zone)}</td>
              <td>
                {e.text}
                {e.recordedAt - e.at > 5 * 60_000 && (
                  <span className="quiet"> · recorded {sayMoment(e.recordedAt, order.now, zone)}</span>
                )}
              </td>
              <td className="quiet whitespace-nowrap">{e.who ?? 'by itself'}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </section>
  );
}

export function Record({ order }: { order: OrderPage }) {
  return (
    <article className="max-w-5xl px-7 pt-5 pb-10">
      <p className="quiet">
        Work order <span className="serial">{orderNumber(order.id)}</span> · {order.kind} · priority {order.priority} ·{' '}
        <Link className="link-ink" to={`/register?customer=${order.customer.id}`}>
          {order.customer.name}
        </Link>
        <ChangeHead order={order} />
      </p>
      <header className="flex flex-wrap items-center gap-x-3">
        <StageMoon stage={order.stage} size={22} />
        <h1>{order.title}</h1>
        <span className="text-ink2">
          {order.stage}
          {order.pausedSince ? ', paused' : ''}
          {order.technician ? `, ${order.technician}` : ''}
          {order.inCharge ? `, in the hands of ${order.inCharge.name}` : ''}
          {order.plannedFor && order.stage !== 'done' ? `, planned for ${sayDate(order.plannedFor)}` : ''}
        </span>
      </header>
      <AlsoHere orderId={order.id} />
      <OffersOf orderId={order.id} />
      <Around order={order} />
      <div className="mt-3" id="acts">
        <ActButtons order={order} />
      </div>
      <StillMissing order={order} />
      {order.signed && <p className="quiet mt-2 first-letter:uppercase">{order.signed}.</p>}
      {order.clocks.length > 0 && <Clocks order={order} />}
      <SeveralMachines order={order} />
      <div className="mt-5 grid grid-cols-[1fr_1.1fr] gap-x-10 gap-y-6 max-sm:grid-cols-1">
        <div className="space-y-6">
          <CoverAndMachine order={order} />
          <ByPlan order={order} />
          <Findings order={order} />
          {order.took && order.worked === null && <Took took={order.took} />}
          <div id="tasks">
            <Tasks order={order} />
          </div>
          <div id="forms">
            <OrderForms order={order} />
          </div>
        </div>
        <div className="space-y-6">
          <AlertsOf orderId={order.id} now={order.now} />
          <Happened order={order} />
          <Told order={order} />
        </div>
      </div>
      <div className="mt-6" id="parts">
        <PartsNeeded
          orderId={order.id}
          lines={order.lines.map((l) => ({ lineId: l.id, tag: l.tag }))}
          open={!isFinished(order.stage)}
        />
      </div>
      <div className="mt-6" id="time">
        <ComesTo
          orderId={order.id}
          zone={order.zone as Zone}
          lines={order.lines.map((l) => ({ lineId: l.id, orderId: order.id, title: order.title, tag: l.tag }))}
          open={order.stage !== 'called off' && order.stage !== 'settled'}
        />
      </div>
      <section className="mt-6">
        <h2>Photos and papers</h2>
        <Files subject="order" id={order.id} />
      </section>
    </article>
  );
}
