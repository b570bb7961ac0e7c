// An order on site: where it is and whom to ask, who bears it in one sentence, what was done here before, and what there is to do.
import { lazy, Suspense, useState } from 'react';
import { Link, useNavigate, useParams } from 'react-router';
import type { FieldOrder } from '#api/field.ts';
import { orderNumber } from '#api/shapes.ts';
import { sayAmount } from '#core/stores/index.ts';
import { sayDate, type Zone } from '#core/time/index.ts';
import { plural, sayTime } from '../parts/words.ts';
import { StageMoon } from '../parts/stage-moon.tsx';
import { NotHeld, Refused, useDoing } from './doing.tsx';
import { actsHere, ofOrder, useHeld, useNow, useOrder, zoneOf, type OnOrder } from './held.ts';
import { NextAct } from './next.tsx';
import { PhotoButton } from './photo-button.tsx';
import { lineScanned, ScanButton } from './scan.tsx';
import { sayPromise, toneOf } from './promises.ts';

const AlertCurve = lazy(async () => ({ default: (await import('./curve.tsx')).AlertCurve }));

const mapOf = (order: FieldOrder): string | null =>
  order.position
    ? `geo:${order.position.latitude},${order.position.longitude}?q=${encodeURIComponent(order.page.address?.value ?? `${order.position.latitude},${order.position.longitude}`)}`
    : order.page.address && `geo:0,0?q=${encodeURIComponent(order.page.address.value)}`;

function Where({ order }: { order: OnOrder }) {
  const { page } = order;
  const map = mapOf(order);
  const contact = page.contact ?? page.caller;
  return (
    <section aria-label="Where">
      <p>{page.lines[0]?.place}</p>
      {page.address && <p>{page.address.value}</p>}
      {page.accessNote && <p className="sheet mt-2 px-3 py-2">{page.accessNote}</p>}
      {[...page.reminders, ...page.notes].map((text) => (
        <p key={text} className="sheet mt-2 px-3 py-2">
          {text}
        </p>
      ))}
      <div className="mt-3 flex flex-wrap gap-2">
        {map && (
          <a className="plain" href={map}>
            Navigate
          </a>
        )}
        {contact?.phone && (
          <a className="plain" href={`tel:${contact.phone.replaceAll(' ', '')}`}>
            Call {contact.name}
          </a>
        )}
        {contact?.email && (
          <a className="plain" href={`mailto:${contact.email}`}>
            Write
          </a>
        )}
      </div>
    </section>
  );
}

function Promises({ order, zone }: { order: OnOrder; zone: Zone }) {
  const now = useNow();
  const said = order.page.clocks.flatMap((c) => {
    const text = sayPromise(c, order.here, now, zone);
    return text === null ? [] : [{ text, tone: toneOf(c, now), key: `${c.assetId} ${c.target}` }];
  });
  if (order.here.state.pausedSince !== null)
    return <p className="field-bar mt-2">paused: {order.here.state.waitingFor}</p>;
  return said.map(({ text, tone, key }) => (
    <p key={key} className={`mt-1 font-semibold ${tone}`}>
      {text}
    </p>
  ));
}

/** Which machine one stands before: it is marked where it is of this order, and named where it is not. */
function ScanMachine({ order, take }: { order: OnOrder; take: (lineId: number) => void }) {
  const { orders } = useHeld();
  const navigate = useNavigate();
  return (
    <ScanButton
      text="Scan the machine"
      read={(text) => {
        const { code, lineId } = lineScanned(order, text);
        if (lineId !== null) {
          take(lineId);
          return null;
        }
        const other = [...orders.values()].find((o) => lineScanned(o, text).lineId !== null);
        if (other) return `${code} is not on this order: it is on ${orderNumber(other.page.id)} ${other.page.title}.`;
        void navigate(`/order/${order.page.id}/machine?code=${encodeURIComponent(code)}`);
        return null;
      }}
    />
  );
}

function Machine({ order, lineId, isScanned }: { order: OnOrder; lineId: number; isScanned: boolean }) {
  const line = order.page.lines.find((l) => l.id === lineId);
  const machine = order.machines.find((m) => m.lineId === lineId);
  const found = order.here.state.found.get(lineId) ?? line?.found;
  const words = found && [found.symptom, found.fault, found.cause, found.remedy].filter((w) => w !== null).join(', ');
  if (!line) return null;
  return (
    <section aria-label={line.tag === '' ? 'The place' : line.tag}>
      <h2>
        {line.tag === '' ? 'No machine named yet' : `${line.className} ${line.model}`}{' '}
        <span className="serial font-normal">{line.tag}</span>
      </h2>
      {isScanned && (
        <p role="status" className="field-bar mt-1">
          ✓ This is the one you scanned
        </p>
      )}
      {line.serial !== '' && <p className="quiet serial">{line.serial}</p>}
      {line.verdict && <p className="mt-1">{line.verdict.sentence}</p>}
      {line.plan && line.plan.safety !== '' && <p className="field-bar mt-2">▲ {line.plan.safety}</p>}
      <Link className="row" to={`/order/${order.page.id}/found/${lineId}`}>
        <span>
          <span className="block font-semibold">What was found</span>
          <span className="quiet">{words || 'nothing said yet'}</span>
        </span>
      </Link>
      {machine && machine.meters.length > 0 && (
        <Link className="row" to={`/order/${order.page.id}/reading/${lineId}`}>
          <span>
            <span className="block font-semibold">Meters</span>
            <span className="quiet">
              {machine.meters.map((m) => `${m.name}${m.last ? ` ${m.last.value} ${m.unit}` : ''}`).join(', ')}
            </span>
          </span>
        </Link>
      )}
      {machine && machine.assetId !== null && order.here.state.stage === 'on site' && (
        <Link className="row" to={`/order/${order.page.id}/swap/${lineId}`}>
          <span>
            <span className="block font-semibold">Swap</span>
            <span className="quiet">
              {machine.parts.length === 0
                ? 'for another one'
                : `it, or one of its ${plural(machine.parts.length, 'part')}`}
            </span>
          </span>
        </Link>
      )}
      {machine && machine.last.length > 0 && (
        <details>
          <summary className="flex min-h-11 items-center underline">
            Last here: {machine.last[0]?.who ?? 'somebody'}, {sayDate(machine.last[0]?.on ?? ('' as never))}
          </summary>
          {machine.last.map((w) => (
            <div key={w.orderId} className="border-b border-hairline py-1.5">
              <p className="font-semibold">{w.title}</p>
              <p className="quiet">
                {sayDate(w.on)}, {w.who ?? 'nobody named'}
                {w.cause && ` · ${w.cause}`}
                {w.remedy && ` · ${w.remedy}`}
              </p>
              {w.notes.map((n) => (
                <p key={n}>{n}</p>
              ))}
            </div>
          ))}
        </details>
      )}
    </section>
  );
}

function TasksAndForms({ order }: { order: OnOrder }) {
  const { refusals, actOn } = useDoing();
  const { tasks, forms } = order.facts;
  const { state, missing } = order.here;
  const isMissing = (what: 'task' | 'form', id: number): boolean => missing.some((m) => m.what === what && m.id === id);
  if (tasks.length === 0 && forms.length === 0) return null;
  return (
    <section aria-label="To do">
      <h2>To do</h2>
      {tasks.map((t) => {
        const outcome = state.tasks.get(t.id);
        return (
          <button
            key={t.id}
            className="row"
            disabled={outcome === 'done'}
            onClick={() => void actOn(order, { kind: 'task', taskId: t.id, outcome: 'done', text: '' }, { stay: true })}
          >
            <span
              aria-hidden="true"
              className="inline-flex h-6 w-6 shrink-0 items-center justify-center border border-current"
            >
              {outcome === 'done' ? '✓' : outcome === 'left' ? '–' : ''}
            </span>
            <span>
              {t.text}
              {isMissing('task', t.id) && <span className="quiet"> needed</span>}
              {outcome && <span className="quiet"> {outcome}</span>}
            </span>
          </button>
        );
      })}
      {forms.map((f) => (
        <Link key={f.id} className="row" to={`/order/${order.page.id}/form/${f.id}`}>
          <span
            aria-hidden="true"
            className="inline-flex h-6 w-6 shrink-0 items-center justify-center border border-current"
          >
            {state.forms.has(f.id) ? '✓' : ''}
          </span>
          <span>
            {f.name}
            <span className="quiet">
              {' '}
              {plural(f.questions.length, 'question')}
              {isMissing('form', f.id) && ', needed'}
            </span>
          </span>
        </Link>
      ))}
      <Refused refusals={refusals} />
    </section>
  );
}

function Bring({ order }: { order: OnOrder }) {
  if (order.bring.length === 0) return null;
  return (
    <section aria-label="Parts">
      <h2>Parts for it</h2>
      {order.bring.map((b) => (
        <p key={`${b.lineId} ${b.partId}`} className="row">
          <span>
            {sayAmount(b.wanted, b.unit)} {b.name} <span className="serial">{b.number}</span>
            <span className="quiet block">
              {b.inVan > 0 && `${sayAmount(b.inVan, b.unit)} in your van`}
              {b.inVan === 0 && b.held.length > 0 && `held in ${b.held.join(', ')}`}
              {b.used > 0 && ` · ${sayAmount(b.used, b.unit)} used`}
              {b.open > 0 && ` · ▲ ${sayAmount(b.open, b.unit)} not there yet`}
            </span>
          </span>
        </p>
      ))}
    </section>
  );
}

/** What was done here and is not at the office yet, and what the office knows. */
function Happened({ order, zone }: { order: OnOrder; zone: Zone }) {
  const state = useHeld();
  const own = ofOrder(actsHere(state), order.page.id).filter(({ body }) => body.kind !== 'order');
  const said: Readonly<Record<string, string>> = {
    part: 'part used',
    need: 'part asked for',
    time: 'hours entered',
    photo: 'photo taken',
    cost: 'cost entered',
    rest: 'left the rest for later',
    machine: 'a machine put on the order',
    swap: 'swapped',
    'was at': 'where you were',
    'to invoice': 'to be invoiced',
  };
  const events = [...order.page.events].reverse().slice(0, 12);
  return (
    <section aria-label="What happened">
      <h2>What happened</h2>
      {own.map((a) => (
        <p key={a.id} className="row">
          {said[a.body.kind] ?? a.body.kind} <span className="quiet">{sayTime(a.at, zone)}, waits to be sent</span>
        </p>
      ))}
      {events.map((e) => (
        <p key={e.id} className="border-b border-hairline py-1.5">
          {e.text}{' '}
          <span className="quiet">
            {sayTime(e.at, zone)}
            {e.who && `, ${e.who}`}
          </span>
        </p>
      ))}
    </section>
  );
}

/** What else is open at the place: asked about by whoever stands there. */
function AlsoHere({ order }: { order: OnOrder }) {
  const { orders } = useHeld();
  if (order.alsoHere.length === 0) return null;
  return (
    <section aria-label="Also open here">
      <h2>Also open here</h2>
      {order.alsoHere.map((o) => {
        const text = (
          <span>
            <span className="block">
              <span className="serial">{orderNumber(o.orderId)}</span> {o.title}
            </span>
            <span className="quiet">
              {o.stage}
              {o.said && `: “${o.said}”`}
            </span>
          </span>
        );
        return orders.has(o.orderId) ? (
          <Link key={o.orderId} className="row" to={`/order/${o.orderId}`}>
            {text}
          </Link>
        ) : (
          <p key={o.orderId} className="row">
            {text}
          </p>
        );
      })}
    </section>
  );
}

const Photos = ({ order }: { order: OnOrder }) => (
  <section aria-label="Photos">
    <PhotoButton orderId={order.page.id} text="Take a photo" />
  </section>
);

export function OrderPage() {
  const { id } = useParams();
  const state = useHeld();
  const order = useOrder(Number(id));
  const [scanned, setScanned] = useState<number | null>(null);
  const zone = zoneOf(state);
  if (!order) return <NotHeld />;
  const { page } = order;
  const appointment = state.days?.appointments.find((a) => a.orderIds.includes(page.id));
  return (
    <>
      <main>
        <p className="quiet">
          <span className="serial">{orderNumber(page.id)}</span> · {page.kind} · priority {page.priority}
        </p>
        <h1 className="flex items-center gap-2">
          <StageMoon stage={order.here.state.stage} size={22} />
          {page.title}
        </h1>
        <p className="font-semibold">{page.customer.name}</p>
        <Promises order={order} zone={zone} />
        {page.callerSaid && <p className="mt-2">“{page.callerSaid}”</p>}
        <Where order={order} />
        {page.lines.some((l) => !l.off && l.tag !== '') && <ScanMachine order={order} take={setScanned} />}
        {order.alerts.map((a) => (
          <Suspense key={`${a.tag} ${a.startedAt}`}>
            <AlertCurve alert={a} zone={zone} />
          </Suspense>
        ))}
        {page.lines
          .filter((l) => !l.off)
          .toSorted((a, b) => Number(b.id === scanned) - Number(a.id === scanned))
          .map((l) => (
            <Machine key={l.id} order={order} lineId={l.id} isScanned={l.id === scanned} />
          ))}
        {order.here.state.stage === 'on site' && (
          <Link className="row mt-3" to={`/order/${page.id}/machine`}>
            Another machine here
          </Link>
        )}
        <TasksAndForms order={order} />
        <Bring order={order} />
        <AlsoHere order={order} />
        <Photos order={order} />
        <Happened order={order} zone={zone} />
      </main>
      <NextAct order={order} appointment={appointment} />
    </>
  );
}
