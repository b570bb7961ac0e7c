// What is asked before a purchase order is changed, closed short, invoiced otherwise or called off.
import {
  callOffPurchase,
  closeShort,
  purchaseNumber,
  setInvoiced,
  setPurchaseLine,
  type PurchasePage,
} from '#api/purchases.ts';
import { sayAmount, sayQuantity } from '#core/stores/index.ts';
import { WireDate, WireMoney, WireNumber, WireText } from '../parts/wire-fields.tsx';
import { useWireForm, WireForm } from '../parts/wire-form.tsx';
import { Dialog } from '../shell/dialog.tsx';
import { storesApi } from './endpoints.ts';

type Line = PurchasePage['lines'][number];
const CURRENCY = 'EUR';
const paramsOf = (page: PurchasePage, line: Line) => ({ id: String(page.id), part: String(line.part.id) });

export function LineDialog({ page, line, onClose }: { page: PurchasePage; line: Line; onClose: () => void }) {
  const [set] = storesApi.useSetPurchaseLineMutation();
  const { thousandths, unitPrice, promisedOn, version } = line;
  const form = useWireForm(setPurchaseLine, { thousandths, unitPrice, promisedOn, version });
  const isSent = page.stage === 'sent';
  const title = isSent ? 'As it was confirmed' : 'Change the line';
  return (
    <Dialog title={title} onClose={onClose}>
      <WireForm
        form={form}
        name={title}
        save="Save"
        send={(body) => set({ params: paramsOf(page, line), body })}
        onDone={onClose}
        onCancel={onClose}
      >
        <h1>
          <span className="serial">{line.part.number}</span> {line.part.name}
        </h1>
        {!isSent && (
          <WireNumber
            name="thousandths"
            label={`Quantity, ${line.part.unit}`}
            per={1000}
            min={0}
            step="any"
            hint="0 takes it off."
          />
        )}
        <div className="grid grid-cols-2 gap-3">
          <WireMoney name="unitPrice" label="Price of one" currency={CURRENCY} />
          <WireDate name="promisedOn" label="Promised for" />
        </div>
      </WireForm>
    </Dialog>
  );
}

export function ShortDialog({ page, line, onClose }: { page: PurchasePage; line: Line; onClose: () => void }) {
  const [close] = storesApi.useCloseShortMutation();
  const form = useWireForm(closeShort, { version: line.version, reason: '' });
  return (
    <Dialog title="Close it short" onClose={onClose}>
      <WireForm
        form={form}
        name="Close it short"
        save="Nothing more comes"
        send={(body) => close({ params: paramsOf(page, line), body })}
        onDone={onClose}
        onCancel={onClose}
      >
        <h1>
          {sayAmount(line.toCome, line.part.unit)} of <span className="serial">{line.part.number}</span>{' '}
          {line.toCome === 1000 ? 'does' : 'do'} not come
        </h1>
        <p className="quiet">Whoever waits for them is to be bought for again.</p>
        <WireText name="reason" label="Why" autoFocus />
      </WireForm>
    </Dialog>
  );
}

export function InvoicedDialog({ page, line, onClose }: { page: PurchasePage; line: Line; onClose: () => void }) {
  const [set] = storesApi.useSetInvoicedMutation();
  const form = useWireForm(setInvoiced, { version: line.version, unitPrice: line.unitPrice ?? NaN });
  return (
    <Dialog title="Invoiced at" onClose={onClose}>
      <WireForm
        form={form}
        name="Invoiced at"
        save="Keep it"
        send={(body) => set({ params: paramsOf(page, line), body })}
        onDone={onClose}
        onCancel={onClose}
      >
        <h1>
          What <span className="serial">{line.part.number}</span> was invoiced at
        </h1>
        <p className="quiet">
          What was issued keeps its value; the difference of the {sayQuantity(line.received)} received goes to variance.
        </p>
        <WireMoney name="unitPrice" label="Price of one" currency={CURRENCY} />
      </WireForm>
    </Dialog>
  );
}

export function CallOffDialog({ page, onClose }: { page: PurchasePage; onClose: () => void }) {
  const [call] = storesApi.useCallOffPurchaseMutation();
  const form = useWireForm(callOffPurchase, { version: page.version, reason: '' });
  return (
    <Dialog title="Call it off" onClose={onClose}>
      <WireForm
        form={form}
        name="Call it off"
        save="Call it off"
        send={(body) => call({ params: { id: String(page.id) }, body })}
        onDone={onClose}
        onCancel={onClose}
      >
        <h1>Call {purchaseNumber(page.id)} off</h1>
        {page.stage === 'sent' && <p className="quiet">The supplier is not told by this: tell them.</p>}
        <WireText name="reason" label="Why" autoFocus />
      </WireForm>
    </Dialog>
  );
}
