// Alert rules: the limit at which a reading of a class of assets becomes an alert.
import { addAlertRule } from '#api/setup.ts';
import type { AlertRuleIn, AlertRuleOut, Reference } from '#api/setup.ts';
import { PRIORITIES } from '#core/service-levels/index.ts';
import { sayUnit } from '#core/signals/index.ts';
import { WireNumber, WireSelect, WireText } from '../parts/wire-fields.tsx';
import { useWireForm, WireForm } from '../parts/wire-form.tsx';
import { sayValue } from '../parts/words.ts';
import { setupApi } from './endpoints.ts';
import { Waiting } from '../shell/waiting.tsx';
import { EditableList } from './editable-list.tsx';

function AlertRuleForm({
  rule,
  classes,
  onDone,
}: {
  rule: AlertRuleOut | null;
  classes: Reference['classes'];
  onDone: () => void;
}) {
  const form = useWireForm(addAlertRule, {
    name: rule?.name ?? '',
    channel: rule?.channel ?? 'chamber',
    unit: rule?.unit ?? 'Cel',
    side: rule?.side ?? 'above',
    limit: rule?.limit ?? -65,
    deadband: rule?.deadband ?? 2,
    onDelaySeconds: rule?.onDelaySeconds ?? 300,
    priority: rule?.priority ?? 1,
    assetClassId: rule?.assetClassId ?? classes[0]?.id ?? NaN,
  });
  const [add] = setupApi.useAddAlertRuleMutation();
  const [change] = setupApi.useChangeAlertRuleMutation();
  return (
    <WireForm<AlertRuleIn, unknown>
      form={form}
      name="Alert rule"
      save="Save the alert rule"
      send={(body, seen) =>
        rule
          ? change({ params: { id: String(rule.id) }, body: { ...body, version: seen ?? rule.version } })
          : add({ body })
      }
      onDone={onDone}
      onCancel={onDone}
      sheet
    >
      <div className="grid grid-cols-4 gap-3">
        <WireText className="col-span-2" name="name" label="Name" />
        <WireSelect
          name="assetClassId"
          label="Asset class"
          options={classes.map((c) => [c.id, c.name] as const)}
          hint={classes.length === 0 ? 'Classes come with the imported assets.' : undefined}
        />
        <WireSelect name="priority" label="Order priority" options={PRIORITIES.map((p) => [p, String(p)] as const)} />
        <WireText name="channel" label="Channel" />
        <WireText name="unit" label="Unit (SenML)" />
        <WireSelect
          name="side"
          label="Abnormal when"
          options={(['above', 'below'] as const).map((x) => [x, x] as const)}
        />
        <WireNumber name="limit" label="Limit" step="any" />
        <WireNumber name="deadband" label="Deadband" min={0} step="any" />
        <WireNumber name="onDelaySeconds" label="On-delay, seconds" min={0} />
      </div>
    </WireForm>
  );
}

export function AlertRules() {
  const query = setupApi.useListAlertRulesQuery();
  const { data: reference } = setupApi.useReadReferenceQuery();
  return (
    <Waiting query={query}>
      {({ items }) => (
        <>
          <EditableList
            name="alert-rules"
            items={items}
            adding={addAlertRule}
            add="Add an alert rule"
            empty="No alert rule yet. A rule turns an abnormal reading into an alert and a repair order."
            form={(rule, done) => reference && <AlertRuleForm rule={rule} classes={reference.classes} onDone={done} />}
            columns={[
              { id: 'name', head: 'Name', value: (r) => r.name },
              { id: 'class', head: 'Class', value: (r) => r.className },
              {
                id: 'abnormal',
                head: 'Abnormal',
                value: (r) => `${r.channel} ${r.side} ${sayValue(r.limit)} ${sayUnit(r.unit)}`,
              },
              {
                id: 'deadband',
                head: 'Deadband',
                isNumber: true,
                value: (r) => r.deadband,
                show: (r) => `${r.deadband} ${sayUnit(r.unit)}`,
              },
              {
                id: 'delay',
                head: 'On-delay',
                isNumber: true,
                value: (r) => r.onDelaySeconds,
                show: (r) => `${r.onDelaySeconds} s`,
              },
              { id: 'priority', head: 'Priority', isNumber: true, value: (r) => r.priority },
            ]}
          />
          <p className="quiet mt-4">
            A device is connected on its asset’s page. Readings come over MQTT (topic readings/…) or by POST to
            /api/readings as SenML (RFC 8428).
          </p>
        </>
      )}
    </Waiting>
  );
}
