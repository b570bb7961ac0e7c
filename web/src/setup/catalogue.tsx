// The catalogue: classes with their job plans and meters; makers’ models with the warranty they come with.
import { useState } from 'react';
import { addClass, addModel } from '#api/assets.ts';
import type { ClassOut, ModelOut } from '#api/assets.ts';
import { asId, type AssetClassId } from '#core/ids.ts';
import { Field, NumberField, SelectField, TextField, Ticks, useSubmit } from '../parts/fields.tsx';
import { Form } from '../parts/form.tsx';
import { setupApi } from './endpoints.ts';
import { Waiting } from '../shell/waiting.tsx';
import { EditableList } from './editable-list.tsx';

/** "run hours; h; counter" a line: name, unit, and the device channel that counts the same, if any. */
export function readMeterLines(text: string): { name: string; unit: string; channel: string | null }[] | number {
  const meters = [];
  for (const [i, line] of text.split('\n').entries()) {
    if (line.trim() === '') continue;
    const [name = '', unit = '', channel = ''] = line.split(';').map((part) => part.trim());
    if (name === '' || unit === '') return i + 1;
    meters.push({ name, unit, channel: channel || null });
  }
  return meters;
}

function ClassForm({ item, onDone }: { item: ClassOut | null; onDone: () => void }) {
  const { data: reference } = setupApi.useReadReferenceQuery();
  const [name, setName] = useState(item?.name ?? '');
  const [plans, setPlans] = useState<string[]>(item?.jobPlans.map((p) => p.name) ?? []);
  const [meters, setMeters] = useState(
    item?.meters.map((m) => [m.name, m.unit, ...(m.channel ? [m.channel] : [])].join('; ')).join('\n') ?? '',
  );
  const [unread, setUnread] = useState<number | null>(null);
  const [add, adding] = setupApi.useAddClassMutation();
  const [change, changing] = setupApi.useChangeClassMutation();
  const { errors, submit } = useSubmit(['name', 'meters', 'jobPlanIds']);
  const known = reference?.jobPlans ?? [];
  const save = async (): Promise<void> => {
    const read = readMeterLines(meters);
    setUnread(typeof read === 'number' ? read : null);
    if (typeof read === 'number') return;
    const body = { name, meters: read, jobPlanIds: known.filter((p) => plans.includes(p.name)).map((p) => p.id) };
    const done = await (item
      ? submit(change({ params: { id: String(item.id) }, body: { ...body, version: item.version } }))
      : submit(add({ body })));
    if (done) onDone();
  };
  return (
    <Form
      name="Class"
      save="Save the class"
      onSave={save}
      onCancel={onDone}
      errors={errors}
      disabled={adding.isLoading || changing.isLoading}
      sheet
    >
      <TextField label="Name" value={name} onChange={setName} error={errors.of('name')} className="max-w-md" />
      <Ticks label="Job plans of this class" values={known.map((p) => p.name)} chosen={plans} onChange={setPlans} />
      <Field
        label="Meters, one a line: name; unit; device channel (if any)"
        error={unread === null ? errors.of('meters') : `Line ${unread}: write it as “run hours; h”.`}
      >
        {(id) => (
          <textarea id={id} className="box-area" rows={3} value={meters} onChange={(e) => setMeters(e.target.value)} />
        )}
      </Field>
    </Form>
  );
}

function ModelForm({
  item,
  classes,
  onDone,
}: {
  item: ModelOut | null;
  classes: readonly ClassOut[];
  onDone: () => void;
}) {
  const [draft, setDraft] = useState({
    maker: item?.maker ?? '',
    name: item?.name ?? '',
    warrantyMonths: item?.warrantyMonths ?? 24,
    warrantyLabour: item?.warrantyLabour ?? 100,
    warrantyParts: item?.warrantyParts ?? 100,
    warrantyTravel: item?.warrantyTravel ?? 100,
    warrantyVisits: item?.warrantyVisits ?? 0,
  });
  const [classId, setClassId] = useState(String(item?.classId ?? classes[0]?.id ?? ''));
  const [add, adding] = setupApi.useAddModelMutation();
  const [change, changing] = setupApi.useChangeModelMutation();
  const { errors, submit } = useSubmit([...Object.keys(draft), 'classId']);
  const save = async (): Promise<void> => {
    const body = { ...draft, classId: asId<AssetClassId>(Number(classId)) };
    const done = await (item
      ? submit(change({ params: { id: String(item.id) }, body: { ...body, version: item.version } }))
      : submit(add({ body })));
    if (done) onDone();
  };
  const number = (
    key: 'warrantyMonths' | 'warrantyLabour' | 'warrantyParts' | 'warrantyTravel' | 'warrantyVisits',
    label: string,
  ) => (
    <NumberField
      label={label}
      value={draft[key]}
      onChange={(n) => setDraft({ ...draft, [key]: n })}
      error={errors.of(key)}
      min={0}
    />
  );
  return (
    <Form
      name="Model"
      save="Save the model"
      onSave={save}
      onCancel={onDone}
      errors={errors}
      disabled={adding.isLoading || changing.isLoading}
      sheet
    >
      <div className="grid grid-cols-4 gap-3">
        <TextField
          label="Maker"
          value={draft.maker}
          onChange={(maker) => setDraft({ ...draft, maker })}
          error={errors.of('maker')}
        />
        <TextField
          label="Model"
          value={draft.name}
          onChange={(name) => setDraft({ ...draft, name })}
          error={errors.of('name')}
        />
        <SelectField
          label="Class"
          value={classId}
          onChange={setClassId}
          options={classes.map((c) => [String(c.id), c.name])}
          error={errors.of('classId')}
        />
        {number('warrantyMonths', 'Warranty, months')}
        {number('warrantyLabour', 'Labour borne, %')}
        {number('warrantyParts', 'Parts borne, %')}
        {number('warrantyTravel', 'Travel borne, %')}
        {number('warrantyVisits', 'Free visits')}
      </div>
    </Form>
  );
}

export function Catalogue() {
  const query = setupApi.useReadCatalogueQuery();
  return (
    <Waiting query={query}>
      {({ classes, models }) => (
        <>
          <EditableList
            name="classes"
            items={classes}
            adding={addClass}
            add="Add a class"
            empty="No class yet. An import makes those that its assets name."
            form={(item, done) => <ClassForm item={item} onDone={done} />}
            columns={[
              { id: 'class', head: 'Class', value: (c) => c.name },
              { id: 'assets', head: 'Assets', isNumber: true, value: (c) => c.assets },
              {
                id: 'plans',
                head: 'Job plans',
                value: (c) => c.jobPlans.map((p) => p.name).join('; ') || 'none',
                className: 'quiet',
              },
              {
                id: 'meters',
                head: 'Meters',
                value: (c) => c.meters.map((m) => `${m.name} (${m.unit})`).join('; ') || 'none',
                className: 'quiet',
              },
            ]}
          />
          <div className="mt-8">
            <EditableList
              name="models"
              items={models}
              adding={addModel}
              add="Add a model"
              empty="No model yet. A model gives new assets their class and warranty."
              form={(item, done) => <ModelForm item={item} classes={classes} onDone={done} />}
              columns={[
                { id: 'model', head: 'Model', value: (m) => `${m.maker} ${m.name}` },
                { id: 'class', head: 'Class', value: (m) => m.className },
                { id: 'assets', head: 'Assets', isNumber: true, value: (m) => m.assets },
                { id: 'months', head: 'Warranty, months', isNumber: true, value: (m) => m.warrantyMonths },
                { id: 'labour', head: 'Labour %', isNumber: true, value: (m) => m.warrantyLabour },
                { id: 'parts', head: 'Parts %', isNumber: true, value: (m) => m.warrantyParts },
                { id: 'travel', head: 'Travel %', isNumber: true, value: (m) => m.warrantyTravel },
                { id: 'visits', head: 'Free visits', isNumber: true, value: (m) => m.warrantyVisits },
              ]}
            />
          </div>
        </>
      )}
    </Waiting>
  );
}
