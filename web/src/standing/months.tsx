// Months of standing: closed by a person, and what turned out otherwise since.
import { useState } from 'react';
import { Link } from 'react-router';
import type { Answer } from '#api/contract.ts';
import {
  closeStandingMonth,
  type AdjustmentOut,
  type readStandingMonths,
  type StandingMonthOut,
} from '#api/standing-months.ts';
import { orderNumber } from '#api/shapes.ts';
import { attainmentShare, complianceShare } from '#core/standing/index.ts';
import { Table, type Column } from '../parts/table/index.ts';
import { WireText } from '../parts/wire-fields.tsx';
import { useWireForm, WireForm } from '../parts/wire-form.tsx';
import { plural, sayMoment, sayShare } from '../parts/words.ts';
import { Dialog } from '../shell/dialog.tsx';
import { useReader } from '../shell/reader.tsx';
import { server } from '../shell/store.ts';
import { Waiting } from '../shell/waiting.tsx';
import { AskedPeriod, useAsked, type Period } from './asked.tsx';
import { standingApi } from './endpoints.ts';
import { StandingParts } from './parts.tsx';
import { sayMonth } from './words.ts';

type Next = NonNullable<Answer<typeof readStandingMonths>['next']>;

function CloseDialog({ next: { month, open }, onClose }: { next: Next; onClose: () => void }) {
  const [close] = standingApi.useCloseStandingMonthMutation();
  const form = useWireForm(closeStandingMonth, { month, reason: '' });
  return (
    <Dialog title={`Close ${sayMonth(month)}`} onClose={onClose}>
      <WireForm
        form={form}
        name="Closing"
        save={`Close ${sayMonth(month)}`}
        send={(body) => close({ body })}
        onDone={onClose}
        onCancel={onClose}
      >
        <h1>Close {sayMonth(month)}</h1>
        <p className="quiet mb-3">
          Its figures stay as they are now. What comes late or is corrected afterwards is told as an adjustment, in the
          month in which it is found. Closing is not taken back.
        </p>
        {open > 0 && (
          <>
            <p className="mb-3">
              {plural(open, 'promise')} of it {open === 1 ? 'is' : 'are'} past due and still open: missed, but it is not
              known yet by how much.
            </p>
            <WireText name="reason" label="Why it is closed in spite of that" />
          </>
        )}
      </WireForm>
    </Dialog>
  );
}

function Close({ next }: { next: Next }) {
  const reader = useReader();
  const [isAsking, setAsking] = useState(false);
  if (!reader.may(closeStandingMonth)) return null;
  return (
    <div className="flex items-center gap-3">
      <button className="act" disabled={next.whyNot !== null} onClick={() => setAsking(true)}>
        Close {sayMonth(next.month)}…
      </button>
      {next.whyNot !== null && <span className="quiet">{next.whyNot}</span>}
      {isAsking && <CloseDialog next={next} onClose={() => setAsking(false)} />}
    </div>
  );
}

const useMonthColumns = (): Column<StandingMonthOut>[] => {
  const { zone } = useReader();
  const { data: session } = server.useReadSessionQuery();
  const now = session?.now ?? 0;
  return [
    { id: 'month', head: 'Month', show: (m) => sayMonth(m.month), className: 'whitespace-nowrap' },
    { id: 'met', head: 'Met', isNumber: true, show: (m) => m.met },
    {
      id: 'missed',
      head: 'Missed',
      isNumber: true,
      show: (m) => (m.missed > 0 ? `✕ ${m.missed}` : 0),
      className: (m) => (m.missed > 0 ? 'text-missed' : ''),
    },
    {
      ...{ id: 'attainment', head: 'Attainment', isNumber: true },
      show: (m) => {
        const share = attainmentShare(m);
        return share === null ? <span className="quiet">no promise fell due</span> : sayShare(share);
      },
    },
    { id: 'owed', head: 'Visits owed', isNumber: true, show: (m) => m.owed },
    {
      ...{ id: 'upkeep', head: 'Upkeep', isNumber: true },
      show: (m) => {
        const share = complianceShare({ ...m, declined: 0 });
        return share === null ? '' : sayShare(share);
      },
    },
    {
      ...{ id: 'closed', head: 'Closed' },
      show: (m) =>
        m.closedAt === null ? (
          <span className="quiet">open</span>
        ) : (
          <>
            {sayMoment(m.closedAt, now as never, zone)} by {m.closedBy ?? 'somebody'}
            {m.reason && <span className="quiet"> {m.reason}</span>}
          </>
        ),
    },
    {
      ...{ id: 'adjustments', head: 'Found since', isNumber: true },
      show: (m) => (m.closedAt === null ? '' : m.adjustments),
    },
  ];
};

const sayCounted = (as: AdjustmentOut['before']): string => as ?? 'not counted';

const useFoundColumns = (): Column<AdjustmentOut>[] => {
  const { zone } = useReader();
  const { data: session } = server.useReadSessionQuery();
  const now = session?.now ?? 0;
  return [
    {
      id: 'found',
      head: 'Found',
      show: (a) => sayMoment(a.foundAt, now as never, zone),
      className: 'whitespace-nowrap',
    },
    { id: 'month', head: 'Of', show: (a) => sayMonth(a.month), className: 'whitespace-nowrap' },
    {
      ...{ id: 'what', head: 'What' },
      show: (a) => (
        <>
          {a.orderId !== null && (
            <Link
              className="serial link-ink"
              to={a.thing === 'visit' ? `/orders/${a.orderId}` : `/orders/${a.orderId}/clocks`}
            >
              {orderNumber(a.orderId)}
            </Link>
          )}{' '}
          {a.thing} <span className="serial">{a.tag}</span>
        </>
      ),
    },
    { id: 'customer', head: 'Customer', show: (a) => a.customer },
    { id: 'agreement', head: 'Agreement', show: (a) => <span className="serial">{a.agreement ?? ''}</span> },
    { id: 'before', head: 'Was', show: (a) => sayCounted(a.before) },
    {
      ...{ id: 'after', head: 'Is' },
      show: (a) => sayCounted(a.after),
      className: (a) => (a.after === 'missed' || a.after === 'out of window' ? 'text-missed' : ''),
    },
  ];
};

function Found({ period }: { period: Period }) {
  const columns = useFoundColumns();
  const query = standingApi.useReadAdjustmentsQuery({ query: period });
  return (
    <Waiting query={query}>
      {({ items, isCut }) =>
        items.length === 0 ? (
          <p className="quiet">Nothing was found in this period to count otherwise than when its month was closed.</p>
        ) : (
          <>
            <Table name="adjustments" caption="Adjustments" columns={columns} rows={items} idOf={(a) => a.id} />
            {isCut && <p className="quiet">The newest 200 are shown; choose a shorter period for others.</p>}
          </>
        )
      }
    </Waiting>
  );
}

export function MonthsRoom() {
  const asked = useAsked(3);
  const columns = useMonthColumns();
  const query = standingApi.useReadStandingMonthsQuery();
  return (
    <div className="px-7 pt-5 pb-12">
      <h1>Standing</h1>
      <StandingParts />
      <Waiting query={query}>
        {({ months, next }) => (
          <>
            <div className="mt-4 mb-2 flex flex-wrap items-center justify-between gap-4">
              <p className="quiet max-w-2xl">
                A closed month never changes. What turns out otherwise later is listed below, with the order it is of.
              </p>
              {next && <Close next={next} />}
            </div>
            {months.length === 0 ? (
              <p className="quiet border-y border-hairline py-4">Nothing was promised yet.</p>
            ) : (
              <Table name="standing-months" caption="Months" columns={columns} rows={months} idOf={(m) => m.month} />
            )}
          </>
        )}
      </Waiting>
      {asked && (
        <section className="mt-8" aria-label="Found since months were closed">
          <div className="mb-2 flex flex-wrap items-end gap-4">
            <h2>Found since</h2>
            <AskedPeriod asked={asked} />
          </div>
          {asked.period && <Found period={asked.period} />}
        </section>
      )}
    </div>
  );
}
