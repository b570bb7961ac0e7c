// How a customer is billed: what stands together on a document, whether covered work is shown, and who gets it.
import { changeCustomerBilling, type readCustomerBilling } from '#api/billing.ts';
import type { Answer } from '#api/contract.ts';
import { customersApi } from '../customers/index.ts';
import { WireLongText, WireSelect, WireText, WireTick } from '../parts/wire-fields.tsx';
import { useWireForm, WireForm } from '../parts/wire-form.tsx';
import { Dialog } from '../shell/dialog.tsx';
import { Waiting } from '../shell/waiting.tsx';
import { settleApi } from './endpoints.ts';

type Customer = { readonly id: number; readonly name: string };
type Held = Answer<typeof readCustomerBilling>;

function Form({ customer, held, onClose }: { customer: Customer; held: Held; onClose: () => void }) {
  const params = { id: String(customer.id) };
  const [change] = settleApi.useChangeCustomerBillingMutation();
  const { data: taxes } = settleApi.useReadTaxesQuery();
  const { data: page } = customersApi.useReadCustomerQuery({ params });
  const form = useWireForm(changeCustomerBilling, { ...held });
  return (
    <WireForm
      form={form}
      name="How they are billed"
      save="Keep it"
      send={(body, seen) => change({ params, body: { ...body, version: seen ?? held.version } })}
      onDone={onClose}
      onCancel={onClose}
    >
      <h1>How {customer.name} is billed</h1>
      <div className="grid grid-cols-2 gap-3">
        <WireSelect
          name="grouping"
          label="One document for"
          options={[
            ['appointment', 'each appointment of an order, each agreement'],
            ['order', 'each order and agreement'],
            ['month', 'everything of a month'],
          ]}
        />
        <WireSelect
          name="taxId"
          label="Tax"
          options={[
            [null, 'as each thing says'] as const,
            ...(taxes?.items ?? []).map((t) => [t.id, `${t.name}, on all they buy`] as const),
          ]}
        />
      </div>
      <WireTick name="showsCovered" label="Covered work stands on it too, with 100 % off" className="py-1" />
      <WireTick name="needsReference" label="Nothing is billed without their order number" className="py-1" />
      <WireLongText name="address" label="Address on documents (empty: the service address)" />
      <div className="grid grid-cols-2 gap-3">
        <WireText name="country" label="Country, two letters" />
        <WireText name="taxNumber" label="Tax number" />
      </div>
      <WireSelect
        name="contactId"
        label="Sent by mail to"
        options={[
          [null, 'nobody: it is handed over otherwise'] as const,
          ...(page?.contacts ?? []).filter((c) => c.email).map((c) => [c.id, `${c.name}, ${c.email}`] as const),
        ]}
      />
    </WireForm>
  );
}

export function CustomerBillingDialog({ customer, onClose }: { customer: Customer; onClose: () => void }) {
  const query = settleApi.useReadCustomerBillingQuery({ params: { id: String(customer.id) } });
  return (
    <Dialog title="How they are billed" onClose={onClose}>
      <Waiting query={query}>{(held) => <Form customer={customer} held={held} onClose={onClose} />}</Waiting>
    </Dialog>
  );
}
