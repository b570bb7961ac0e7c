// Finishing: what is missing first, who signs for the work, and done; or what is left goes on as another order.
import { useEffect, useRef, useState } from 'react';
import SignaturePad from 'signature_pad';
import { Link, useNavigate } from 'react-router';
import { orderNumber } from '#api/shapes.ts';
import type { Missing } from '#core/orders/index.ts';
import { Held, Refused, useDoing } from './doing.tsx';
import { useDraft } from './draft.ts';
import { begunBy, useHeld, usePhone, type OnOrder } from './held.ts';
import { Asking, Typed, Words } from './typed.tsx';

/** What is missing as the phone knows it: by the rules, and what the office said besides. */
function missingOf(order: OnOrder): readonly Pick<Missing, 'what' | 'lineId' | 'id' | 'text'>[] {
  const elsewhere = order.page.missing.filter(
    (m) => (m.what === 'sign-off' && order.here.state.signed === null) || m.what === 'running time',
  );
  return [...order.here.missing, ...elsewhere];
}

function whereTo(order: OnOrder, { what, lineId, id }: Pick<Missing, 'what' | 'lineId' | 'id'>): string {
  const of = `/order/${order.page.id}`;
  if (what === 'form') return `${of}/form/${id}`;
  if (what === 'findings') return `${of}/found/${lineId}`;
  return of;
}

type Pad = {
  readonly isEmpty: () => boolean;
  readonly clear: () => void;
  readonly picture: () => Promise<Blob | null>;
};

/** A place to sign on, with a finger. */
function Signing({ onPad }: { onPad: (pad: Pad) => void }) {
  const canvas = useRef<HTMLCanvasElement>(null);
  useEffect(() => {
    const of = canvas.current;
    if (!of) return;
    const ratio = Math.max(devicePixelRatio, 1);
    of.width = of.offsetWidth * ratio;
    of.height = of.offsetHeight * ratio;
    of.getContext('2d')?.scale(ratio, ratio);
    const pad = new SignaturePad(of, { penColor: '#16202e', backgroundColor: '#fffdf8' });
    onPad({
      isEmpty: () => pad.isEmpty(),
      clear: () => pad.clear(),
      picture: () => new Promise((done) => of.toBlob(done, 'image/jpeg', 0.8)),
    });
    return () => pad.off();
  }, [onPad]);
  return (
    <canvas
      ref={canvas}
      role="img"
      aria-label="Sign here with a finger"
      className="mt-1 h-40 w-full touch-none border border-secondary"
    />
  );
}

type Signed = { readonly by: string; readonly function: string; readonly why: string };

function SignOff({ order }: { order: OnOrder }) {
  const phone = usePhone();
  const { refusals, actOn, setRefusals } = useDoing();
  const [said, change, forget] = useDraft<Signed>(`signed ${order.page.id}`, { by: '', function: '', why: '' });
  const pad = useRef<Pad | null>(null);
  const [holdPad] = useState(() => (p: Pad) => void (pad.current = p));
  const { signed } = order.here.state;
  if (signed)
    return (
      <p className="row">
        {signed.by === ''
          ? `Nobody signed: ${signed.text}`
          : `Signed by ${signed.by}${signed.function ? `, ${signed.function}` : ''}`}
      </p>
    );
  if (said === null) return null;
  const keep = async (): Promise<void> => {
    const by = said.by.trim();
    const drawn = pad.current && !pad.current.isEmpty() ? await pad.current.picture() : null;
    if (by !== '' && drawn === null)
      return setRefusals([{ code: 'missing', message: 'Let them sign in the field below.' }]);
    const text = by === '' ? said.why.trim() : '';
    const done = await actOn(order, { kind: 'signed', by, function: said.function.trim(), text }, { stay: true });
    if (done === null) return;
    if (drawn !== null) {
      const name = `${orderNumber(order.page.id)} signed by ${by}.jpg`;
      const kept = await phone.addPhoto(order.page.id, drawn, name, true);
      if (!kept.ok) return setRefusals(kept.refusals);
    }
    forget();
  };
  return (
    <section aria-label="Signature">
      <h2>Signature</h2>
      <Typed label="Who signs" value={said.by} change={(t) => change({ ...said, by: t })} />
      {said.by.trim() === '' ? (
        <Typed label="Or why nobody does" value={said.why} change={(t) => change({ ...said, why: t })} />
      ) : (
        <>
          <Typed label="As what" value={said.function} change={(t) => change({ ...said, function: t })} />
          <Signing onPad={holdPad} />
          <button className="plain mt-1" onClick={() => pad.current?.clear()}>
            Sign anew
          </button>
        </>
      )}
      <Refused refusals={refusals} />
      <button className="plain mt-3 w-full" onClick={() => void keep()}>
        Keep it
      </button>
    </section>
  );
}

function Finish({ order }: { order: OnOrder }) {
  const navigate = useNavigate();
  const { refusals, actOn } = useDoing();
  const [text, change, forget] = useDraft(`done ${order.page.id}`, '');
  if (text === null) return null;
  const missing = missingOf(order);
  const finish = async (): Promise<void> => {
    if ((await actOn(order, { kind: 'done', text: text.trim() }, { stay: true })) === null) return;
    forget();
    void navigate('/');
  };
  return (
    <>
      <main>
        <h1>Finish</h1>
        <p className="font-semibold">{order.page.title}</p>
        {missing.length > 0 && (
          <section aria-label="Missing">
            <h2>Missing</h2>
            {missing.map((m) =>
              m.what === 'sign-off' ? (
                <p key={m.text} className="row">
                  {m.text}
                </p>
              ) : (
                <Link key={`${m.what} ${m.lineId} ${m.id}`} className="row underline" to={whereTo(order, m)}>
                  {m.text}
                </Link>
              ),
            )}
          </section>
        )}
        <SignOff order={order} />
        {order.comesTo && (
          <Link className="row" to={`/order/${order.page.id}/pay`}>
            <span className="flex-1">What it comes to, and how they pay</span>
            <span aria-hidden="true">›</span>
          </Link>
        )}
        <Typed label="What was done, for the customer" rows={3} value={text} change={change} />
        <Refused refusals={refusals} />
      </main>
      <footer className="field-foot">
        <button className="wide" disabled={missing.length > 0} onClick={() => void finish()}>
          {missing.length > 0 ? `${missing.length} missing` : 'Done'}
        </button>
        <Link className="plain mt-2" to={`/order/${order.page.id}/rest`}>
          Not finished …
        </Link>
      </footer>
    </>
  );
}

export const FinishPage = () => <Held show={(order) => <Finish order={order} />} />;

type Left = { readonly reason: string; readonly parts: string; readonly on: string; readonly own: boolean };

/** What cannot be finished now goes on as an order of its own, ready for the dispatcher. */
function Rest({ order }: { order: OnOrder }) {
  const state = useHeld();
  const lines = order.page.lines.filter((l) => !l.off && l.handedOn === null);
  const { refusals, act } = useDoing();
  const [chosen, choose] = useState<readonly number[]>(lines.map((l) => l.id));
  const [said, change, forget] = useDraft<Left>(`left ${order.page.id}`, { reason: '', parts: '', on: '', own: false });
  if (said === null) return null;
  const { reason, parts, on, own } = said;
  const keep = async (): Promise<void> => {
    const rest = { orderId: order.page.id, lineIds: [...chosen], reason: reason.trim(), parts: parts.trim() };
    const when = own || on === '' ? null : on;
    const told = await act({ kind: 'rest', ...rest, wishedOn: when, own }, { needs: begunBy(state, order.page.id) });
    if (told !== null) forget();
  };
  return (
    <Asking
      title="Not finished"
      keep={{
        text: own ? 'I do it later today' : 'Leave it for another visit',
        isOff: reason.trim() === '' || chosen.length === 0,
        go: () => void keep(),
      }}
    >
      <p className="quiet">The rest becomes an order of its own.</p>
      <Words
        label="Who goes on with it"
        of={[false, true]}
        say={(mine) => (mine ? 'I do, later today' : 'The dispatcher plans it')}
        isPressed={(mine) => mine === own}
        press={(mine) => change({ ...said, own: mine })}
      />
      {lines.length > 1 &&
        lines.map((l) => (
          <button
            key={l.id}
            className="row"
            aria-pressed={chosen.includes(l.id)}
            onClick={() => choose(chosen.includes(l.id) ? chosen.filter((c) => c !== l.id) : [...chosen, l.id])}
          >
            <span aria-hidden="true">{chosen.includes(l.id) ? '●' : '○'}</span> {l.tag} {l.model}
          </button>
        ))}
      <Typed
        label="What is left, and why"
        rows={3}
        value={reason}
        change={(text) => change({ ...said, reason: text })}
      />
      <Typed label="What is needed for it" value={parts} change={(text) => change({ ...said, parts: text })} />
      {!own && <Typed label="When they want it" isDate value={on} change={(day) => change({ ...said, on: day })} />}
      <Refused refusals={refusals} />
    </Asking>
  );
}

export const RestPage = () => <Held show={(order) => <Rest order={order} />} />;
