// A technician's phone against the real server: acts are told by it as it would, in the order in which they were done.
import { randomUUID } from 'node:crypto';
import { and, eq } from 'drizzle-orm';
import type { FieldDays, FieldOrder, PhoneActIn } from '#api/field.ts';
import type { Outcome } from '#core/field/index.ts';
import { formatInstant, instant, type Instant } from '#core/time/index.ts';
import { job } from '../src/tables.ts';
import { must, type Caller, type TestHouse } from './house.ts';

export type Told = Omit<PhoneActIn, 'id' | 'deed' | 'phoneAt'> & Partial<Pick<PhoneActIn, 'id' | 'deed' | 'phoneAt'>>;

/** An act as a phone tells it; without more, told for the first time and at the time it says. */
export const told = (body: PhoneActIn['body'], at: string, over: Partial<PhoneActIn> = {}): PhoneActIn => {
  const id = over.id ?? randomUUID();
  return { id, deed: id, phoneAt: at, at, needs: [], body, ...over };
};

export const onOrder = (orderId: number, act: object, at: string, over: Partial<PhoneActIn> = {}): PhoneActIn =>
  told({ kind: 'order', orderId, act } as PhoneActIn['body'], at, over);

export const minutesAfter = (at: Instant, minutes: number): string => formatInstant(instant(at + minutes * 60_000));

export const phoneOf = (call: Caller) => ({
  days: async (): Promise<FieldDays> => must(await call<FieldDays>('GET', '/api/field')),
  orders: async (...ids: number[]): Promise<FieldOrder[]> =>
    must(await call<{ orders: FieldOrder[] }>('GET', `/api/field/orders?ids=${ids.join(',')}`)).orders,
  send: async (...acts: unknown[]): Promise<Outcome[]> =>
    must(await call<{ outcomes: Outcome[] }>('POST', '/api/field/acts', { acts })).outcomes,
});

/** A job that waits for its time is done now; its house does it within a second or two. */
export const dueNow = ({ database }: TestHouse, kind: string) =>
  database.db
    .update(job)
    .set({ dueAt: instant(Date.now()) })
    .where(and(eq(job.kind, kind), eq(job.state, 'waiting')));

export const kindsOf = (outcomes: readonly Outcome[]): string[] => outcomes.map((o) => o.kind);
export const reasonOf = (outcome: Outcome | undefined): string =>
  outcome?.kind === 'refused' ? outcome.refusals.map((r) => r.message).join(' ') : (outcome?.kind ?? 'nothing');
