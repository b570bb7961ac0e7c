// The catalogue: classes with their job plans and meters; makers’ models with the warranty they come with.
import * as v from 'valibot';
import {
  addClass,
  addModel,
  classIn,
  type ClassIn,
  type ClassOut,
  type ModelIn,
  type ModelOut,
} from '#api/catalogue.ts';
import type { Reference } from '#api/setup.ts';
import { FINDINGS, type Finding } from '#core/orders/index.ts';
import { WireLongText, WireNumber, WireSelect, WireText } from '../parts/wire-fields.tsx';
import { useWireForm, WireForm } from '../parts/wire-form.tsx';
import { setupApi } from './endpoints.ts';
import { Waiting } from '../shell/waiting.tsx';
import { EditableList } from './editable-list.tsx';
import { NamedTicks } from './named-ticks.tsx';

type ReadMeter = { name: string; unit: string; channel: string | null; wrapsAt: number | null };

/** "run hours; h; counter; 65536" a line: name, unit, the device channel that counts the same, and the count at which that begins anew. */
export function readMeterLines(text: string): ReadMeter[] | number {
  const meters: ReadMeter[] = [];
  for (const [i, line] of text.split('\n').entries()) {
    if (line.trim() === '') continue;
    const [name = '', unit = '', channel = '', wraps = ''] = line.split(';').map((part) => part.trim());
    const wrapsAt = wraps === '' ? null : Number(wraps);
    if (name === '' || unit === '' || (wrapsAt !== null && !(wrapsAt > 0 && channel !== ''))) return i + 1;
    meters.push({ name, unit, channel: channel || null, wrapsAt });
  }
  return meters;
}

type TypedClass = { name: string; meters: string; jobPlanIds: number[] } & Record<Finding, string>;

const linesOf = (text: string): string[] =>
  text
    .split('\n')
    .map((line) => line.trim())
    .filter((line) => line !== '');
const WORD_LABELS: Readonly<Record<Finding, string>> = {
  symptom: 'Symptoms, one a line',
  fault: 'Faults',
  cause: 'Causes',
  remedy: 'Remedies',
};

const meterText = v.pipe(
  v.string(),
  v.rawCheck(({ dataset, addIssue }) => {
    const read = dataset.typed ? readMeterLines(dataset.value) : [];
    if (typeof read === 'number') addIssue({ message: `Line ${read}: write it as “run hours; h”.` });
  }),
);
const wordText = v.pipe(
  v.string(),
  v.check((text) => linesOf(text).every((line) => line.length <= 120), 'At most 120 characters a line.'),
  v.check((text) => {
    const lines = linesOf(text).map((line) => line.toLowerCase());
    return new Set(lines).size === lines.length;
  }, 'A line stands there twice.'),
  v.check((text) => linesOf(text).length <= 60, 'At most 60 lines.'),
);
const bodyOf = ({ name, jobPlanIds, meters, ...words }: TypedClass): ClassIn => {
  const read = readMeterLines(meters);
  const { symptom, fault, cause, remedy } = words;
  return {
    ...{ name, jobPlanIds, meters: typeof read === 'number' ? [] : read },
    words: {
      symptom: linesOf(symptom),
      fault: linesOf(fault),
      cause: linesOf(cause),
      remedy: linesOf(remedy),
    },
  };
};

function ClassForm({
  item,
  known,
  onDone,
}: {
  item: ClassOut | null;
  known: Reference['jobPlans'];
  onDone: () => void;
}) {
  const [add] = setupApi.useAddClassMutation();
  const [change] = setupApi.useChangeClassMutation();
  const form = useWireForm(
    {
      body: v.object({
        ...{ name: classIn.entries.name, jobPlanIds: classIn.entries.jobPlanIds, meters: meterText },
        ...{ symptom: wordText, fault: wordText, cause: wordText, remedy: wordText },
      }),
    },
    {
      name: item?.name ?? '',
      meters:
        item?.meters
          .map((m) =>
            [m.name, m.unit, ...(m.channel ? [m.channel] : []), ...(m.wrapsAt === null ? [] : [m.wrapsAt])].join('; '),
          )
          .join('\n') ?? '',
      jobPlanIds: item?.jobPlans.map((p) => p.id) ?? [],
      symptom: item?.words.symptom.join('\n') ?? '',
      fault: item?.words.fault.join('\n') ?? '',
      cause: item?.words.cause.join('\n') ?? '',
      remedy: item?.words.remedy.join('\n') ?? '',
    },
  );
  return (
    <WireForm<TypedClass, unknown>
      form={form}
      name="Class"
      save="Save the class"
      send={(typed, seen) =>
        item
          ? change({ params: { id: String(item.id) }, body: { ...bodyOf(typed), version: seen ?? item.version } })
          : add({ body: bodyOf(typed) })
      }
      onDone={onDone}
      onCancel={onDone}
      sheet
    >
      <WireText name="name" label="Name" className="max-w-md" />
      <NamedTicks name="jobPlanIds" label="Job plans of this class" items={known} />
      <WireLongText
        name="meters"
        label="Meters, one a line: name; unit; device channel (if any); count at which that begins at 0 again (if it does)"
      />
      <p className="quiet">
        Words for what is found: offered with a call and on the order. A repair of a class that has causes or remedies
        is done once both are said.
      </p>
      <div className="grid grid-cols-2 gap-3">
        {FINDINGS.map((what) => (
          <WireLongText key={what} name={what} label={WORD_LABELS[what]} />
        ))}
      </div>
    </WireForm>
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
  const [add] = setupApi.useAddModelMutation();
  const [change] = setupApi.useChangeModelMutation();
  const form = useWireForm(addModel, {
    maker: item?.maker ?? '',
    name: item?.name ?? '',
    classId: item?.classId ?? classes[0]?.id ?? NaN,
    warrantyMonths: item?.warrantyMonths ?? 24,
    warrantyLabour: item?.warrantyLabour ?? 100,
    warrantyParts: item?.warrantyParts ?? 100,
    warrantyTravel: item?.warrantyTravel ?? 100,
    warrantyVisits: item?.warrantyVisits ?? 0,
  });
  return (
    <WireForm<ModelIn, unknown>
      form={form}
      name="Model"
      save="Save the model"
      send={(body, seen) =>
        item
          ? change({ params: { id: String(item.id) }, body: { ...body, version: seen ?? item.version } })
          : add({ body })
      }
      onDone={onDone}
      onCancel={onDone}
      sheet
    >
      <div className="grid grid-cols-4 gap-3">
        <WireText name="maker" label="Maker" />
        <WireText name="name" label="Model" />
        <WireSelect name="classId" label="Class" options={classes.map((c) => [c.id, c.name] as const)} />
        <WireNumber name="warrantyMonths" label="Warranty, months" min={0} />
        <WireNumber name="warrantyLabour" label="Labour borne, %" min={0} />
        <WireNumber name="warrantyParts" label="Parts borne, %" min={0} />
        <WireNumber name="warrantyTravel" label="Travel borne, %" min={0} />
        <WireNumber name="warrantyVisits" label="Free visits" min={0} />
      </div>
    </WireForm>
  );
}

export function Catalogue() {
  const query = setupApi.useReadCatalogueQuery();
  const { data: reference } = setupApi.useReadReferenceQuery();
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
            form={(item, done) => reference && <ClassForm item={item} known={reference.jobPlans} onDone={done} />}
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
