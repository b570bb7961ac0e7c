// Forms of an order: what is still to be filled in, what was answered, and the dialog that asks.
import { useState } from 'react';
import { recordAct } from '#api/orders.ts';
import type { ActIn, OrderPage } from '#api/orders.ts';
import { outsideExpected, type FormAnswer, type FormQuestion, isFinished } from '#core/orders/index.ts';
import { formatInstant } from '#core/time/index.ts';
import { newRequestKey, NumberField, TextField } from '../parts/fields.tsx';
import { useWireForm, Wire, WireForm } from '../parts/wire-form.tsx';
import { sayExpected, sayValue } from '../parts/words.ts';
import { Dialog } from '../shell/dialog.tsx';
import { useReader } from '../shell/reader.tsx';
import { ordersApi } from './endpoints.ts';

type OrderForm = OrderPage['forms'][number];

function sayAnswer(question: FormQuestion, answer: FormAnswer): string {
  if (answer === null) return 'not answered';
  if (typeof answer === 'boolean') return answer ? 'yes' : 'no';
  return question.unit ? `${sayValue(answer)} ${question.unit}` : sayValue(answer);
}

function YesOrNo({
  label,
  value,
  onChange,
  error,
}: {
  label: string;
  value: FormAnswer;
  onChange: (v: boolean) => void;
  error: string | undefined;
}) {
  return (
    <fieldset>
      <legend className="quiet pb-0.5">{label}</legend>
      <div className="flex gap-5">
        {[true, false].map((v) => (
          <label key={String(v)} className="flex items-center gap-1.5">
            <input
              type="radio"
              name={label}
              className="radio radio-xs border-base-content"
              checked={value === v}
              onChange={() => onChange(v)}
            />
            {v ? 'yes' : 'no'}
          </label>
        ))}
      </div>
      {error && <p className="pt-0.5 text-[0.87rem] text-missed">✕ {error}</p>}
    </fieldset>
  );
}

function Question({
  question: q,
  value,
  onChange,
  error,
}: {
  question: FormQuestion;
  value: FormAnswer;
  onChange: (v: FormAnswer) => void;
  error: string | undefined;
}) {
  const label = `${q.text}${q.unit ? `, ${q.unit}` : ''}${q.mandatory ? '' : ' (if needed)'}`;
  switch (q.kind) {
    case 'yes or no':
      return <YesOrNo label={label} value={value} onChange={onChange} error={error} />;
    case 'text':
      return <TextField label={label} value={String(value ?? '')} onChange={onChange} error={error} />;
    case 'number':
    case 'meter': {
      const expected = sayExpected(q);
      const outside = value !== null && outsideExpected(q, value);
      return (
        <NumberField
          label={label}
          value={typeof value === 'number' ? value : NaN}
          onChange={(n) => onChange(Number.isNaN(n) ? null : n)}
          step="any"
          className="max-w-60"
          error={error}
          hint={
            expected === '' ? undefined : outside ? `Outside what is expected: ${expected}.` : `Expected: ${expected}.`
          }
        />
      );
    }
  }
}

function FillIn({ order, form: asked, onClose }: { order: OrderPage; form: OrderForm; onClose: () => void }) {
  const [record] = ordersApi.useRecordActMutation();
  const [requestKey] = useState(newRequestKey);
  const form = useWireForm<{ requestKey: string; at: string; act: Extract<ActIn, { kind: 'form' }> }>(
    recordAct as never,
    {
      requestKey,
      at: formatInstant(order.now),
      act: { kind: 'form', formId: asked.id, answers: asked.questions.map((_, i) => asked.answers?.[i] ?? null) },
    },
  );
  return (
    <Dialog title={asked.name} onClose={onClose}>
      <WireForm
        form={form}
        name={asked.name}
        save="Save the answers"
        send={(body) => record({ params: { id: String(order.id) }, body })}
        onDone={onClose}
        onCancel={onClose}
      >
        <h1>{asked.name}</h1>
        {asked.questions.map((question, i) => (
          <Wire<FormAnswer> key={i} name={`act.answers.${i}`}>
            {({ value, change, error }) => (
              <Question question={question} value={value} onChange={change} error={error} />
            )}
          </Wire>
        ))}
      </WireForm>
    </Dialog>
  );
}

function Answers({ form }: { form: OrderForm }) {
  return (
    <dl className="grid grid-cols-[1fr_auto] gap-x-4 pb-1">
      {form.questions.map((q, i) => {
        const answer = form.answers?.[i] ?? null;
        const outside = outsideExpected(q, answer);
        return (
          <div key={i} className="contents">
            <dt className="quiet">{q.text}</dt>
            <dd className={`text-right tabular-nums ${outside ? 'font-semibold' : ''}`}>
              {sayAnswer(q, answer)}
              {outside && <span className="quiet font-normal"> outside {sayExpected(q)}</span>}
            </dd>
          </div>
        );
      })}
    </dl>
  );
}

export function OrderForms({ order }: { order: OrderPage }) {
  const may = useReader().may(recordAct);
  const [filling, setFilling] = useState<number | null>(null);
  const open = may && !isFinished(order.stage);
  const asked = order.forms.find((f) => f.id === filling);
  if (order.forms.length === 0) return null;
  return (
    <section>
      <h2>Forms</h2>
      <ul className="mt-1 border-t border-hairline">
        {order.forms.map((f) => (
          <li key={f.id} className="border-b border-hairline py-1">
            <p className="flex items-baseline gap-2">
              <span className="flex-1 font-semibold">{f.name}</span>
              <span className="quiet">
                {f.answers ? 'filled in' : f.mandatory ? 'to be filled in before done' : 'if needed'}
              </span>
              {open && (
                <button
                  className={f.answers ? 'link-ink' : 'act'}
                  aria-label={`${f.answers ? 'Change' : 'Fill in'} ${f.name}`}
                  onClick={() => setFilling(f.id)}
                >
                  {f.answers ? 'change' : 'Fill in…'}
                </button>
              )}
            </p>
            {f.answers && <Answers form={f} />}
          </li>
        ))}
      </ul>
      {asked && <FillIn order={order} form={asked} onClose={() => setFilling(null)} />}
    </section>
  );
}
