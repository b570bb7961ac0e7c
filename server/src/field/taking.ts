// Acts that phones send: each judged again by the rules, taken once, and answered the same however often it is sent.
import { eq, inArray } from 'drizzle-orm';
import * as v from 'valibot';
import { phoneAct, type PhoneActOut } from '#api/field.ts';
import { sayIssue } from '#api/say-issue.ts';
import { timeOfAct, type Outcome } from '#core/field/index.ts';
import { refusal, type Refusal } from '#core/refusal.ts';
import type { Instant } from '#core/time/index.ts';
import { instantText } from '../platform/columns.ts';
import { bulkInsert, isDatabaseGone, isTaken, type Database, type Db, type Tx } from '../platform/database.ts';
import type { Person } from '../platform/http.ts';
import { Refused } from '../platform/refuse.ts';
import { contentOf } from '../platform/request-key.ts';
import { writeAs, type Write } from '../platform/writing.ts';
import { carryOut, TOUCHES } from './carry-out.ts';
import { fieldAct } from './tables.ts';

const REUSED = refusal('conflict', 'This id was used for something else already; do it anew.', 'id');
const TOLD_BEFORE = refusal('conflict', 'This was told already; nothing is left to put right.', 'deed');

const unknownHere = (kind: string): Refusal =>
  refusal(
    'unsupported',
    `The office does not know “${kind}” yet. Try it again once Stavok was brought up to date there.`,
  );

const outcomeOf = (id: string, refusals: readonly Refusal[]): Outcome =>
  refusals.length === 0 ? { id, kind: 'taken' } : { id, kind: 'refused', refusals };

/** What was said of an act before; null: it is new. */
async function saidBefore(db: Db, who: Person, id: string, content: string): Promise<Outcome | null> {
  const [held] = await db
    .select({ personId: fieldAct.personId, content: fieldAct.content, refusals: fieldAct.refusals })
    .from(fieldAct)
    .where(eq(fieldAct.id, id));
  if (!held) return null;
  return held.content === content && held.personId === who.id
    ? outcomeOf(id, held.refusals)
    : { id, kind: 'refused', refusals: [REUSED] };
}

/** Whether all deeds that an act needs were taken. */
async function hasGround(db: Db, needs: readonly string[]): Promise<boolean> {
  if (needs.length === 0) return true;
  const rows = await db
    .select({ deed: fieldAct.takenDeed })
    .from(fieldAct)
    .where(inArray(fieldAct.takenDeed, [...needs]));
  return rows.length === new Set(needs).size;
}

type Judged = {
  readonly act: PhoneActOut;
  readonly content: string;
  readonly at: Instant;
  readonly isDoubtful: boolean;
};

const COLUMNS = [
  ...['id', 'deed', 'taken_deed', 'person_id', 'kind', 'order_id', 'at', 'phone_at', 'received_at', 'doubtful'],
  ...['content', 'outcome', 'refusals'],
];

async function keepAct(
  tx: Tx,
  who: Person,
  { act, content, at, isDoubtful }: Judged,
  refusals: readonly Refusal[],
  now: Instant,
): Promise<void> {
  const { id, deed, body, phoneAt } = act;
  const isKept = refusals.length === 0;
  await bulkInsert(tx.connection, 'field_act', COLUMNS, [
    [
      ...[id, deed, isKept ? deed : null, who.id, body.kind, 'orderId' in body ? body.orderId : null],
      ...[instantText(at), instantText(phoneAt), instantText(now), isDoubtful ? 1 : 0],
      ...[content, isKept ? 'taken' : 'refused', JSON.stringify(refusals)],
    ],
  ]);
}

/** The act, or its deed, is there already. */
class ToldAlready extends Error {}

/** The row of the act is written in the transaction of what it does, and before it: sent twice at once, the second waits and finds it. */
const writeWith =
  (database: Database, who: Person, judged: Judged, now: Instant): Write =>
  (work) =>
    writeAs(
      database,
      who,
      TOUCHES[judged.act.body.kind],
    )(async (tx, told) => {
      await keepAct(tx, who, judged, [], now).catch((fault: unknown) => {
        throw isTaken(fault) ? new ToldAlready() : fault;
      });
      return work(tx, told);
    });

async function judge(database: Database, who: Person, judged: Judged, now: Instant): Promise<readonly Refusal[]> {
  const { act, at } = judged;
  try {
    const write = writeWith(database, who, judged, now);
    await carryOut({ database, write, who, key: act.id, at, now }, act.body);
    return [];
  } catch (fault) {
    if (fault instanceof Refused) return fault.refusals;
    throw fault;
  }
}

const withoutBody = (field: string): string => field.replace(/^body\./, '');

/** As it was sent. Refused where it is no act that this server knows. */
function readAct(sent: unknown): { readonly act: PhoneActOut } | { readonly outcome: Outcome | null } {
  const read = v.safeParse(phoneAct, sent);
  if (read.success) return { act: read.output };
  const id = typeof sent === 'object' && sent !== null && 'id' in sent ? sent.id : null;
  if (typeof id !== 'string') return { outcome: null };
  const { body } = sent as { body?: { kind?: unknown } };
  // A phone of a later version does what this server has no word for.
  if (typeof body?.kind === 'string' && !(body.kind in TOUCHES))
    return { outcome: { id, kind: 'refused', refusals: [unknownHere(body.kind)] } };
  const refusals = read.issues.map((issue) =>
    refusal('invalid', sayIssue(issue), withoutBody(v.getDotPath(issue) ?? '') || undefined),
  );
  return { outcome: { id, kind: 'refused', refusals } };
}

async function takeAct(database: Database, who: Person, act: PhoneActOut, now: Instant): Promise<Outcome> {
  const { id, needs } = act;
  const content = contentOf({ deed: act.deed, needs, at: act.at, body: act.body });
  const before = await saidBefore(database.db, who, id, content);
  if (before) return before;
  if (!(await hasGround(database.db, needs))) return { id, kind: 'waits' };
  const judged = { act, content, ...timeOfAct(act.at, now) };
  try {
    const refusals = await judge(database, who, judged, now);
    if (refusals.length > 0) await database.transact((tx) => keepAct(tx, who, judged, refusals, now));
    return outcomeOf(id, refusals);
  } catch (fault) {
    if (!(fault instanceof ToldAlready)) throw fault;
    // Sent twice at once, the other one stands; else the deed was told by another act.
    const other = await saidBefore(database.db, who, id, content);
    if (other) return other;
    await database.transact((tx) => keepAct(tx, who, judged, [TOLD_BEFORE], now));
    return outcomeOf(id, [TOLD_BEFORE]);
  }
}

/** Takes what a phone did, in its order; each act by itself, whatever becomes of the others. */
export async function takeActs(
  database: Database,
  person: Person,
  sent: readonly unknown[],
  now: Instant,
  failed: (fault: unknown) => void,
): Promise<Outcome[]> {
  const who: Person = { ...person, onSite: true };
  const outcomes: Outcome[] = [];
  for (const one of sent) {
    const read = readAct(one);
    if ('act' in read)
      outcomes.push(
        await takeAct(database, who, read.act, now).catch((fault: unknown): Outcome => {
          // Without a database nothing is judged; a fault of one act holds up no other.
          if (isDatabaseGone(fault)) throw fault;
          failed(fault);
          return { id: read.act.id, kind: 'failed' };
        }),
      );
    else if (read.outcome) outcomes.push(read.outcome);
  }
  return outcomes;
}
