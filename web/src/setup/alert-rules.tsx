// Alert rules: when readings of a class, a model or a machine become an alert.
import { addAlertRule } from '#api/alert-rules.ts';
import { sayRule } from '#core/signals/index.ts';
import { AlertRuleForm } from './alert-rule-form.tsx';
import { setupApi } from './endpoints.ts';
import { Waiting } from '../shell/waiting.tsx';
import { EditableList } from './editable-list.tsx';

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
            form={(rule, done) =>
              reference && <AlertRuleForm rule={rule} reference={reference} rules={items} onDone={done} />
            }
            columns={[
              { id: 'name', head: 'Name', value: (r) => r.name },
              {
                id: 'class',
                head: 'Watches',
                value: (r) =>
                  `${r.className}${r.model === null ? '' : `, ${r.model}`}${r.tag === null ? '' : `, ${r.tag}`}`,
              },
              {
                id: 'abnormal',
                head: 'Abnormal',
                value: (r) => (r.watched ? sayRule(r) : 'not watched here'),
              },
              {
                id: 'delay',
                head: 'Delays',
                isNumber: true,
                value: (r) => r.onDelaySeconds,
                show: (r) => `${r.onDelaySeconds} s${r.offDelaySeconds > 0 ? `, back ${r.offDelaySeconds} s` : ''}`,
              },
              {
                ...{ id: 'follows', head: 'Follows' },
                value: (r) => (r.partOnly ? 'nothing: part of others' : r.askFirst ? 'somebody is asked' : 'an order'),
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
