// Forms of classes: what is asked on site on which kinds of work, and what answers are expected.
import { addForm } from '#api/forms.ts';
import type { ClassOut } from '#api/catalogue.ts';
import type { FormIn, FormOut } from '#api/forms.ts';
import { ORDER_KINDS, QUESTION_KINDS, type FormQuestion, type QuestionKind } from '#core/orders/index.ts';
import { GeneralError, useSubmit } from '../parts/fields.tsx';
import { WireSelect, WireText, WireTicks } from '../parts/wire-fields.tsx';
import { useWireForm, Wire, WireForm, type Bound } from '../parts/wire-form.tsx';
import { sayExpected } from '../parts/words.ts';
import { setupApi } from './endpoints.ts';
import { Waiting } from '../shell/waiting.tsx';
import { EditableList } from './editable-list.tsx';

const BLANK: FormQuestion = { text: '', kind: 'yes or no', mandatory: true, unit: null, from: null, to: null };
const ASKED_AS: Record<QuestionKind, string> = {
  'yes or no': 'yes or no',
  number: 'a number',
  text: 'words',
  meter: 'a meter’s reading',
};

function Cell({
  label,
  value,
  onChange,
  number = false,
}: {
  label: string;
  value: string | number | null;
  onChange: (typed: string) => void;
  number?: boolean;
}) {
  return (
    <input
      aria-label={label}
      className={`box-field ${number ? 'text-right tabular-nums' : ''}`}
      {...(number && { type: 'number', step: 'any' })}
      value={value ?? ''}
      onChange={(e) => onChange(e.target.value)}
    />
  );
}

type Asking = { readonly at: number; readonly question: FormQuestion; readonly onChange: (q: FormQuestion) => void };

/** Its words, or the meter it becomes a reading of. */
function AskedFor({ at, question: q, meters, onChange }: Asking & { readonly meters: readonly string[] }) {
  return (
    <td>
      {q.kind === 'meter' ? (
        <select
          aria-label={`Question ${at}`}
          className="box-select"
          value={q.text}
          onChange={(e) => onChange({ ...q, text: e.target.value })}
        >
          {[...new Set([q.text, ...meters])].map((m) => (
            <option key={m} value={m}>
              {m || (meters.length > 0 ? 'choose a meter' : 'the class has no meter')}
            </option>
          ))}
        </select>
      ) : (
        <Cell label={`Question ${at}`} value={q.text} onChange={(text) => onChange({ ...q, text })} />
      )}
    </td>
  );
}

const readNumber = (typed: string): number | null => (typed.trim() === '' ? null : Number(typed));

/** The unit and the bounds of a number; nothing of other answers. */
function Expected({ at, question: q, onChange }: Asking) {
  return q.kind === 'number' ? (
    <>
      <td className="w-20">
        <Cell label={`Unit ${at}`} value={q.unit} onChange={(unit) => onChange({ ...q, unit: unit || null })} />
      </td>
      <td className="w-24">
        <Cell
          number
          label={`Expected from ${at}`}
          value={q.from}
          onChange={(v) => onChange({ ...q, from: readNumber(v) })}
        />
      </td>
      <td className="w-24">
        <Cell number label={`Expected to ${at}`} value={q.to} onChange={(v) => onChange({ ...q, to: readNumber(v) })} />
      </td>
    </>
  ) : (
    <td colSpan={3} className="quiet w-68">
      {q.kind === 'meter' ? 'becomes a reading of that meter' : ''}
    </td>
  );
}

function QuestionRow({
  at,
  question: q,
  meters,
  error,
  onChange,
  onRemove,
}: {
  at: number;
  question: FormQuestion;
  meters: readonly string[];
  error: string | undefined;
  onChange: (q: FormQuestion) => void;
  onRemove: () => void;
}) {
  return (
    <>
      <tr>
        <AskedFor at={at} question={q} meters={meters} onChange={onChange} />
        <td className="w-40">
          <select
            aria-label={`Answer ${at} is`}
            className="box-select"
            value={q.kind}
            onChange={(e) => {
              const kind = e.target.value as QuestionKind;
              const bare = kind === 'number' ? {} : { unit: null, from: null, to: null };
              onChange({ ...q, ...bare, kind, text: kind === 'meter' ? (meters[0] ?? '') : q.text });
            }}
          >
            {QUESTION_KINDS.map((k) => (
              <option key={k} value={k}>
                {ASKED_AS[k]}
              </option>
            ))}
          </select>
        </td>
        <Expected at={at} question={q} onChange={onChange} />
        <td className="w-24 text-center">
          <input
            type="checkbox"
            className="box-tick"
            aria-label={`Question ${at} must be answered`}
            checked={q.mandatory}
            onChange={(e) => onChange({ ...q, mandatory: e.target.checked })}
          />
        </td>
        <td className="w-20 text-right">
          <button type="button" className="link-ink" aria-label={`Take question ${at} out`} onClick={onRemove}>
            take out
          </button>
        </td>
      </tr>
      {error && (
        <tr>
          <td colSpan={7} className="text-[0.87rem] text-missed">
            ✕ {error}
          </td>
        </tr>
      )}
    </>
  );
}

function Questions({
  questions,
  meters,
  error,
  errorAt,
  onChange,
}: Pick<Bound, 'error' | 'errorAt'> & {
  questions: readonly FormQuestion[];
  meters: readonly string[];
  onChange: (questions: FormQuestion[]) => void;
}) {
  return (
    <div>
      <table className="dense">
        <thead>
          <tr>
            <th>Question</th>
            <th>Answered with</th>
            <th>Unit</th>
            <th>Expected from</th>
            <th>to</th>
            <th>Must be answered</th>
            <th aria-label="Take out" />
          </tr>
        </thead>
        <tbody>
          {questions.map((q, i) => (
            <QuestionRow
              key={i}
              at={i + 1}
              question={q}
              meters={meters}
              error={errorAt(String(i))}
              onChange={(changed) => onChange(questions.map((x, k) => (k === i ? changed : x)))}
              onRemove={() => onChange(questions.filter((_, k) => k !== i))}
            />
          ))}
        </tbody>
      </table>
      {questions.length === 0 && error && <p className="text-missed">✕ {error}</p>}
      <button type="button" className="act mt-2" onClick={() => onChange([...questions, BLANK])}>
        Add a question
      </button>
    </div>
  );
}

function ClassFormEditor({
  item,
  classes,
  onDone,
}: {
  item: FormOut | null;
  classes: readonly ClassOut[];
  onDone: () => void;
}) {
  const [add] = setupApi.useAddFormMutation();
  const [change] = setupApi.useChangeFormMutation();
  const [remove] = setupApi.useRemoveFormMutation();
  const { errors, submit } = useSubmit([]);
  const form = useWireForm(addForm, {
    name: item?.name ?? '',
    classId: item?.classId ?? classes[0]?.id ?? NaN,
    kinds: item?.kinds ?? ['preventive'],
    questions: item?.questions ?? [BLANK],
  });
  const classId = form.watch('classId');
  const meters = classes.find((c) => c.id === classId)?.meters.map((m) => m.name) ?? [];
  return (
    <WireForm<FormIn, unknown>
      form={form}
      name="Form of a class"
      save="Save the form"
      send={(body, seen) =>
        item
          ? change({ params: { id: String(item.id) }, body: { ...body, version: seen ?? item.version } })
          : add({ body })
      }
      onDone={onDone}
      onCancel={onDone}
      sheet
    >
      <div className="grid grid-cols-[2fr_1fr] gap-3">
        <WireText name="name" label="Name" />
        <WireSelect name="classId" label="Class" options={classes.map((c) => [c.id, c.name] as const)} />
      </div>
      <WireTicks
        name="kinds"
        label="Asked on these kinds of work; none: only where a job plan asks for it"
        values={ORDER_KINDS}
      />
      <Wire<FormQuestion[]> name="questions">
        {({ value, change: set, error, errorAt }) => (
          <Questions questions={value} meters={meters} error={error} errorAt={errorAt} onChange={set} />
        )}
      </Wire>
      <p className="quiet">
        Orders raised from now on ask this; those raised before keep the questions they were raised with.{' '}
        {item && (
          <button
            type="button"
            className="link-ink"
            onClick={async () => {
              if (await submit(remove({ params: { id: String(item.id) } }))) onDone();
            }}
          >
            Take this form away
          </button>
        )}
      </p>
      <GeneralError errors={errors} />
    </WireForm>
  );
}

const sayQuestion = (q: FormQuestion): string =>
  [q.text, sayExpected(q) && `(${sayExpected(q)})`, q.mandatory ? '' : '(if needed)'].filter(Boolean).join(' ');

export function ClassForms() {
  const query = setupApi.useListFormsQuery();
  const { data: catalogue } = setupApi.useReadCatalogueQuery();
  return (
    <Waiting query={query}>
      {({ items }) => (
        <EditableList
          name="forms"
          items={items}
          adding={addForm}
          add="Add a form"
          empty="No form yet. A form asks on site what must be known afterwards; an order is not done before it is filled in."
          form={(item, done) => <ClassFormEditor item={item} classes={catalogue?.classes ?? []} onDone={done} />}
          columns={[
            { id: 'form', head: 'Form', value: (f) => f.name },
            { id: 'class', head: 'Class', value: (f) => f.className },
            { id: 'kinds', head: 'Asked on', value: (f) => f.kinds.join(', ') || 'job plans that name it' },
            {
              id: 'questions',
              head: 'Questions',
              value: (f) => f.questions.map(sayQuestion).join('; '),
              className: 'quiet',
            },
          ]}
        />
      )}
    </Waiting>
  );
}
