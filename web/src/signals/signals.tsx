// The journal of alerts: what is to be answered, what goes on, what is held back; each with its line of time and the curve that led to it.
import { useState } from 'react';
import { scaleLinear } from 'd3-scale';
import { Link } from 'react-router';
import { acknowledgeAlerts, raiseForAlert, shelveAlert, type AlertList, type AlertOut } from '#api/signals.ts';
import { orderNumber } from '#api/shapes.ts';
import { DAY, formatInstant, sayLength, type Instant, type Zone } from '#core/time/index.ts';
import { GeneralError, TextField, useSubmit } from '../parts/fields.tsx';
import { Pager, usePages } from '../parts/pager.tsx';
import { Table, type Column } from '../parts/table/index.ts';
import { WireLongText, WireNumber } from '../parts/wire-fields.tsx';
import { useWireForm, WireForm } from '../parts/wire-form.tsx';
import { plural, sayMoment } from '../parts/words.ts';
import { Dialog } from '../shell/dialog.tsx';
import { useReader } from '../shell/reader.tsx';
import { Waiting } from '../shell/waiting.tsx';
import { signalsApi } from './endpoints.ts';
import { SignalsPage } from './parts.tsx';
import { PulseLine } from './pulse.tsx';

const SHOWN: readonly (readonly [AlertList, string])[] = [
  ['to answer', 'To answer'],
  ['active', 'Active'],
  ['held back', 'Held back'],
  ['no order', 'Without an order'],
  ['all', 'All'],
];

/** A day on a line, up to now: a bar while it was active, a notch where somebody acknowledged it. */
function Trace({ of, now }: { of: AlertOut; now: Instant }) {
  const x = scaleLinear([now - DAY, now], [0, 120]).clamp(true);
  const [from, to] = [x(of.startedAt), x(of.endedAt ?? now)];
  return (
    <svg width="124" height="16" viewBox="-2 0 124 16" aria-hidden="true">
      <line x1="0" x2="120" y1="8" y2="8" stroke="var(--hairline)" />
      <rect
        x={from}
        y={of.toldAt === null ? 6.5 : 4}
        width={Math.max(2, to - from)}
        height={of.toldAt === null ? 3 : 8}
        fill={of.withdrawn ? 'none' : 'currentColor'}
        stroke="currentColor"
        strokeWidth="1"
      />
      {of.acknowledged && (
        <line
          x1={x(of.acknowledged.at)}
          x2={x(of.acknowledged.at)}
          y1="0"
          y2="16"
          stroke="currentColor"
          strokeWidth="1.5"
        />
      )}
      <line x1="120" x2="120" y1="1" y2="15" stroke="var(--ink2)" strokeDasharray="2 2" />
    </svg>
  );
}

/** How an alert stands, in words. */
function sayStanding(a: AlertOut, now: Instant, zone: Zone): string {
  if (a.withdrawn) return 'withdrawn: told late, there was none';
  if (a.toldAt === null && a.shelf)
    return `shelved until ${sayMoment(a.shelf.until, now, zone)} by ${a.shelf.by}: ${a.shelf.reason}`;
  if (a.toldAt === null)
    return a.heldBy === 'suppressed' ? 'held back by another alert of the machine' : 'was held back';
  const gone = a.endedAt === null ? '' : 'gone, ';
  if (a.acknowledged) return `${gone}acknowledged ${sayMoment(a.acknowledged.at, now, zone)} by ${a.acknowledged.by}`;
  return `${gone}not acknowledged`;
}

type Acts = {
  readonly choose: (id: number) => void;
  readonly acknowledge: ((a: AlertOut) => void) | null;
  readonly shelve: ((a: AlertOut) => void) | null;
  readonly unshelve: (a: AlertOut) => void;
  readonly raise: ((a: AlertOut) => void) | null;
};

function OrderOf({ a, raise }: { a: AlertOut; raise: Acts['raise'] }) {
  if (a.orderId !== null)
    return (
      <>
        <Link className="serial link-ink" to={`/orders/${a.orderId}`}>
          {orderNumber(a.orderId)}
        </Link>
        {(a.joined || a.flooded) && <span className="quiet block">{a.flooded ? 'of the whole place' : 'joined'}</span>}
      </>
    );
  return (
    <>
      {a.noOrder ? (
        <span className="block text-missed">✕ {a.noOrder}</span>
      ) : (
        <span className="quiet">{a.asks ? 'asks first' : 'none'}</span>
      )}
      {raise && !a.withdrawn && (a.asks || a.noOrder !== null) && (
        <button className="link-ink block" onClick={() => raise(a)}>
          raise it
        </button>
      )}
    </>
  );
}

const columns = (now: Instant, zone: Zone, acts: Acts): Column<AlertOut>[] => [
  {
    id: 'alert',
    head: 'Alert',
    value: (a) => a.rule,
    show: (a) => (
      <>
        <button className="text-left font-semibold" onClick={() => acts.choose(a.id)}>
          {a.endedAt === null ? '◆ ' : '◇ '}
          {a.rule}
        </button>
        <span className="quiet block">
          {a.text}
          {a.chatters && ' · chattering'}
        </span>
      </>
    ),
  },
  {
    id: 'asset',
    head: 'Machine and place',
    value: (a) => `${a.tag}, ${a.customer}, ${a.place}`,
    show: (a) => (
      <>
        {a.model}{' '}
        <Link className="serial link-ink" to={`/assets/${a.assetId}`}>
          {a.tag}
        </Link>
        <span className="quiet block">
          {a.customer}, {a.place}
        </span>
      </>
    ),
  },
  {
    id: 'since',
    head: 'Since',
    value: (a) => formatInstant(a.startedAt),
    show: (a) => (
      <>
        {sayMoment(a.startedAt, now, zone)}
        <span className="quiet block">
          {a.endedAt === null ? 'still active' : `for ${sayLength(a.endedAt - a.startedAt)}`}
        </span>
      </>
    ),
    className: 'whitespace-nowrap',
  },
  {
    id: 'trace',
    head: '',
    drawnHead: <span className="quiet">the last day</span>,
    show: (a) => <Trace of={a} now={now} />,
    width: 140,
  },
  { id: 'standing', head: 'How it stands', value: (a) => sayStanding(a, now, zone) },
  {
    id: 'order',
    head: 'Order',
    value: (a) => (a.orderId === null ? null : orderNumber(a.orderId)),
    show: (a) => <OrderOf a={a} raise={acts.raise} />,
  },
  {
    id: 'acts',
    head: '',
    show: (a) => (
      <span className="flex gap-3 whitespace-nowrap">
        {acts.acknowledge && a.toldAt !== null && !a.acknowledged && !a.withdrawn && (
          <button className="link-ink" onClick={() => acts.acknowledge?.(a)}>
            acknowledge
          </button>
        )}
        {acts.shelve &&
          !a.withdrawn &&
          (a.shelf ? (
            <button className="link-ink" onClick={() => acts.unshelve(a)}>
              off the shelf
            </button>
          ) : (
            <button className="link-ink" onClick={() => acts.shelve?.(a)}>
              shelve
            </button>
          ))}
      </span>
    ),
  },
];

/** Why, and for how long, nobody is to hear of it. */
function ShelveAlert({ of, onClose }: { of: AlertOut; onClose: () => void }) {
  const [shelve] = signalsApi.useShelveAlertMutation();
  const form = useWireForm(shelveAlert, { hours: 8, reason: '' });
  return (
    <Dialog title="Shelve the alert" onClose={onClose}>
      <h1>Shelve “{of.rule}”</h1>
      <p className="quiet">
        Of {of.model} {of.tag}: until the end nobody is told, and no order is raised. What still goes on then is told,
        and its clocks start from there.
      </p>
      <WireForm
        form={form}
        name="Shelve the alert"
        save="Shelve"
        send={(body) => shelve({ params: { id: String(of.id) }, body })}
        onDone={onClose}
        onCancel={onClose}
      >
        <WireNumber name="hours" label="For hours" min={1} />
        <WireLongText name="reason" label="Why" />
      </WireForm>
    </Dialog>
  );
}

function Chosen({ of, now }: { of: AlertOut; now: Instant }) {
  return (
    <section className="sheet mt-3 px-4 py-3" aria-label="Chosen alert">
      <p>
        <strong className="font-semibold">{of.rule}</strong> · {of.model}{' '}
        <Link className="serial link-ink" to={`/assets/${of.assetId}`}>
          {of.tag}
        </Link>{' '}
        · {of.customer}, {of.place}
      </p>
      <PulseLine assetId={of.assetId} channel={of.channel} now={now} tall />
    </section>
  );
}

export function SignalsRoom() {
  const reader = useReader();
  const { zone } = reader;
  const [list, setList] = useState<AlertList>('to answer');
  const [search, setSearch] = useState('');
  const pages = usePages();
  const query = signalsApi.useListAlertsQuery(
    { query: { list, ...(search && { search }), ...(pages.after !== undefined && { after: pages.after }) } },
    { pollingInterval: 30_000 },
  );
  const [chosen, setChosen] = useState<number | null>(null);
  const [shelving, setShelving] = useState<AlertOut | null>(null);
  const [acknowledge] = signalsApi.useAcknowledgeAlertsMutation();
  const [unshelve] = signalsApi.useEndShelfMutation();
  const [raise] = signalsApi.useRaiseForAlertMutation();
  const { errors, submit } = useSubmit([]);
  const answers = reader.may(acknowledgeAlerts);
  const acts: Acts = {
    choose: setChosen,
    acknowledge: answers ? (a) => void submit(acknowledge({ body: { alertIds: [a.id] } })) : null,
    shelve: answers ? setShelving : null,
    unshelve: (a) => void submit(unshelve({ params: { id: String(a.shelf?.id) } })),
    raise: reader.may(raiseForAlert) ? (a) => void submit(raise({ params: { id: String(a.id) } })) : null,
  };
  return (
    <Waiting query={query}>
      {({ items, next, now, counts }) => {
        const shown = items.find((a) => a.id === chosen) ?? items[0];
        const howMany: Partial<Record<AlertList, number>> = {
          'to answer': counts.toAnswer,
          active: counts.active,
          'held back': counts.heldBack,
          'no order': counts.noOrder,
        };
        const open = items.filter((a) => a.toldAt !== null && !a.acknowledged && !a.withdrawn);
        return (
          <SignalsPage about={`${plural(counts.active, 'active alert')}, ${counts.toAnswer} to answer`}>
            <div className="mt-3 flex flex-wrap items-end gap-x-5 gap-y-2">
              {SHOWN.map(([key, name]) => (
                <button
                  key={key}
                  aria-pressed={list === key}
                  className={`py-1 ${list === key ? 'font-semibold underline underline-offset-4' : 'link-ink'}`}
                  onClick={() => {
                    setList(key);
                    pages.begin();
                  }}
                >
                  {name}
                  {howMany[key] !== undefined && ` ${howMany[key]}`}
                </button>
              ))}
              <div className="ml-auto w-64">
                <TextField
                  label="Rule, machine or customer"
                  value={search}
                  onChange={(text) => {
                    setSearch(text.slice(0, 80));
                    pages.begin();
                  }}
                />
              </div>
            </div>
            <GeneralError errors={errors} />
            {items.length === 0 ? (
              <p className="mt-3 border-y border-hairline py-4">
                {list === 'to answer' && !search
                  ? 'Nothing to answer: every alert that was told has been acknowledged.'
                  : 'No such alert.'}
              </p>
            ) : (
              <>
                {shown && <Chosen of={shown} now={now} />}
                <section className="mt-4">
                  <Table
                    name="alerts"
                    caption="Alerts"
                    title={<h2>{SHOWN.find(([key]) => key === list)?.[1]}, the newest first</h2>}
                    columns={columns(now, zone, acts)}
                    rows={items}
                    idOf={(a) => a.id}
                    rowClass={(a) => (a.id === shown?.id ? 'bg-base-300' : '')}
                  />
                </section>
                {acts.acknowledge && open.length > 1 && (
                  <button
                    className="act mt-3"
                    onClick={() => void submit(acknowledge({ body: { alertIds: open.map((a) => a.id) } }))}
                  >
                    Acknowledge the {open.length} shown
                  </button>
                )}
              </>
            )}
            <Pager pages={pages} next={next} words={['Newer', 'Older']} />
            {shelving && <ShelveAlert of={shelving} onClose={() => setShelving(null)} />}
          </SignalsPage>
        );
      }}
    </Waiting>
  );
}
