// What came on a purchase order: good and not good of each line, its serials; and then for whom it is.
import { useState } from 'react';
import { Link } from 'react-router';
import { receivePurchase, type PurchasePage } from '#api/purchases.ts';
import { orderNumber } from '#api/shapes.ts';
import { sayAmount, sayQuantity } from '#core/stores/index.ts';
import { newRequestKey } from '../parts/fields.tsx';
import { WireNumber, WireText, WireTick } from '../parts/wire-fields.tsx';
import { useWireForm, WireForm } from '../parts/wire-form.tsx';
import { Dialog } from '../shell/dialog.tsx';
import { storesApi } from './endpoints.ts';
import { serialsIn } from './moving.tsx';

type Line = { lineId: number; thousandths: number; refused: number; why: string; serials: string };
type Typed = { text: string; more: boolean; lines: Line[] };
type Served = {
  readonly orderId: number;
  readonly number: string;
  readonly name: string;
  readonly thousandths: number;
};

const bodyOf = (requestKey: string, { text, more, lines }: Typed) => ({
  ...{ requestKey, text, more },
  lines: lines.map(({ serials, ...l }) => ({ ...l, serials: serialsIn(serials) })),
});

function LineFields({ at, line }: { at: number; line: PurchasePage['lines'][number] }) {
  const { part, toCome } = line;
  return (
    <fieldset className="border-t border-hairline pt-2 pb-3">
      <legend className="sr-only">{part.name}</legend>
      <p>
        <span className="serial">{part.number}</span> {part.name}{' '}
        <span className="quiet">{sayAmount(toCome, part.unit)} to come</span>
      </p>
      <div className="mt-1 grid grid-cols-[7rem_7rem_1fr] gap-3">
        <WireNumber name={`lines.${at}.thousandths`} label={`Good, ${part.unit}`} per={1000} min={0} step="any" />
        <WireNumber name={`lines.${at}.refused`} label="Not good" per={1000} min={0} step="any" />
        <WireText name={`lines.${at}.why`} label="What is wrong" />
      </div>
      {part.serialTracked && (
        <WireText name={`lines.${at}.serials`} label="Serials" hint="One for each, with a space between them." />
      )}
    </fieldset>
  );
}

function ForWhom({ served, onClose }: { served: readonly Served[]; onClose: () => void }) {
  return (
    <>
      <h1>It is in the store</h1>
      {served.length === 0 ? (
        <p>Nobody waits for it: it is free for whoever needs it.</p>
      ) : (
        <>
          <p>Put it aside for:</p>
          <ul className="mt-1">
            {served.map((s) => (
              <li key={`${s.orderId} ${s.number}`}>
                <Link className="serial link-ink" to={`/orders/${s.orderId}`}>
                  {orderNumber(s.orderId)}
                </Link>{' '}
                {sayQuantity(s.thousandths)} × <span className="serial">{s.number}</span> {s.name}
              </li>
            ))}
          </ul>
        </>
      )}
      <div className="form-acts">
        <button className="act-main" onClick={onClose}>
          Done
        </button>
      </div>
    </>
  );
}

export function DeliveryDialog({ page, onClose }: { page: PurchasePage; onClose: () => void }) {
  const [receive] = storesApi.useReceivePurchaseMutation();
  const [requestKey] = useState(newRequestKey);
  const [lines] = useState(() => page.lines.filter((l) => l.toCome > 0));
  const [served, setServed] = useState<readonly Served[] | null>(null);
  const start: Typed = {
    ...{ text: '', more: false },
    lines: lines.map((l) => ({ lineId: l.id, thousandths: l.toCome, refused: 0, why: '', serials: '' })),
  };
  const form = useWireForm(receivePurchase, start, (typed) => bodyOf(requestKey, typed) as never);
  return (
    <Dialog title="What came" onClose={onClose} wide>
      {served !== null ? (
        <ForWhom served={served} onClose={onClose} />
      ) : (
        <WireForm
          form={form}
          name="What came"
          save="Take it in"
          send={(typed) => receive({ params: { id: String(page.id) }, body: bodyOf(requestKey, typed) })}
          onDone={(done) => setServed(done.for)}
          onCancel={onClose}
        >
          <h1>What came</h1>
          {lines.map((l, i) => (
            <LineFields key={l.id} at={i} line={l} />
          ))}
          <WireText name="text" label="Delivery note" />
          <WireTick name="more" label="Take more than was ordered where more came" className="pt-1" />
        </WireForm>
      )}
    </Dialog>
  );
}
