// What cost centres bear of approved orders: work under a warranty, and our own. Appended, never changed: a day that was closed stays.
import { and, eq, inArray, isNotNull, ne, sql } from 'drizzle-orm';
import type { OrderId } from '#core/ids.ts';
import { bearerOfCharge, type Bearer, type SettledCharge } from '#core/settle/index.ts';
import { localDateAt, type Instant } from '#core/time/index.ts';
import { instantText } from '../platform/columns.ts';
import { bulkInsert, type Tx } from '../platform/database.ts';
import type { Person } from '../platform/http.ts';
import { asset } from '../assets/tables.ts';
import type { Charged } from './charging.ts';
import { LONGEST_BEARER, orderApproval, orderCharge } from './document-tables.ts';
import { centreEntry } from './paid-tables.ts';

export function bearsOf(charge: SettledCharge, { order, lines }: Charged): Bearer | null {
  const verdict = lines.find((l) => l.id === charge.lineId)?.verdict?.verdict ?? null;
  return bearerOfCharge(charge, { internal: order.internal, verdict });
}

type By = Pick<Person, 'id' | 'zone'>;
const COLUMNS = ['order_id', 'bearer', 'centre', 'currency', 'minor', 'on', 'person_id', 'at'];

/** Of work under a warranty the maker of the machine; of our own what it is called. */
const CENTRE = sql<string>`coalesce(if(${orderCharge.bears} = 'warranty', ${asset.maker}, ${orderCharge.bearer}), '')`;

/** Orders whose approval stands from now on. */
export async function bookCentres(tx: Tx, ids: readonly OrderId[], who: By, now: Instant): Promise<void> {
  if (ids.length === 0) return;
  const rows = await tx.db
    .select({
      ...{ orderId: orderCharge.orderId, bears: orderCharge.bears, currency: orderApproval.currency },
      ...{ centre: CENTRE, minor: sql<string>`sum(${orderCharge.borne})` },
    })
    .from(orderCharge)
    .innerJoin(orderApproval, eq(orderApproval.orderId, orderCharge.orderId))
    .leftJoin(asset, eq(asset.id, orderCharge.assetId))
    .where(
      and(inArray(orderCharge.orderId, [...ids]), isNotNull(orderCharge.bears), ne(orderCharge.bears, 'agreement')),
    )
    .groupBy(orderCharge.orderId, orderCharge.bears, orderApproval.currency, CENTRE)
    .orderBy(orderCharge.orderId, orderCharge.bears, CENTRE);
  const on = localDateAt(who.zone, now);
  await bulkInsert(
    tx.connection,
    'centre_entry',
    COLUMNS,
    rows.map((r) => [
      ...[r.orderId, r.bears, r.centre.slice(0, LONGEST_BEARER), r.currency, Number(r.minor)],
      ...[on, who.id, instantText(now)],
    ]),
  );
}

/** An approval was taken back: what was borne of it so far is borne no more. */
export async function takeCentresBack(tx: Tx, id: OrderId, who: By, now: Instant): Promise<void> {
  const rows = await tx.db
    .select({
      ...{ bearer: centreEntry.bearer, centre: centreEntry.centre, currency: centreEntry.currency },
      minor: sql<string>`sum(${centreEntry.minor})`,
    })
    .from(centreEntry)
    .where(eq(centreEntry.orderId, id))
    .groupBy(centreEntry.bearer, centreEntry.centre, centreEntry.currency);
  const on = localDateAt(who.zone, now);
  await bulkInsert(
    tx.connection,
    'centre_entry',
    COLUMNS,
    rows
      .filter((r) => Number(r.minor) !== 0)
      .map((r) => [id, r.bearer, r.centre, r.currency, -Number(r.minor), on, who.id, instantText(now)]),
  );
}
