// How orders are raised and told of.
import { changeOrderSettings } from '#api/calls.ts';
import { ORDER_TELLINGS, OVER_TERMS, type OverTerms } from '#core/orders/index.ts';
import { WireSelect, WireTicks } from '../parts/wire-fields.tsx';
import { useWireForm, WireForm } from '../parts/wire-form.tsx';
import { useReader } from '../shell/reader.tsx';
import { Waiting } from '../shell/waiting.tsx';
import { ordersApi } from './endpoints.ts';

const SAYS: Readonly<Record<OverTerms, string>> = {
  ask: 'ask for a reason',
  stop: 'stop: only a manager raises an order, with a reason',
  'go on': 'go on as with any other',
};
type Settings = { overTerms: OverTerms; tells: (typeof ORDER_TELLINGS)[number][]; version: number };

function SettingsForm({ settings }: { settings: Settings }) {
  const [change] = ordersApi.useChangeOrderSettingsMutation();
  const form = useWireForm(changeOrderSettings, settings);
  return (
    <WireForm
      form={form}
      name="Orders"
      save="Save how orders are raised"
      send={(body, seen) => change({ body: { ...body, version: seen ?? body.version } })}
      onDone={() => undefined}
      sheet
    >
      <WireSelect
        name="overTerms"
        label="When a customer who calls is over their credit terms"
        options={OVER_TERMS.map((o) => [o, SAYS[o]] as const)}
      />
      <WireTicks name="tells" label="People outside are told when an order is" values={ORDER_TELLINGS} />
      <p className="quiet">
        Who called hears that it is taken and when it is called off, the contact on site who comes and when it is done,
        the technician what is sent. The words stand under Messages.
      </p>
    </WireForm>
  );
}

export function OrderSettings() {
  const query = ordersApi.useReadOrderSettingsQuery();
  const may = useReader().may(changeOrderSettings);
  return (
    <Waiting query={query}>
      {(settings) =>
        may ? (
          <SettingsForm key={settings.version} settings={settings} />
        ) : (
          <p>When a customer who calls is over their credit terms: {SAYS[settings.overTerms]}.</p>
        )
      }
    </Waiting>
  );
}
