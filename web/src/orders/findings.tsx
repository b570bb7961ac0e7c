// What was found at a machine: symptom, fault, cause and remedy, in the words of its class.
import { useState } from 'react';
import { recordAct, type ActIn, type OrderPage } from '#api/orders.ts';
import { FINDINGS, isFinished } from '#core/orders/index.ts';
import { formatInstant } from '#core/time/index.ts';
import { newRequestKey } from '../parts/fields.tsx';
import { useWireForm, WireForm } from '../parts/wire-form.tsx';
import { useReader } from '../shell/reader.tsx';
import { ordersApi } from './endpoints.ts';
import { WordField } from './word-field.tsx';

type Line = OrderPage['lines'][number];
type Found = Extract<ActIn, { kind: 'found' }>;
const LABELS = { symptom: 'Symptom', fault: 'Fault', cause: 'Cause', remedy: 'Remedy' } as const;

function FindingsForm({ order, line, onDone }: { order: OrderPage; line: Line; onDone: () => void }) {
  const [record] = ordersApi.useRecordActMutation();
  const [requestKey] = useState(newRequestKey);
  const start: { requestKey: string; at: string; act: Found } = {
    ...{ requestKey, at: formatInstant(order.now) },
    act: { kind: 'found', lineId: line.id, ...line.found },
  };
  const form = useWireForm<typeof start>(recordAct as never, start);
  return (
    <WireForm
      form={form}
      name={`What was found at ${line.tag}`}
      save="Keep it"
      send={(body) => record({ params: { id: String(order.id) }, body })}
      onDone={onDone}
      onCancel={onDone}
      sheet
    >
      <div className="grid grid-cols-2 gap-3">
        {FINDINGS.map((what) => (
          <WordField key={what} name={`act.${what}`} label={LABELS[what]} words={line.words[what]} />
        ))}
      </div>
    </WireForm>
  );
}

function OfLine({ order, line, several }: { order: OrderPage; line: Line; several: boolean }) {
  const [changing, setChanging] = useState(false);
  const may = useReader().may(recordAct) && !isFinished(order.stage);
  const said = FINDINGS.filter((what) => line.found[what] !== null);
  if (said.length === 0 && !may) return null;
  return (
    <div className="border-t border-hairline py-1">
      {several && <h3 className="serial">{line.tag}</h3>}
      {changing ? (
        <FindingsForm order={order} line={line} onDone={() => setChanging(false)} />
      ) : (
        <dl className="grid grid-cols-[6rem_1fr]">
          {said.map((what) => (
            <div key={what} className="contents">
              <dt className="quiet">{LABELS[what]}</dt>
              <dd>{line.found[what]}</dd>
            </div>
          ))}
        </dl>
      )}
      {may && !changing && (
        <button className="quiet link-ink" onClick={() => setChanging(true)}>
          {said.length === 0 ? `say what was found${several ? ` at ${line.tag}` : ''}…` : 'change…'}
        </button>
      )}
    </div>
  );
}

export function Findings({ order }: { order: OrderPage }) {
  const lines = order.lines.filter((l) => !l.off && l.visit === null);
  const may = useReader().may(recordAct) && !isFinished(order.stage);
  const any = lines.some((l) => FINDINGS.some((what) => l.found[what] !== null));
  if (lines.length === 0 || (!any && !may) || (order.kind !== 'repair' && !any)) return null;
  return (
    <section id="findings">
      <h2>What was found</h2>
      {lines.map((line) => (
        <OfLine key={line.id} order={order} line={line} several={lines.length > 1} />
      ))}
    </section>
  );
}
