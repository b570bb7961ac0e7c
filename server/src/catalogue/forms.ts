// Forms of asset classes: what is asked on site; orders take a copy when they are raised.
import { and, asc, eq, inArray } from 'drizzle-orm';
import fp from 'fastify-plugin';
import * as contracts from '#api/forms.ts';
import type { FormIn } from '#api/forms.ts';
import type { AssetClassId, ClassFormId } from '#core/ids.ts';
import { checkQuestions } from '#core/orders/index.ts';
import { refusal } from '#core/refusal.ts';
import { isTaken, type Tx } from '../platform/database.ts';
import { serve, type House } from '../platform/http.ts';
import { accept, refuse, Refused, stale } from '../platform/refuse.ts';
import { assetClass, classForm, classMeter } from './tables.ts';

/** The form as a row; refused where a question makes no sense, or names a meter that machines of the class do not have. */
async function formValues(tx: Tx, body: FormIn) {
  const questions = accept(checkQuestions(body.questions));
  const classId = body.classId as AssetClassId;
  const [known] = await tx.db.select({ id: assetClass.id }).from(assetClass).where(eq(assetClass.id, classId));
  if (!known) refuse('not-found', 'That class does not exist; choose another.', 'classId');
  const named = questions.flatMap((q) => (q.kind === 'meter' ? [q.text] : []));
  const meters =
    named.length === 0
      ? []
      : await tx.db
          .select({ name: classMeter.name, unit: classMeter.unit })
          .from(classMeter)
          .where(and(eq(classMeter.classId, classId), inArray(classMeter.name, named)));
  const meterOf = (text: string) => meters.find((m) => m.name.toLowerCase() === text.toLowerCase());
  const strange = questions.flatMap((q, i) =>
    q.kind !== 'meter' || meterOf(q.text)
      ? []
      : [
          refusal(
            'not-found',
            `Machines of this class have no meter “${q.text}”; word the question as the meter’s name, or add the meter to the class.`,
            `questions.${i}`,
          ),
        ],
  );
  if (strange.length > 0) throw new Refused(strange);
  return {
    classId,
    name: body.name,
    kinds: body.kinds,
    questions: questions.map((q) => {
      const meter = q.kind === 'meter' ? meterOf(q.text) : undefined;
      return meter ? { ...q, text: meter.name, unit: meter.unit } : q;
    }),
  };
}

export const formRoutes = fp<{ house: House }>(
  async (app, { house }) => {
    const { db } = house.database;
    const named = async <T>(work: () => Promise<T>): Promise<T> => {
      try {
        return await work();
      } catch (error) {
        if (isTaken(error)) refuse('taken', 'The class has a form of that name already.', 'name');
        throw error;
      }
    };
    const locked = async (tx: Tx, id: ClassFormId) => {
      const [row] = await tx.db.select().from(classForm).where(eq(classForm.id, id)).for('update');
      return row ?? refuse('not-found', 'That form does not exist.');
    };
    serve(app, house, contracts.listForms, async () => ({
      items: (
        await db
          .select({ form: classForm, className: assetClass.name })
          .from(classForm)
          .innerJoin(assetClass, eq(assetClass.id, classForm.classId))
          .orderBy(asc(assetClass.name), asc(classForm.name))
          .limit(500)
      ).map(({ form, className }) => ({ ...form, className })),
    }));
    serve(app, house, contracts.addForm, ({ body, write }) =>
      named(() =>
        write(async (tx, told) => {
          const [made] = await tx.db
            .insert(classForm)
            .values(await formValues(tx, body))
            .$returningId();
          const id = made?.id as ClassFormId;
          told({ subject: 'form', id, text: `added ${body.name}` });
          return { id };
        }),
      ),
    );
    serve(app, house, contracts.changeForm, ({ params, body, write }) =>
      named(() =>
        write(async (tx, told) => {
          const row = await locked(tx, params.id);
          if (row.version !== body.version) stale(row);
          await tx.db
            .update(classForm)
            .set({ ...(await formValues(tx, body)), version: row.version + 1 })
            .where(eq(classForm.id, params.id));
          told({ subject: 'form', id: params.id, text: `changed ${body.name}` });
          return { done: true as const };
        }),
      ),
    );
    serve(app, house, contracts.removeForm, ({ params, write }) =>
      write(async (tx, told) => {
        const row = await locked(tx, params.id);
        await tx.db.delete(classForm).where(eq(classForm.id, params.id));
        told({ subject: 'form', id: params.id, text: `took away ${row.name}` });
        return { done: true as const };
      }),
    );
  },
  { name: 'stavok-form-routes', dependencies: ['stavok-authentication'] },
);
