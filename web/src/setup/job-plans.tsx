// Job plans: what is done at a visit, and how long it takes.
import { useState } from 'react';
import { addJobPlan } from '#api/setup.ts';
import type { JobPlanOut } from '#api/setup.ts';
import { Field, NumberField, TextField, useSubmit } from '../parts/fields.tsx';
import { Form } from '../parts/form.tsx';
import { sayMinutes } from '../parts/words.ts';
import { setupApi } from './endpoints.ts';
import { Waiting } from '../shell/waiting.tsx';
import { EditableList } from './editable-list.tsx';

function JobPlanForm({ plan, onDone }: { plan: JobPlanOut | null; onDone: () => void }) {
  const [name, setName] = useState(plan?.name ?? '');
  const [minutes, setMinutes] = useState(plan?.minutes ?? 60);
  const [tasks, setTasks] = useState(plan?.tasks.map((t) => (t.mandatory ? t.text : `? ${t.text}`)).join('\n') ?? '');
  const [add] = setupApi.useAddJobPlanMutation();
  const [change] = setupApi.useChangeJobPlanMutation();
  const { errors, submit } = useSubmit(['name', 'minutes', 'tasks']);
  const send = async (): Promise<void> => {
    const body = {
      name,
      minutes,
      tasks: tasks
        .split('\n')
        .map((t) => t.trim())
        .filter((t) => t !== '')
        .map((t) => ({ text: t.replace(/^\?\s*/, ''), mandatory: !t.startsWith('?') })),
    };
    if (
      await (plan
        ? submit(change({ params: { id: String(plan.id) }, body: { ...body, version: plan.version } }))
        : submit(add({ body })))
    )
      onDone();
  };
  return (
    <Form name="Job plan" save="Save the job plan" onSave={() => send()} onCancel={onDone} errors={errors} sheet>
      <div className="grid grid-cols-[2fr_1fr] gap-4">
        <TextField label="Name" value={name} onChange={setName} error={errors.of('name')} />
        <NumberField
          label="Duration, minutes"
          value={minutes}
          onChange={setMinutes}
          error={errors.of('minutes')}
          min={0}
          hint={minutes === 0 ? '✕ With zero no visit is raised; the run will say so.' : undefined}
        />
      </div>
      <Field label="Tasks, one a line; a line that begins with ? is done only if needed" error={errors.of('tasks')}>
        {(id) => (
          <textarea id={id} className="box-area" rows={5} value={tasks} onChange={(e) => setTasks(e.target.value)} />
        )}
      </Field>
    </Form>
  );
}

export function JobPlans() {
  const query = setupApi.useReadReferenceQuery();
  return (
    <Waiting query={query}>
      {({ jobPlans }) => (
        <EditableList
          name="job-plans"
          items={jobPlans}
          adding={addJobPlan}
          add="Add a job plan"
          empty="No job plan yet. A schedule needs one: what is done at a visit, and how long it takes."
          form={(plan, done) => <JobPlanForm plan={plan} onDone={done} />}
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
