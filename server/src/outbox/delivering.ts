// Delivering what is in the outbox: handed to its gateway, once, and marked with the gateway's word.
import { eq } from 'drizzle-orm';
import * as v from 'valibot';
import { sendAgain } from '#api/outbox.ts';
import { readContent } from '../platform/content.ts';
import type { House } from '../platform/http.ts';
import { jobKind } from '../platform/job-kind.ts';
import { holdClaim } from '../platform/jobs.ts';
import { announce } from '../platform/live.ts';
import { openGateways, type Gateways } from './gateways.ts';
import { pushTo } from './phones.ts';
import { outbox } from './tables.ts';
import { DELIVERING } from './telling.ts';

const opened = new WeakMap<House, Gateways>();
const gatewaysOf = (house: House): Gateways => {
  const held = opened.get(house) ?? openGateways(house.config);
  opened.set(house, held);
  return held;
};

export const delivering = jobKind({
  kind: DELIVERING,
  says: 'Hand a message to its gateway',
  ask: v.object({ id: v.number() }),
  async run(house, { id }, claim) {
    const { database } = house;
    const [message] = await database.db.select().from(outbox).where(eq(outbox.id, id));
    if (!message) return 'gone';
    if (message.state === 'sent') return 'sent before';
    const paper = message.paperSha256 === null ? null : await readContent(database.db, message.paperSha256);
    const pushed = message.way === 'push' ? await pushTo(database.db, house.config, message) : null;
    const receipt = pushed ?? (await gatewaysOf(house).hand(message, paper));
    await database.transact(async (tx) => {
      if (!(await holdClaim(tx, claim))) return;
      await tx.db
        .update(outbox)
        .set({ state: 'sent', sentAt: claim.now, receipt: receipt.slice(0, 200), problem: null })
        .where(eq(outbox.id, id));
      await announce(tx, sendAgain);
    });
    return `${message.way} to ${message.toName}`;
  },
  async died({ database }, { id }, reason) {
    await database.transact(async (tx) => {
      await tx.db.update(outbox).set({ state: 'dead', problem: reason }).where(eq(outbox.id, id));
      await announce(tx, sendAgain);
    });
  },
});
