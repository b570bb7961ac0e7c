// Forms on orders: copied from the class when an order is raised; answers for a meter become its reading.
import { and, asc, eq, inArray } from 'drizzle-orm';
import { group } from 'd3-array';
import type { AssetId, ClassFormId, OrderId, PersonId } from '#core/ids.ts';
import type { FormAnswer, FormQuestion, OrderKind } from '#core/orders/index.ts';
import { refusal } from '#core/refusal.ts';
import type { Instant } from '#core/time/index.ts';
import { bulkInsert, type Tx } from '../platform/database.ts';
import { writeReading } from '../meters/index.ts';
import { Refused } from '../platform/refuse.ts';
import { classForm } from '../catalogue/tables.ts';
import { asset } from '../assets/tables.ts';
import { meter } from '../meters/tables.ts';
import { orderForm } from './tables.ts';

export type AskedAt = {
  readonly orderId: OrderId;
  readonly assetId: AssetId;
  /** By the job plan it is done by. */
  readonly formIds?: readonly ClassFormId[] | undefined;
};

/** A machine with two visits is asked its forms once, those of both their job plans. */
export const askedOnce = (all: readonly AskedAt[]): AskedAt[] =>
  [...group(all, (a) => `${a.orderId}/${a.assetId}`).values()].map((same) => ({
    ...(same[0] as AskedAt),
    formIds: same.flatMap((a) => a.formIds ?? []),
  }));

/** Copies the forms that their classes ask on this kind of order, and those their job plans ask for, to the machines of orders just raised. */
export async function copyForms(tx: Tx, kind: OrderKind, orders: readonly AskedAt[]): Promise<void> {
  if (orders.length === 0) return;
  const asked = await tx.db
    .select({ assetId: asset.id, form: classForm })
    .from(asset)
    .innerJoin(classForm, eq(classForm.classId, asset.classId))
    .where(inArray(asset.id, [...new Set(orders.map((o) => o.assetId))]))
    .orderBy(asc(classForm.name));
  const next = new Map<OrderId, number>();
  const rows = orders.flatMap(({ orderId, assetId, formIds }) =>
    asked
      .filter((a) => a.assetId === assetId && (a.form.kinds.includes(kind) || formIds?.includes(a.form.id)))
      .map(({ form }) => {
        const position = next.get(orderId) ?? 0;
        next.set(orderId, position + 1);
        return [orderId, position, assetId, form.name, JSON.stringify(form.questions)];
      }),
  );
  if (rows.length > 0)
    await bulkInsert(tx.connection, 'order_form', ['order_id', 'position', 'asset_id', 'name', 'questions'], rows);
}

/** The asset's meter of that name, under lock; made when its class only lately got one. */
async function meterNamed(tx: Tx, assetId: AssetId, question: FormQuestion) {
  const find = () =>
    tx.db
      .select()
      .from(meter)
      .where(and(eq(meter.assetId, assetId), eq(meter.name, question.text)))
      .for('update');
  const [known] = await find();
  if (known) return known;
  await tx.db
    .insert(meter)
    .values({ assetId, name: question.text, unit: question.unit ?? '' })
    .onDuplicateKeyUpdate({ set: { name: question.text } });
  const [made] = await find();
  if (!made) throw new Error('a meter just made is gone');
  return made;
}

/** Books what the meters of a form showed, unless the form said so before. Refused at `answers.N`, as a typed reading would be. */
export async function bookMeterAnswers(
  tx: Tx,
  formId: number,
  answers: { readonly now: readonly FormAnswer[]; readonly before: readonly FormAnswer[] | undefined },
  at: Instant,
  who: PersonId | null,
  now: Instant,
): Promise<void> {
  const [form] = await tx.db.select().from(orderForm).where(eq(orderForm.id, formId));
  for (const [i, question] of (form?.questions ?? []).entries()) {
    const value = answers.now[i];
    if (!form || question.kind !== 'meter' || typeof value !== 'number' || value === answers.before?.[i]) continue;
    const written = await writeReading(
      tx,
      await meterNamed(tx, form.assetId, question),
      // A phone's clock may run a little ahead of ours; a reading never lies in the future.
      { at: at > now ? now : at, value },
      { source: 'field', personId: who, lowerMeans: null },
      now,
    );
    if (!written.ok)
      throw new Refused(
        written.refusals.map((r) =>
          refusal(
            r.code,
            r.field === 'lowerMeans'
              ? `${r.message} Correct the number here, or record the replacement on the asset’s page first.`
              : r.message,
            `answers.${i}`,
          ),
        ),
      );
  }
}
