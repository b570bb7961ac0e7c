// Job plans, alert rules, people and gateways.
import { useState, type ReactNode } from 'react';
import { ROLES, type Role } from '#api/shapes.ts';
import type { AlertRuleOut, JobPlanOut } from '#api/setup.ts';
import { Field, GeneralError, NumberField, SelectField, TextField, useSubmit } from '../parts/fields.tsx';
import { sayMinutes } from '../parts/words.ts';
import { useReader, WRITERS } from '../shell/reader.tsx';
import { server } from '../shell/store.ts';
import { Waiting } from '../shell/waiting.tsx';

function Form({ name, send, children }: { name: string; send: () => void; children: ReactNode }) {
  return (
    <form
      className="sheet mt-3 space-y-3 p-4"
      noValidate
      aria-label={name}
      onSubmit={(e) => {
        e.preventDefault();
        send();
      }}
    >
      {children}
    </form>
  );
}

function JobPlanForm({ plan, onDone }: { plan: JobPlanOut | null; onDone: () => void }) {
  const [name, setName] = useState(plan?.name ?? '');
  const [minutes, setMinutes] = useState(plan?.minutes ?? 60);
  const [tasks, setTasks] = useState(plan?.tasks.map((t) => (t.mandatory ? t.text : `? ${t.text}`)).join('\n') ?? '');
  const [add] = server.useAddJobPlanMutation();
  const [change] = server.useChangeJobPlanMutation();
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
    <Form name="Job plan" send={() => void send()}>
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
      <GeneralError errors={errors} />
      <div className="flex gap-2">
        <button className="act-main">Save the job plan</button>
        <button type="button" className="act" onClick={onDone}>
          Cancel
        </button>
      </div>
    </Form>
  );
}

export function JobPlans() {
  const reader = useReader();
  const query = server.useReadReferenceQuery();
  const [editing, setEditing] = useState<JobPlanOut | 'new' | null>(null);
  const may = reader.may(...WRITERS);
  return (
    <Waiting query={query}>
      {({ jobPlans }) => (
        <>
          {may && !editing && (
            <button className="act-main" onClick={() => setEditing('new')}>
              Add a job plan
            </button>
          )}
          {editing && (
            <JobPlanForm
              key={editing === 'new' ? 0 : editing.id}
              plan={editing === 'new' ? null : editing}
              onDone={() => setEditing(null)}
            />
          )}
          {jobPlans.length === 0 ? (
            <p className="quiet mt-3">
              No job plan yet. A schedule needs one: what is done at a visit, and how long it takes.
            </p>
          ) : (
            <table className="dense mt-3">
              <thead>
                <tr>
                  <th>Name</th>
                  <th className="num">Duration</th>
                  <th>Tasks</th>
                  <th />
                </tr>
              </thead>
              <tbody>
                {jobPlans.map((p) => (
                  <tr key={p.id}>
                    <td>{p.name}</td>
                    <td className={`num ${p.minutes === 0 ? 'font-semibold' : ''}`}>
                      {p.minutes === 0 ? '✕ zero' : sayMinutes(p.minutes)}
                    </td>
                    <td className="quiet">
                      {p.tasks.map((t) => `${t.text}${t.mandatory ? '' : ' (if needed)'}`).join('; ')}
                    </td>
                    <td>
                      {may && (
                        <button className="link-ink" onClick={() => setEditing(p)}>
                          change
                        </button>
                      )}
                    </td>
                  </tr>
                ))}
              </tbody>
            </table>
          )}
        </>
      )}
    </Waiting>
  );
}

function AlertRuleForm({ rule, onDone }: { rule: AlertRuleOut | null; onDone: () => void }) {
  const { data: reference } = server.useReadReferenceQuery();
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
  const [add] = server.useAddAlertRuleMutation();
  const [change] = server.useChangeAlertRuleMutation();
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
    <Form name="Alert rule" send={() => void send()}>
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
      <GeneralError errors={errors} />
      <div className="flex gap-2">
        <button className="act-main">Save the alert rule</button>
        <button type="button" className="act" onClick={onDone}>
          Cancel
        </button>
      </div>
    </Form>
  );
}

export function AlertRules() {
  const reader = useReader();
  const query = server.useListAlertRulesQuery();
  const [editing, setEditing] = useState<AlertRuleOut | 'new' | null>(null);
  const may = reader.may(...WRITERS);
  return (
    <Waiting query={query}>
      {({ items }) => (
        <>
          {may && !editing && (
            <button className="act-main" onClick={() => setEditing('new')}>
              Add an alert rule
            </button>
          )}
          {editing && (
            <AlertRuleForm
              key={editing === 'new' ? 0 : editing.id}
              rule={editing === 'new' ? null : editing}
              onDone={() => setEditing(null)}
            />
          )}
          {items.length === 0 ? (
            <p className="quiet mt-3">
              No alert rule yet. A rule turns an abnormal reading into an alert and a repair order.
            </p>
          ) : (
            <table className="dense mt-3">
              <thead>
                <tr>
                  <th>Name</th>
                  <th>Class</th>
                  <th>Abnormal</th>
                  <th className="num">Deadband</th>
                  <th className="num">On-delay</th>
                  <th className="num">Priority</th>
                  <th />
                </tr>
              </thead>
              <tbody>
                {items.map((r) => (
                  <tr key={r.id}>
                    <td>{r.name}</td>
                    <td>{r.className}</td>
                    <td>
                      {r.channel} {r.side} {String(r.limit).replace('-', '−')} {r.unit}
                    </td>
                    <td className="num">{r.deadband}</td>
                    <td className="num">{r.onDelaySeconds} s</td>
                    <td className="num">{r.priority}</td>
                    <td>
                      {may && (
                        <button className="link-ink" onClick={() => setEditing(r)}>
                          change
                        </button>
                      )}
                    </td>
                  </tr>
                ))}
              </tbody>
            </table>
          )}
          <p className="quiet mt-4">
            A device is connected on its asset’s page. Readings come over MQTT (topic readings/…) or by POST to
            /api/readings as SenML (RFC 8428).
          </p>
        </>
      )}
    </Waiting>
  );
}

export function People() {
  const reader = useReader();
  const query = server.useListPeopleQuery();
  const blank = { name: '', email: '', role: 'technician' as Role, zone: reader.zone as string, password: '' };
  const [draft, setDraft] = useState<typeof blank | null>(null);
  const [add] = server.useAddPersonMutation();
  const { errors, submit } = useSubmit(['name', 'email', 'role', 'zone', 'password']);
  const set = (key: keyof typeof blank) => (value: string) => draft && setDraft({ ...draft, [key]: value });
  return (
    <Waiting query={query}>
      {({ items }) => (
        <>
          {reader.may('administrator') && !draft && (
            <button className="act-main" onClick={() => setDraft(blank)}>
              Add a person
            </button>
          )}
          {draft && (
            <Form name="Person" send={() => void submit(add({ body: draft })).then((done) => done && setDraft(null))}>
              <div className="grid grid-cols-3 gap-3">
                <TextField label="Name" value={draft.name} onChange={set('name')} error={errors.of('name')} />
                <TextField
                  label="E-mail"
                  type="email"
                  value={draft.email}
                  onChange={set('email')}
                  error={errors.of('email')}
                  autoComplete="off"
                />
                <SelectField
                  label="Role"
                  value={draft.role}
                  onChange={set('role')}
                  options={ROLES.map((r) => [r, r])}
                />
                <TextField label="Time zone" value={draft.zone} onChange={set('zone')} error={errors.of('zone')} />
                <TextField
                  label="First password"
                  type="password"
                  value={draft.password}
                  onChange={set('password')}
                  error={errors.of('password')}
                  hint="At least 12 characters."
                  autoComplete="new-password"
                />
              </div>
              <GeneralError errors={errors} />
              <div className="flex gap-2">
                <button className="act-main">Add the person</button>
                <button type="button" className="act" onClick={() => setDraft(null)}>
                  Cancel
                </button>
              </div>
            </Form>
          )}
          <table className="dense mt-3">
            <thead>
              <tr>
                <th>Name</th>
                <th>Role</th>
                <th>E-mail</th>
                <th>Zone</th>
              </tr>
            </thead>
            <tbody>
              {items.map((p) => (
                <tr key={p.id}>
                  <td>{p.name}</td>
                  <td>{p.role}</td>
                  <td>{p.email}</td>
                  <td>{p.zone}</td>
                </tr>
              ))}
            </tbody>
          </table>
        </>
      )}
    </Waiting>
  );
}

export function Gateways() {
  const [name, setName] = useState('');
  const [made, setMade] = useState<string | null>(null);
  const [add] = server.useAddGatewayMutation();
  const { errors, submit } = useSubmit(['name']);
  return (
    <Form name="Gateway" send={() => void submit(add({ body: { name } })).then((done) => done && setMade(done.key))}>
      <TextField
        label="Gateway that will post readings"
        value={name}
        onChange={setName}
        error={errors.of('name')}
        className="max-w-sm"
      />
      <GeneralError errors={errors} />
      <button className="act-main">Create its key</button>
      {made && (
        <p role="status">
          Its key, shown this once: <code className="serial select-all">{made}</code>. Send it as{' '}
          <code className="serial">Authorization: Bearer …</code> with POST /api/readings.
        </p>
      )}
    </Form>
  );
}
