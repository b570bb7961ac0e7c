// How the house bills: from which day, in whose name, into which account, and above what goodwill two people look.
import { changeSettleSettings, type readSettleSettings } from '#api/billing.ts';
import type { Answer } from '#api/contract.ts';
import { WireDate, WireLongText, WireMoney, WireText, WireTick } from '../parts/wire-fields.tsx';
import { useWireForm, WireForm } from '../parts/wire-form.tsx';
import { Waiting } from '../shell/waiting.tsx';
import { settleApi } from './endpoints.ts';

type Held = Answer<typeof readSettleSettings>;
type Typed = {
  version: number;
  billsFrom: string | null;
  hasLimit: boolean;
  limit: number;
  account: string;
  seller: { name: string; address: string; country: string; taxNumber: string };
};

const NOBODY = { name: '', address: '', country: '', taxNumber: '' };

function Form({ held }: { held: Held }) {
  const [change] = settleApi.useChangeSettleSettingsMutation();
  const bodyOf = ({ hasLimit, limit, ...rest }: Typed) => ({ ...rest, secondAbove: hasLimit ? limit : null });
  const form = useWireForm(
    changeSettleSettings,
    {
      ...{ version: held.version, billsFrom: held.billsFrom, hasLimit: held.secondAbove !== null },
      ...{ limit: held.secondAbove ?? 0, account: held.account, seller: { ...(held.seller ?? NOBODY) } },
    },
    bodyOf,
  );
  return (
    <WireForm
      form={form}
      name="Billing"
      save="Keep it"
      send={(typed, seen) => change({ body: { ...bodyOf(typed), version: seen ?? held.version } })}
      onDone={() => undefined}
    >
      <h2>In whose name</h2>
      <WireText name="seller.name" label="Name on documents" />
      <WireLongText name="seller.address" label="Address" />
      <div className="grid grid-cols-3 gap-3">
        <WireText name="seller.country" label="Country, two letters" />
        <WireText name="seller.taxNumber" label="Tax number" />
        <WireText name="account" label="Account to pay into" />
      </div>
      <h2 className="mt-4">What is billed here</h2>
      <div className="grid grid-cols-2 gap-3">
        <WireDate
          name="billsFrom"
          label="From the day"
          empty={null}
          hint="Orders done and fees due from then on; what was before was billed elsewhere."
        />
      </div>
      <h2 className="mt-4">Goodwill</h2>
      <WireTick name="hasLimit" label="A second person looks at large goodwill" className="" />
      {form.watch('hasLimit') && <WireMoney name="limit" label="Above" currency="EUR" />}
    </WireForm>
  );
}

export function BillingSettings() {
  const query = settleApi.useReadSettleSettingsQuery();
  return (
    <div className="max-w-2xl">
      <Waiting query={query}>{(held) => <Form key={held.version} held={held} />}</Waiting>
    </div>
  );
}
