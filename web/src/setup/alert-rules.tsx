// Alert rules: the limit at which a reading of a class of assets becomes an alert.
import { useState } from 'react';
import { addAlertRule } from '#api/setup.ts';
import type { AlertRuleOut } from '#api/setup.ts';
import { NumberField, SelectField, TextField, useSubmit } from '../parts/fields.tsx';
import { Form } from '../parts/form.tsx';
import { sayUnit } from '#core/signals/index.ts';
import { sayValue } from '../parts/words.ts';
import { setupApi } from './endpoints.ts';
import { Waiting } from '../shell/waiting.tsx';
import { EditableList } from './editable-list.tsx';

function AlertRuleForm({ rule, onDone }: { rule: AlertRuleOut | null; onDone: () => void }) {
  const { data: reference } = setupApi.useReadReferenceQuery();
  const [draft, setDraft] = useState({
    name: rule?.name ?? '',
    channel: rule?.channel ?? 'chamber',
    unit: rule?.unit ?? 'Cel',
    side: rule?.side ?? ('above' as const),
    limit: rule?.limit ?? -65,
    deadband: rule?.deadband ?? 2,
    onDelaySeconds: rule?.onDelaySeconds ?? 300,
    priority: String(rule?.priority ?? 1),
    assetClassId: String(rule?.assetClassId ?? ''),
  });
  const [add] = setupApi.useAddAlertRuleMutation();
  const [change] = setupApi.useChangeAlertRuleMutation();
  const { errors, submit } = useSubmit([
    'name',
    'assetClassId',
    'channel',
    'unit',
    'side',
    'limit',
    'deadband',
    'onDelaySeconds',
    'priority',
  ]);
  const set = (key: keyof typeof draft) => (value: string | number) => setDraft({ ...draft, [key]: value });
  const send = async (): Promise<void> => {
    const body = {
      ...draft,
      assetClassId: Number(draft.assetClassId || reference?.classes[0]?.id),
      priority: Number(draft.priority) as 1 | 2 | 3 | 4,
    };
    if (
      await (rule
        ? submit(change({ params: { id: String(rule.id) }, body: { ...body, version: rule.version } }))
        : submit(add({ body })))
    )
      onDone();
  };
  return (
    <Form name="Alert rule" save="Save the alert rule" onSave={() => send()} onCancel={onDone} errors={errors} sheet>
      <div className="grid grid-cols-4 gap-3">
        <TextField
          className="col-span-2"
          label="Name"
          value={draft.name}
          onChange={set('name')}
          error={errors.of('name')}
        />
        <SelectField
          label="Asset class"
          value={draft.assetClassId || String(reference?.classes[0]?.id ?? '')}
          onChange={set('assetClassId')}
          options={(reference?.classes ?? []).map((c) => [String(c.id), c.name])}
          error={errors.of('assetClassId')}
          hint={reference?.classes.length === 0 ? 'Classes come with the imported assets.' : undefined}
        />
        <SelectField
          label="Order priority"
          value={draft.priority}
          onChange={set('priority')}
          options={[1, 2, 3, 4].map((p) => [String(p), String(p)])}
        />
        <TextField label="Channel" value={draft.channel} onChange={set('channel')} error={errors.of('channel')} />
        <TextField label="Unit (SenML)" value={draft.unit} onChange={set('unit')} error={errors.of('unit')} />
        <SelectField
          label="Abnormal when"
          value={draft.side}
          onChange={(v) => setDraft({ ...draft, side: v as 'above' })}
          options={[
            ['above', 'above'],
            ['below', 'below'],
          ]}
        />
        <NumberField label="Limit" value={draft.limit} onChange={set('limit')} error={errors.of('limit')} />
        <NumberField
          label="Deadband"
          value={draft.deadband}
          onChange={set('deadband')}
          error={errors.of('deadband')}
          min={0}
        />
        <NumberField
          label="On-delay, seconds"
          value={draft.onDelaySeconds}
          onChange={set('onDelaySeconds')}
          error={errors.of('onDelaySeconds')}
          min={0}
        />
      </div>
    </Form>
  );
}

export function AlertRules() {
  const query = setupApi.useListAlertRulesQuery();
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
            form={(rule, done) => <AlertRuleForm rule={rule} onDone={done} />}
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
