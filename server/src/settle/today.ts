// What Settle shows in Today: how much waits for a decision, and the claim whose time runs out first.
import { and, asc, eq, isNotNull, sql } from 'drizzle-orm';
import type { Answer } from '#api/contract.ts';
import type { readSettleToday } from '#api/billing.ts';
import { claimBy } from '#core/settle/index.ts';
import { countUpTo } from '../platform/count-up-to.ts';
import type { Db } from '../platform/database.ts';
import { countClaims } from './claim-pages.ts';
import { claim, claimMaker } from './claim-tables.ts';
import { COUNTED, countOf } from './look-pages.ts';
import { incomingPayment } from './paid-tables.ts';

async function soonestClaim(db: Db): Promise<Answer<typeof readSettleToday>['soonest']> {
  const [row] = await db
    .select({ id: claim.id, maker: claim.maker, doneOn: claim.doneOn, days: claimMaker.days })
    .from(claim)
    .innerJoin(claimMaker, eq(claimMaker.name, claim.maker))
    .where(and(eq(claim.state, 'to send'), isNotNull(claimMaker.days)))
    .orderBy(asc(sql`date_add(${claim.doneOn}, interval ${claimMaker.days} day)`), asc(claim.id))
    .limit(1);
  const by = row && claimBy(row.doneOn, row.days);
  return row && by ? { id: row.id, maker: row.maker, by } : null;
}

export async function readToday(db: Db): Promise<Answer<typeof readSettleToday>> {
  const [odd, second, payments, claims, answered, soonest] = await Promise.all([
    countOf(db, 'to look at', false),
    countOf(db, 'second', null),
    countUpTo(db, incomingPayment, eq(incomingPayment.state, 'open'), COUNTED),
    countClaims(db, 'to send'),
    countClaims(db, 'answered'),
    soonestClaim(db),
  ]);
  return { odd, second, payments, claims, answered, soonest };
}
