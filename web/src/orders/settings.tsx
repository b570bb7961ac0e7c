// How orders are raised and told of.
import { changeOrderSettings } from '#api/calls.ts';
import { ORDER_TELLINGS, OVER_TERMS, type OverTerms } from '#core/orders/index.ts';
import { PRIORITIES, USUAL_PRIORITIES } from '#core/service-levels/index.ts';
import { WireSelect, WireTicks } from '../parts/wire-fields.tsx';
import { useWireForm, Wire, WireForm } from '../parts/wire-form.tsx';
import { useReader } from '../shell/reader.tsx';
import { Waiting } from '../shell/waiting.tsx';
import { ordersApi } from './endpoints.ts';

const SAYS: Readonly<Record<OverTerms, string>> = {
  ask: 'ask for a reason',
  stop: 'stop: only a manager raises an order, with a reason',
  'go on': 'go on as with any other',
};
type Settings = {
  overTerms: OverTerms;
  tells: (typeof ORDER_TELLINGS)[number][];
  priorities: string[];
  version: number;
};

/** Names, the most urgent first; more may be added behind. */
function Priorities() {
  return (
    <Wire<string[]> name="priorities">
      {({ value, change, error }) => (
        <fieldset>
          <legend className="quiet pb-0.5">Priorities, the most urgent first</legend>
          {value.map((name, i) => (
            <label key={i} className="flex items-center gap-2 pb-1.5">
              <span className="w-4 text-right">{i + 1}</span>
              <input
                aria-label={`Priority ${i + 1}`}
                className="box-field max-w-96"
                maxLength={80}
                value={name}
                onChange={(e) => change(value.map((n, at) => (at === i ? e.target.value : n)))}
              />
            </label>
          ))}
          {error && <p className="text-missed">✕ {error}</p>}
          <span className="flex gap-4">
            {value.length < PRIORITIES.length && (
              <button type="button" className="link-ink" onClick={() => change([...value, ''])}>
                Add a priority
              </button>
            )}
            {value.length > USUAL_PRIORITIES.length && (
              <button type="button" className="link-ink" onClick={() => change(value.slice(0, -1))}>
                Take the last out
              </button>
            )}
          </span>
        </fieldset>
      )}
    </Wire>
  );
}

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
      <Priorities />
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
