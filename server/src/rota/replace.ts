// Somebody else in all of a person's appointments of a day, at one go: what can go over does, what cannot is named and stays.
import type { BodyOf } from '#api/contract.ts';
import type { Replaced, replacePerson } from '#api/rota.ts';
import type { OrderId, PersonId } from '#core/ids.ts';
import { againstCrew, type Against, type Goer, type PersonDay, type Roads, type Taken } from '#core/rota/index.ts';
import { MINUTE, type Instant } from '#core/time/index.ts';
import type { Db } from '../platform/database.ts';
import { refuse } from '../platform/refuse.ts';
import type { Write } from '../platform/writing.ts';
import { hold, holdAppointment, moveIn } from './booking.ts';
import { daysOf, ordersOfAppointments, whoGoes, type Goes, type Kept } from './days.ts';
import { roadsOf } from './roads.ts';
import { around, together, workOf, type OrderWork } from './work.ts';

type Body = BodyOf<typeof replacePerson>;
type Item = { readonly of: Kept; readonly orders: readonly OrderWork[]; readonly people: readonly PersonId[] };

/** The day's appointments of a person with the other in their place, in order of time. */
async function itemsOf(
  db: Db,
  { person: from, by, date }: Body,
  now: Instant,
): Promise<{ items: Item[]; goes: Goes[] }> {
  if (from === by) refuse('invalid', 'Choose somebody else.', 'by');
  const goes = await whoGoes(db, { ids: [from, by] });
  const leaves = goes.find((p) => p.id === from) ?? refuse('not-found', 'There is no such technician.', 'person');
  if (!goes.some((p) => p.id === by)) refuse('not-found', 'There is no such technician; choose another.', 'by');
  const { days, appointments } = await daysOf(db, [leaves], date, date, now);
  const own = new Set(days.flatMap((d) => d.taken.map((t) => t.id)));
  const kept = appointments.filter((a) => own.has(a.id));
  const served = await ordersOfAppointments(
    db,
    kept.map((a) => a.id),
  );
  const [first] = kept;
  const ids = [...new Set([...served.values()].flat())];
  const work = first ? await workOf(db, ids, around(first.fromAt, 2)) : new Map<OrderId, OrderWork>();
  return {
    goes,
    items: kept.map((of) => ({
      of,
      people: of.personIds.map((id) => (id === from ? by : id)),
      orders: (served.get(of.id) ?? []).flatMap((id) => work.get(id) ?? []),
    })),
  };
}

/** What speaks against each, taken one after the other: what went over before is in the other's day. */
async function lookedAt(db: Db, body: Body, items: readonly Item[], roads: Roads, now: Instant) {
  const gone: Taken[] = [];
  const looked: { item: Item; against: readonly Against[]; moves: boolean }[] = [];
  for (const item of items) {
    const { of, orders, people } = item;
    if (new Set(people).size < people.length) {
      const text = 'goes there already, with them';
      looked.push({ item, against: [{ what: 'overlap', binds: true, text }], moves: false });
      continue;
    }
    const goes = await whoGoes(db, { ids: people });
    const { days } = await daysOf(db, goes, body.date, body.date, now, [of.id]);
    const goers = people.flatMap((id): Goer[] => {
      const name = goes.find((g) => g.id === id)?.name;
      const day = days.find((d) => d.personId === id);
      return name && day ? [{ name, day: id === body.by ? withTaken(day, gone) : day }] : [];
    });
    const span = { from: of.fromAt, to: of.toAt };
    const work = { ...together(orders, people.length), minutes: (of.toAt - of.fromAt) / MINUTE };
    const against = againstCrew(goers, work, span, roads).map(({ what, binds, text }) => ({ what, binds, text }));
    const moves = against.every((r) => !r.binds && body.anyway);
    if (moves || against.length === 0) gone.push({ id: of.id, span, spot: of.spot });
    looked.push({ item, against, moves: moves || against.length === 0 });
  }
  return looked;
}

const withTaken = (day: PersonDay, more: readonly Taken[]): PersonDay => ({
  ...day,
  taken: [...day.taken.filter((t) => more.every((m) => m.id !== t.id)), ...more].sort(
    (a, b) => a.span.from - b.span.from,
  ),
});

const show = (looked: Awaited<ReturnType<typeof lookedAt>>): Replaced => ({
  items: looked.map(({ item, against, moves }) => ({
    ...{ appointmentId: item.of.id, from: item.of.fromAt, to: item.of.toAt, moves },
    titles: item.orders.map((o) => o.title),
    against: against.map((r) => ({ ...r })),
  })),
});

export async function lookAtReplacement(db: Db, body: Body, now: Instant): Promise<Replaced> {
  const { items } = await itemsOf(db, body, now);
  return show(await lookedAt(db, body, items, await roadsOf(db), now));
}

export function replaceOf(write: Write, who: { readonly id: PersonId }, body: Body, now: Instant): Promise<Replaced> {
  return write(async (tx, told) => {
    const { items, goes } = await itemsOf(tx.db, body, now);
    const looked = await lookedAt(tx.db, body, items, await roadsOf(tx.db), now);
    for (const { item, moves } of looked) {
      if (!moves) continue;
      const row = await holdAppointment(tx, item.of.id);
      if (row.version !== item.of.version)
        refuse('stale', 'Somebody changed one of these appointments meanwhile; look again.');
      await hold(tx, row.orderIds, item.people);
      const asked = { people: item.people, from: row.fromAt, minutes: (row.toAt - row.fromAt) / MINUTE };
      await moveIn(tx, row, { ...asked, anyway: body.anyway, overlapReason: '' }, who, now);
    }
    const moved = looked.filter((l) => l.moves).length;
    const name = (id: PersonId): string => goes.find((g) => g.id === id)?.name ?? '';
    if (moved > 0)
      told({
        subject: 'person',
        id: body.person,
        text: `${moved} appointments of ${body.date} given to ${name(body.by)}`,
      });
    return show(looked);
  });
}
