// Job plans: what is done at a visit, and how long it takes.
import { addJobPlan } from '#api/setup.ts';
import type { FormOut } from '#api/forms.ts';
import type { JobPlanIn, JobPlanOut, Reference } from '#api/setup.ts';
import { sayQuantity } from '#core/stores/index.ts';
import { sayMinutes } from '../parts/words.ts';
import { WireLongText, WireNumber, WireSelect, WireText } from '../parts/wire-fields.tsx';
import { NumberField, SelectField } from '../parts/fields.tsx';
import { useWireForm, Wire, WireForm } from '../parts/wire-form.tsx';
import { ChoosePart } from '../stores/index.ts';
import { setupApi } from './endpoints.ts';
import { Waiting } from '../shell/waiting.tsx';
import { EditableList } from './editable-list.tsx';
import { NamedTicks } from './named-ticks.tsx';

type PlannedPart = JobPlanOut['parts'][number];
type Typed = {
  name: string;
  minutes: number;
  skillId: number | null;
  alsoSkillIds: number[];
  formIds: number[];
  crew: number;
  safetyNote: string;
  parts: PlannedPart[];
  tasks: string;
  includes: number[];
};

const sayTasks = (tasks: JobPlanIn['tasks']): string =>
  tasks.map((t) => (t.mandatory ? t.text : `? ${t.text}`)).join('\n');
const readTasks = (text: string): JobPlanIn['tasks'] =>
  text
    .split('\n')
    .map((t) => t.trim())
    .filter((t) => t !== '')
    .map((t) => ({ text: t.replace(/^\?\s*/, ''), mandatory: !t.startsWith('?') }));
const bodyOf = ({ tasks, parts, alsoSkillIds, ...typed }: Typed): JobPlanIn => ({
  ...typed,
  // Without a first skill there are no others.
  alsoSkillIds: typed.skillId === null ? [] : alsoSkillIds,
  tasks: readTasks(tasks),
  parts: parts.map(({ partId, thousandths }) => ({ partId, thousandths })),
});

/** The parts a plan takes, each with its quantity. */
function PlannedParts() {
  return (
    <Wire<readonly PlannedPart[]> name="parts">
      {({ value, change, errorAt, ownError }) => (
        <fieldset>
          <legend>Parts it takes</legend>
          {value.map((p, i) => (
            <div key={p.partId} className="flex items-end gap-3 pb-1">
              <span className="min-w-0 flex-1 truncate pb-1">
                <span className="serial">{p.number}</span> {p.name}
              </span>
              <NumberField
                label={`Quantity of ${p.name}, ${p.unit}`}
                value={p.thousandths / 1000}
                min={0}
                step="any"
                className="w-56"
                error={errorAt(`${i}.thousandths`) ?? errorAt(`${i}.partId`)}
                onChange={(n) => change(value.map((x) => (x === p ? { ...p, thousandths: Math.round(n * 1000) } : x)))}
              />
              <button
                type="button"
                className="link-ink pb-1"
                aria-label={`Take ${p.name} away`}
                onClick={() => change(value.filter((x) => x !== p))}
              >
                take away
              </button>
            </div>
          ))}
          <ChoosePart
            chosen={null}
            label="Another part"
            onChoose={(chosen) => {
              if (!chosen || value.some((p) => p.partId === chosen.id)) return;
              const { id: partId, number, name, unit } = chosen.part;
              change([...value, { partId, number, name, unit, thousandths: 1000 }]);
            }}
          />
          {ownError && <p className="text-missed">✕ {ownError}</p>}
        </fieldset>
      )}
    </Wire>
  );
}

const nameForm = ({ className, name }: Pick<FormOut, 'className' | 'name'>): string => `${className}: ${name}`;

/** The forms a plan asks for, chosen one by one. */
function AskedForms({ forms }: { forms: readonly FormOut[] }) {
  return (
    <Wire<number[]> name="formIds">
      {({ value, change, error }) => {
        const left = forms.filter((f) => !value.includes(f.id));
        return (
          <fieldset>
            <legend>Forms it asks for, beside those for the kind of work</legend>
            {forms.flatMap((f) =>
              value.includes(f.id)
                ? [
                    <p key={f.id} className="flex gap-3">
                      {nameForm(f)}
                      <button
                        type="button"
                        className="link-ink"
                        aria-label={`Take ${nameForm(f)} away`}
                        onClick={() => change(value.filter((id) => id !== f.id))}
                      >
                        take away
                      </button>
                    </p>,
                  ]
                : [],
            )}
            {left.length > 0 && (
              <SelectField
                label="Another form"
                value=""
                options={[['', 'choose one'] as const, ...left.map((f) => [String(f.id), nameForm(f)] as const)]}
                onChange={(id) => id !== '' && change([...value, Number(id)])}
              />
            )}
            {error && <p className="text-missed">✕ {error}</p>}
          </fieldset>
        );
      }}
    </Wire>
  );
}

function JobPlanForm({
  plan,
  others,
  skills,
  forms,
  onDone,
}: {
  plan: JobPlanOut | null;
  /** Those it may include. */
  others: readonly JobPlanOut[];
  skills: Reference['skills'];
  forms: readonly FormOut[];
  onDone: () => void;
}) {
  const [add] = setupApi.useAddJobPlanMutation();
  const [change] = setupApi.useChangeJobPlanMutation();
  const form = useWireForm<JobPlanIn, Typed>(
    addJobPlan,
    {
      ...{ name: plan?.name ?? '', minutes: plan?.minutes ?? 60, tasks: sayTasks(plan?.tasks ?? []) },
      skillId: plan?.skillId ?? null,
      ...{ alsoSkillIds: plan?.alsoSkillIds ?? [], formIds: plan?.formIds ?? [] },
      ...{ crew: plan?.crew ?? 1, safetyNote: plan?.safetyNote ?? '', parts: plan?.parts ?? [] },
      includes: plan?.includes ?? [],
    },
    bodyOf,
  );
  const [minutes, skillId] = form.watch(['minutes', 'skillId']);
  const raisesNothing = minutes === 0;
  return (
    <WireForm<Typed, unknown>
      form={form}
      name="Job plan"
      save="Save the job plan"
      send={(typed, seen) =>
        plan
          ? change({ params: { id: String(plan.id) }, body: { ...bodyOf(typed), version: seen ?? plan.version } })
          : add({ body: bodyOf(typed) })
      }
      onDone={onDone}
      onCancel={onDone}
      sheet
    >
      <div className="grid grid-cols-[2fr_1fr_0.7fr_1.3fr] gap-4">
        <WireText name="name" label="Name" />
        <WireNumber
          name="minutes"
          label="Duration, minutes"
          min={0}
          hint={raisesNothing ? '✕ With zero no visit is raised; the run will say so.' : undefined}
        />
        <WireNumber name="crew" label="People" min={1} />
        <WireSelect
          name="skillId"
          label="Skill it needs"
          options={[[null, 'none in particular'] as const, ...skills.map((s) => [s.id, s.name] as const)]}
        />
      </div>
      {skillId !== null && (
        <NamedTicks
          name="alsoSkillIds"
          label="And these beside it; hours are counted to the first"
          items={skills.filter((s) => s.id !== skillId)}
        />
      )}
      <WireLongText name="tasks" label="Tasks, one a line; a line that begins with ? is done only if needed" rows={5} />
      <WireText name="safetyNote" label="What whoever does it must read first" />
      <PlannedParts />
      <AskedForms forms={forms} />
      {others.length > 0 && (
        <NamedTicks
          name="includes"
          label="Does the work of these, within the days that their schedules say"
          items={others}
        />
      )}
    </WireForm>
  );
}

export function JobPlans() {
  const query = setupApi.useReadReferenceQuery();
  const { data: { items: forms } = { items: [] } } = setupApi.useListFormsQuery();
  return (
    <Waiting query={query}>
      {({ jobPlans, skills }) => (
        <EditableList
          name="job-plans"
          items={jobPlans}
          adding={addJobPlan}
          add="Add a job plan"
          empty="No job plan yet. A schedule needs one: what is done at a visit, and how long it takes."
          form={(plan, done) => (
            <JobPlanForm
              plan={plan}
              others={jobPlans.filter((p) => p.id !== plan?.id)}
              skills={skills}
              forms={forms}
              onDone={done}
            />
          )}
          columns={[
            { id: 'name', head: 'Name', value: (p) => p.name },
            {
              id: 'minutes',
              head: 'Duration',
              isNumber: true,
              value: (p) => p.minutes,
              show: (p) => (p.minutes === 0 ? '✕ zero' : sayMinutes(p.minutes)),
              className: (p) => (p.minutes === 0 ? 'font-semibold' : ''),
            },
            {
              id: 'skill',
              head: 'Skills',
              value: (p) =>
                [p.skillId, ...p.alsoSkillIds].flatMap((id) => skills.find((s) => s.id === id)?.name ?? []).join(', '),
            },
            {
              id: 'crew',
              head: 'People',
              isNumber: true,
              value: (p) => p.crew,
            },
            {
              id: 'parts',
              head: 'Parts',
              value: (p) => p.parts.map((x) => `${sayQuantity(x.thousandths)} × ${x.name}`).join('; '),
            },
            {
              id: 'forms',
              head: 'Forms',
              value: (p) => forms.flatMap((f) => (p.formIds.some((id) => id === f.id) ? [nameForm(f)] : [])).join(', '),
            },
            {
              id: 'includes',
              head: 'Includes',
              value: (p) =>
                jobPlans.flatMap((other) => (p.includes.some((id) => id === other.id) ? [other.name] : [])).join(', '),
            },
            {
              id: 'tasks',
              head: 'Tasks',
              value: (p) => p.tasks.map((t) => `${t.text}${t.mandatory ? '' : ' (if needed)'}`).join('; '),
              className: 'quiet',
            },
          ]}
        />
      )}
    </Waiting>
  );
}
