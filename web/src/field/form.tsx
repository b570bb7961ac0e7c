// A form on site: what must be answered is marked, a number outside what is expected says so, and what was typed stays.
import { useId } from 'react';
import { useParams } from 'react-router';
import { outsideExpected, type FormAnswer, type FormQuestion } from '#core/orders/index.ts';
import { Held, NotHeld, Refused, useDoing } from './doing.tsx';
import { useDraft } from './draft.ts';
import type { OnOrder } from './held.ts';
import { PhotoButton } from './photo-button.tsx';
import { Asking } from './typed.tsx';

type Typed = readonly (string | boolean | null)[];

const typedOf = (answer: FormAnswer | undefined): Typed[number] =>
  typeof answer === 'number' ? String(answer) : (answer ?? null);

/** As it is sent: numbers as numbers, with a comma or a point. What is no number stays as typed, and is refused by name. */
function answerOf({ kind }: FormQuestion, typed: Typed[number] | undefined): FormAnswer {
  if (typed === undefined || typed === null || typed === '') return null;
  if (typeof typed === 'boolean' || kind === 'text') return typed;
  const n = Number(typed.replace(',', '.'));
  return Number.isFinite(n) ? n : typed;
}

function expected({ from, to, unit }: FormQuestion): string {
  const of = unit ?? '';
  if (from !== null && to !== null) return `expected ${from} to ${to} ${of}`;
  if (from !== null) return `expected ${from} ${of} or more`;
  return to === null ? '' : `expected ${to} ${of} or less`;
}

function Question({
  orderId,
  question,
  typed,
  wrong,
  change,
}: {
  orderId: number;
  question: FormQuestion;
  typed: Typed[number];
  wrong: string | undefined;
  change: (typed: Typed[number]) => void;
}) {
  const id = useId();
  const { text, kind, mandatory, unit } = question;
  const label = `${text}${unit ? `, ${unit}` : ''}`;
  const note = kind === 'number' ? expected(question) : '';
  const isOutside = outsideExpected(question, answerOf(question, typed));
  return (
    <div className="mt-4">
      <p id={id} className="font-semibold">
        {label} {mandatory ? <span className="quiet font-normal">needed</span> : null}
      </p>
      {kind === 'yes or no' ? (
        <div className="mt-1 flex gap-2" role="group" aria-labelledby={id}>
          {[true, false].map((answer) => (
            <button
              key={String(answer)}
              type="button"
              className="plain"
              aria-pressed={typed === answer}
              onClick={() => change(typed === answer ? null : answer)}
            >
              {answer ? 'Yes' : 'No'}
            </button>
          ))}
        </div>
      ) : kind === 'text' ? (
        <textarea
          className="big-field mt-1"
          rows={2}
          aria-labelledby={id}
          aria-invalid={wrong !== undefined}
          value={typeof typed === 'string' ? typed : ''}
          onChange={(e) => change(e.target.value)}
        />
      ) : (
        <input
          className="big-field mt-1"
          inputMode="decimal"
          aria-labelledby={id}
          aria-invalid={wrong !== undefined}
          value={typeof typed === 'string' ? typed : ''}
          onChange={(e) => change(e.target.value)}
        />
      )}
      {note !== '' && (
        <p className={isOutside ? 'font-semibold text-short' : 'quiet'}>{isOutside ? `▲ ${note}` : note}</p>
      )}
      {wrong && <p className="text-missed">✕ {wrong}</p>}
      <PhotoButton orderId={orderId} text="Photo of it" about={text.slice(0, 60)} />
    </div>
  );
}

function Form({ order, formId }: { order: OnOrder; formId: number }) {
  const { refusals, actOn } = useDoing();
  const form = order.facts.forms.find((f) => f.id === formId);
  const held = order.here.state.forms.get(formId);
  const [typed, change, forget] = useDraft<Typed>(
    `form ${order.page.id} ${formId}`,
    (form?.questions ?? []).map((_, i) => typedOf(held?.[i])),
  );
  if (!form) return <NotHeld />;
  if (typed === null) return null;
  const wrongAt = (i: number): string | undefined => refusals.find((r) => r.field === `answers.${i}`)?.message;
  const keep = async (): Promise<void> => {
    const answers = form.questions.map((q, i) => answerOf(q, typed[i]));
    if ((await actOn(order, { kind: 'form', formId, answers })) !== null) forget();
  };
  return (
    <Asking title={form.name} keep={{ text: 'Keep the answers', go: () => void keep() }}>
      {form.questions.map((q, i) => (
        <Question
          key={q.text}
          orderId={order.page.id}
          question={q}
          typed={typed[i] ?? null}
          wrong={wrongAt(i)}
          change={(t) => change(form.questions.map((_, k) => (k === i ? t : (typed[k] ?? null))))}
        />
      ))}
      <Refused refusals={refusals.filter((r) => !r.field?.startsWith('answers.'))} />
    </Asking>
  );
}

export function FormPage() {
  const { form } = useParams();
  return <Held show={(order) => <Form order={order} formId={Number(form)} />} />;
}
