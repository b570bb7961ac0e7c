// Forms of the demo’s classes, on its open orders, and filled in on the visits of the last weeks.
import { and, eq, gt, inArray, isNull, or } from 'drizzle-orm';
import { asId, type AssetClassId, type JobPlanId } from '#core/ids.ts';
import { type FormAnswer, type FormQuestion, type OrderAct, type OrderKind } from '#core/orders/index.ts';
import { instant, MINUTE, DAY, type Instant } from '#core/time/index.ts';
import { copyForms } from '#server/orders/index.ts';
import { bulkInsert, type Tx } from '#server/platform/database.ts';
import { classForm, instantText, jobPlan, orderForm, orderLine, person, workOrder } from '#server/tables.ts';
import type { Random } from './random.ts';
import type { DemoAsset, DemoRegister } from './register.ts';
import type { ClassKey } from './scenario.ts';

const yes = (text: string): FormQuestion => ({
  text,
  kind: 'yes or no',
  mandatory: true,
  unit: null,
  from: null,
  to: null,
});
const number = (text: string, unit: string, from: number | null, to: number | null): FormQuestion => ({
  ...yes(text),
  kind: 'number',
  unit,
  from,
  to,
});
const words = (text: string): FormQuestion => ({ ...yes(text), kind: 'text', mandatory: false });
const meter = (text: string, unit: string): FormQuestion => ({ ...yes(text), kind: 'meter', unit });

type DemoForm = { readonly name: string; readonly kinds: readonly OrderKind[]; readonly questions: FormQuestion[] };
const FORMS: Partial<Record<ClassKey, readonly DemoForm[]>> = {
  ulf: [
    {
      name: 'Freezer handover',
      kinds: ['preventive'],
      questions: [
        number('Chamber on arrival', '°C', -86, -74),
        number('Chamber on leaving', '°C', -86, -74),
        yes('Gasket tight all round'),
        yes('Alarm reached the control room'),
        words('To tell the customer'),
      ],
    },
    {
      name: 'Refrigerant record',
      kinds: ['repair'],
      questions: [
        yes('Refrigerant circuit opened'),
        { ...number('Refrigerant added', 'g', 0, 400), mandatory: false },
        { ...number('Refrigerant recovered', 'g', 0, 400), mandatory: false },
      ],
    },
  ],
  stc: [
    {
      name: 'Steriliser record',
      kinds: ['preventive'],
      questions: [
        meter('Sterilising cycles', 'cycles'),
        number('Vacuum leak rate', 'mbar/min', null, 1.3),
        yes('Safety valve opens by hand'),
        words('Remarks'),
      ],
    },
  ],
  bsc: [
    {
      name: 'Cabinet certificate',
      kinds: ['preventive', 'inspection'],
      questions: [
        number('Inflow', 'm/s', 0.4, null),
        number('Downflow', 'm/s', 0.25, 0.5),
        yes('Smoke stays inside'),
        words('Certificate number'),
      ],
    },
  ],
};

/** Weeks back for which filled forms are kept; before that the demo had none. */
const FILLED_DAYS = 90;

function answer(random: Random, question: FormQuestion): FormAnswer {
  switch (question.kind) {
    case 'yes or no':
      return random.chance(0.95);
    case 'number': {
      const low = question.from ?? 0;
      const high = question.to ?? low + 0.2;
      const slip = random.chance(0.08) ? (high - low) * 0.3 : 0;
      return Math.round((random.between(low, high) + slip) * 100) / 100;
    }
    case 'text':
    case 'meter':
      return null;
  }
}

/** The yearly care of freezers asks for a form of its own, new this season: orders raised from now on have it. */
async function mapYearly(tx: Tx, register: DemoRegister, yearlyPlan: number): Promise<void> {
  const [mapping] = await tx.db
    .insert(classForm)
    .values({
      classId: asId<AssetClassId>(register.classIds.ulf),
      name: 'Temperature mapping',
      kinds: [],
      questions: [
        number('Warmest of nine probes', '°C', null, -70),
        number('Spread over the chamber', 'K', 0, 8),
        words('Probe set and its certificate'),
      ],
    })
    .$returningId();
  if (mapping)
    await tx.db
      .update(jobPlan)
      .set({ formIds: [mapping.id] })
      .where(eq(jobPlan.id, asId<JobPlanId>(yearlyPlan)));
}

/** Classes get their forms; open orders carry them, and orders done lately have them filled in ten minutes before their end. */
export async function writeForms(
  tx: Tx,
  random: Random,
  register: DemoRegister,
  assets: readonly DemoAsset[],
  yearlyPlan: number,
  now: Instant,
): Promise<void> {
  const all = (Object.keys(FORMS) as ClassKey[]).flatMap((k) => (FORMS[k] ?? []).map((form) => ({ k, ...form })));
  await bulkInsert(
    tx.connection,
    'asset_class_form',
    ['class_id', 'name', 'kinds', 'questions'],
    all.map((f) => [register.classIds[f.k], f.name, JSON.stringify(f.kinds), JSON.stringify(f.questions)]),
  );
  await mapYearly(tx, register, yearlyPlan);
  const since = instant(now - FILLED_DAYS * DAY);
  const recent = await tx.db
    .select({
      id: workOrder.id,
      kind: workOrder.kind,
      doneAt: workOrder.doneAt,
      by: workOrder.technician,
      assetId: orderLine.assetId,
    })
    .from(workOrder)
    .innerJoin(orderLine, eq(orderLine.orderId, workOrder.id))
    .where(
      and(
        inArray(
          orderLine.assetId,
          assets.filter((a) => FORMS[a.classKey]).map((a) => a.id),
        ),
        or(isNull(workOrder.doneAt), gt(workOrder.doneAt, since)),
      ),
    );
  const kinds: OrderKind[] = ['preventive', 'repair'];
  for (const kind of kinds)
    await copyForms(
      tx,
      kind,
      recent.flatMap((o) => (o.kind === kind && o.assetId !== null ? [{ orderId: o.id, assetId: o.assetId }] : [])),
    );
  const orders = new Map(recent.map((o) => [o.id, o]));
  const people = await tx.db.select({ id: person.id, name: person.name }).from(person);
  const events: unknown[][] = [];
  for (const form of await tx.db.select().from(orderForm)) {
    const order = orders.get(form.orderId);
    if (!order?.doneAt) continue;
    const at = instantText(instant(order.doneAt - 10 * MINUTE));
    // The form with the meter is new: what was done before has none.
    if (form.questions.some((q) => q.kind === 'meter')) {
      await tx.db.delete(orderForm).where(eq(orderForm.id, form.id));
      continue;
    }
    const act: OrderAct = { kind: 'form', formId: form.id, answers: form.questions.map((q) => answer(random, q)) };
    events.push([form.orderId, at, at, people.find((p) => p.name === order.by)?.id ?? null, JSON.stringify(act)]);
  }
  if (events.length > 0)
    await bulkInsert(tx.connection, 'order_event', ['order_id', 'at', 'recorded_at', 'person_id', 'act'], events);
}
