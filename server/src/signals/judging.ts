// Judging readings by rules, and time by itself: alerts start and end, orders are raised or joined and told.
import { group } from 'd3-array';
import { and, asc, desc, eq, gt, isNull, lt } from 'drizzle-orm';
import type { AlertId, AssetId } from '#core/ids.ts';
import {
  advance,
  dueAt,
  isOfParts,
  isPartOf,
  ruleThen,
  sayExcess,
  seriesRule,
  unwatchedIn,
  watchedFrom,
  type Happened,
  type Mask,
  type Sample,
  type WatchState,
} from '#core/signals/index.ts';
import { DAY, instant, type Instant } from '#core/time/index.ts';
import { calendarBook } from '../calendars/index.ts';
import { isTaken, type Tx } from '../platform/database.ts';
import { answer, lookAtHeld } from './answering.ts';
import { lockPlaces } from './flood.ts';
import { tellEnd } from './on-orders.ts';
import { samplesOfParts } from './parts.ts';
import { firstRead, samplesAfter } from './series.ts';
import { alert, ruleCheckpoint } from './tables.ts';
import { keepStandings, LATE_MS, type Standing, type Turn } from './watch.ts';
import type { Rule } from './watched.ts';

type Started = Extract<Happened, { kind: 'started' }>;
type Ended = Extract<Happened, { kind: 'ended' }>;
type Alert = typeof alert.$inferSelect;

const sameAlert = (rule: Rule, assetId: AssetId, from: Instant) =>
  and(eq(alert.ruleId, rule.id), eq(alert.assetId, assetId), eq(alert.startedAt, from));

/** Ends an alert and says so on its order. */
async function ended(tx: Tx, rule: Rule, assetId: AssetId, turn: Ended, now: Instant): Promise<void> {
  const [row] = await tx.db
    .select()
    .from(alert)
    .where(sameAlert(rule, assetId, turn.from))
    .for('update');
  if (!row || row.endedAt === turn.at) return;
  await tx.db
    .update(alert)
    .set({ endedAt: turn.at, normalSince: turn.normalSince, ...(turn.worst !== null && { worst: turn.worst }) })
    .where(eq(alert.id, row.id));
  const how = turn.normalSince === null ? 'not watched any more' : 'normal again';
  const worst = turn.worst === null ? '' : `; at its worst ${sayExcess(rule, turn.worst)}`;
  await tellEnd(tx, row, `${rule.name}: ${how}${worst}`, 'ended', turn.at, now);
  await lookAtHeld(tx, [assetId], now);
}

type Turned = { readonly rule: Rule; readonly assetId: AssetId; readonly at: Instant };

/** Rules made of others go on with what happened to their parts; gives how many alerts started, by machine. */
async function followParts(turn: Turn, turned: readonly Turned[], now: Instant): Promise<Map<AssetId, number>> {
  const going: Going[] = [];
  const alerts = new Map<AssetId, number>();
  const add = (id: AssetId, n: number): unknown => alerts.set(id, (alerts.get(id) ?? 0) + n);
  for (const [assetId, own] of group(turned, (t) => t.assetId))
    for (const rule of turn.watchedBy(assetId)) {
      const times = own.filter((t) => isPartOf(t.rule.name, rule)).map((t) => t.at);
      if (times.length === 0) continue;
      const first = instant(Math.min(...times));
      const upTo = turn.standing(rule.id, assetId)?.state.upTo ?? null;
      // Of another part something later is known already.
      if (upTo !== null && first <= upTo) add(assetId, await judgeAgain(turn, rule, assetId, first, now));
      else {
        const samples = await samplesOfParts(turn, rule, assetId, upTo ?? beginOf(rule, first));
        going.push({ rule, assetId, samples, until: (samples.at(-1) as Sample).at });
      }
    }
  if (going.length > 0) for (const [id, n] of await goOn(turn, going, now)) add(id, n);
  return alerts;
}

/** A rule made of others is watched from when it was made, or else from a part's first turn: the instant before. */
const beginOf = ({ watchedSince }: Rule, first: Instant): Instant => instant((watchedSince ?? first) - 1);

/** Nothing is watched by that rule there any more: what goes on ends with that, and where it stands is forgotten. */
export async function stopWatching(turn: Turn, rule: Rule, assetId: AssetId, now: Instant): Promise<void> {
  const [open] = await turn.tx.db
    .select({ from: alert.startedAt })
    .from(alert)
    .where(and(eq(alert.ruleId, rule.id), eq(alert.assetId, assetId), isNull(alert.endedAt)));
  if (open) {
    const at = open.from > now ? open.from : now;
    await ended(turn.tx, rule, assetId, { kind: 'ended', from: open.from, at, normalSince: null, worst: null }, now);
    await followParts(turn, [{ rule, assetId, at }], now);
  }
  turn.drop(rule.id, assetId);
}

/** Notes that an alert started; null: it stood already. Only that is no fault: what else is taken is for whoever writes it to say. */
async function noted(tx: Tx, rule: Rule, assetId: AssetId, turn: Started): Promise<AlertId | null> {
  try {
    const [made] = await tx.db
      .insert(alert)
      .values({
        ...{ ruleId: rule.id, ruleThen: ruleThen(rule), assetId },
        ...{ startedAt: turn.from, since: turn.since, worst: turn.worst },
      })
      .$returningId();
    return made?.id as AlertId;
  } catch (error) {
    if (isTaken(error)) return null;
    throw error;
  }
}

/** False: it stood already. */
async function started(tx: Tx, rule: Rule, assetId: AssetId, turn: Started, now: Instant): Promise<boolean> {
  const id = await noted(tx, rule, assetId, turn);
  if (id === null) return false;
  await answer(tx, { id, rule, assetId, startedAt: turn.from, worst: turn.worst }, now);
  return true;
}

async function happen(tx: Tx, rule: Rule, assetId: AssetId, all: readonly Happened[], now: Instant): Promise<number> {
  let alerts = 0;
  for (const turn of all)
    if (turn.kind === 'ended') await ended(tx, rule, assetId, turn, now);
    else alerts += (await started(tx, rule, assetId, turn, now)) ? 1 : 0;
  return alerts;
}

const activeFrom = ({ phase }: WatchState): Instant | null =>
  phase.kind === 'active' || phase.kind === 'returning' ? phase.from : null;

async function noteWorst(tx: Tx, rule: Rule, assetId: AssetId, before: WatchState, state: WatchState): Promise<void> {
  const from = activeFrom(state);
  if (from !== null && (state.worst !== before.worst || activeFrom(before) !== from))
    await tx.db
      .update(alert)
      .set({ worst: state.worst })
      .where(sameAlert(rule, assetId, from));
}

/** What is written at once: that somebody else would not find it out from the readings, or not in time. */
const mustBeKept = ({ kept, dueAt: due }: Standing): boolean =>
  kept === null || (due !== null && (kept.dueAt === null || due < kept.dueAt));

type Going = {
  readonly rule: Rule;
  readonly assetId: AssetId;
  readonly samples: readonly Sample[];
  readonly until: Instant;
};

const timeOf = (h: Happened): Instant => (h.kind === 'started' ? h.from : h.at);

/** A calendar's closed times are looked at so far ahead, for what ends with them by itself. */
const AHEAD_MS = 8 * DAY;

/** What masks a rule and a machine: that it is out of service, and when the rule does not watch. */
async function masksFor(turn: Turn, rules: readonly Rule[]) {
  const isByCalendar = rules.some((r) => r.watchCalendarId !== null);
  const book = isByCalendar ? await calendarBook(turn.tx.db) : null;
  return (rule: Rule, assetId: AssetId, from: Instant, until: Instant): readonly Mask[] => {
    const own = turn.masksOf(assetId);
    if (!book || rule.watchCalendarId === null) return own;
    const [begin, end] = [instant(from - DAY), instant(until + AHEAD_MS)];
    return [...own, ...unwatchedIn(book.workingTime(rule.watchCalendarId).openSegments(begin, end), begin, end)];
  };
}

/**
 * Goes on with some rules and machines, from where they stand or, where they never were, from their first reading; gives how many alerts
 * started, by machine.
 */
export async function goOn(turn: Turn, all: readonly Going[], now: Instant): Promise<ReadonlyMap<AssetId, number>> {
  const { tx } = turn;
  const toKeep: { ruleId: Rule['id']; assetId: AssetId; standing: Standing }[] = [];
  const alerts = new Map<AssetId, number>();
  const masksOf = await masksFor(
    turn,
    all.map((g) => g.rule),
  );
  const gone = all.map((going) => {
    const { rule, assetId, samples, until } = going;
    const before = turn.standing(rule.id, assetId);
    const begun = before?.state ?? watchedFrom(samples[0]?.at ?? until);
    const watched = seriesRule(rule);
    const masks = masksOf(rule, assetId, begun.upTo, until);
    const { state, happened } = advance(watched, begun, samples, until, masks);
    const { kept, checkpointAt } = before ?? { kept: null, checkpointAt: null };
    const standing: Standing = { state, dueAt: dueAt(watched, state, masks), kept, checkpointAt };
    return { rule, assetId, begun, state, happened, standing };
  });
  // In the order in which it happened: of two at one instant the one that holds others back comes first.
  const turns = gone.flatMap(({ rule, assetId, happened }) => happened.map((h) => ({ rule, assetId, h })));
  if (turns.length > 0) {
    const holding = new Set(all.flatMap((g) => g.rule.suppressedBy ?? []));
    const rank = (t: (typeof turns)[number]): number => (holding.has(t.rule.name) ? 0 : 1);
    await lockPlaces(
      tx,
      turns.map((t) => t.assetId),
    );
    for (const { rule, assetId, h } of turns.sort((a, b) => timeOf(a.h) - timeOf(b.h) || rank(a) - rank(b))) {
      const started = await happen(tx, rule, assetId, [h], now);
      if (started > 0) alerts.set(assetId, (alerts.get(assetId) ?? 0) + started);
    }
  }
  for (const { rule, assetId, begun, state, happened, standing } of gone) {
    await noteWorst(tx, rule, assetId, begun, state);
    if (happened.length > 0 || mustBeKept(standing)) toKeep.push({ ruleId: rule.id, assetId, standing });
    else turn.put(rule.id, assetId, standing);
  }
  await keepStandings(turn, toKeep);
  const followed = await followParts(
    turn,
    turns.map(({ rule, assetId, h }) => ({ rule, assetId, at: timeOf(h) })),
    now,
  );
  for (const [id, n] of followed) alerts.set(id, (alerts.get(id) ?? 0) + n);
  return alerts;
}

/** From where something read at an instant has to be judged again: the newest checkpoint before; else where the series begins. */
async function stoodBefore(
  tx: Tx,
  rule: Rule,
  assetId: AssetId,
  from: Instant,
): Promise<{ readonly state: WatchState; readonly after: Instant } | null> {
  const [checkpoint] = await tx.db
    .select({ state: ruleCheckpoint.state })
    .from(ruleCheckpoint)
    .where(and(eq(ruleCheckpoint.ruleId, rule.id), eq(ruleCheckpoint.assetId, assetId), lt(ruleCheckpoint.at, from)))
    .orderBy(desc(ruleCheckpoint.at))
    .limit(1);
  if (checkpoint) return { state: checkpoint.state, after: checkpoint.state.upTo };
  const earliest = instant(from - LATE_MS);
  const since = rule.watchedSince !== null && rule.watchedSince > earliest ? rule.watchedSince : earliest;
  if (isOfParts(rule)) return { state: watchedFrom(since), after: instant(since - 1) };
  const first = await firstRead(tx.db, { assetId, channel: rule.channel, after: instant(since - 1) });
  return first === null ? null : { state: watchedFrom(first), after: instant(first - 1) };
}

/** Alerts that readings no longer speak for are withdrawn, not deleted; their orders stay and say so. */
async function withdraw(tx: Tx, rule: Rule, gone: readonly Alert[], now: Instant): Promise<void> {
  for (const of of gone) {
    await tx.db
      .update(alert)
      .set({ withdrawnAt: now, ...(of.endedAt === null && { endedAt: of.startedAt > now ? of.startedAt : now }) })
      .where(eq(alert.id, of.id));
    await tellEnd(
      tx,
      of,
      `${rule.name}: withdrawn, for what was told late shows that there was none`,
      'withdrawn',
      now,
      now,
    );
  }
}

/**
 * Judges a rule and a machine again from some instant on, for something was told late: alerts that follow now are raised, those that no
 * longer do are withdrawn, the others begin and end as they do now. Gives how many started.
 */
export async function judgeAgain(
  turn: Turn,
  rule: Rule,
  assetId: AssetId,
  from: Instant,
  now: Instant,
): Promise<number> {
  const { tx } = turn;
  const standing = turn.standing(rule.id, assetId);
  if (from < now - LATE_MS) return 0;
  const stood = await stoodBefore(tx, rule, assetId, from);
  if (!stood) return 0;
  const { state: begun, after } = stood;
  const read = isOfParts(rule)
    ? await samplesOfParts(turn, rule, assetId, after)
    : ((await samplesAfter(tx.db, [{ assetId, channel: rule.channel, after }])).get(assetId)?.get(rule.channel) ?? []);
  const last = read.at(-1)?.at ?? begun.upTo;
  const until = standing && standing.state.upTo > last ? standing.state.upTo : last;
  const watched = seriesRule(rule);
  const masks = (await masksFor(turn, [rule]))(rule, assetId, begun.upTo, until);
  const { state, happened } = advance(watched, begun, read, until, masks);
  const known = await tx.db
    .select()
    .from(alert)
    .where(and(eq(alert.ruleId, rule.id), eq(alert.assetId, assetId), gt(alert.startedAt, after)))
    .orderBy(asc(alert.startedAt))
    .for('update');
  const follows = new Set(happened.flatMap((t) => (t.kind === 'started' ? [t.from] : [])));
  await withdraw(
    tx,
    rule,
    known.filter((a) => a.withdrawnAt === null && !follows.has(a.startedAt)),
    now,
  );
  // What goes on is open, though it was found to have ended, or withdrawn.
  for (const of of known.filter((a) => follows.has(a.startedAt)))
    if (of.withdrawnAt !== null || activeFrom(state) === of.startedAt)
      await tx.db.update(alert).set({ withdrawnAt: null, endedAt: null, normalSince: null }).where(eq(alert.id, of.id));
  const running = activeFrom(state);
  if (running !== null && running <= after)
    await tx.db
      .update(alert)
      .set({ endedAt: null, normalSince: null })
      .where(sameAlert(rule, assetId, running));
  let alerts = await happen(tx, rule, assetId, happened, now);
  await noteWorst(tx, rule, assetId, { ...state, worst: null }, state);
  await tx.db
    .delete(ruleCheckpoint)
    .where(and(eq(ruleCheckpoint.ruleId, rule.id), eq(ruleCheckpoint.assetId, assetId), gt(ruleCheckpoint.at, after)));
  await keepStandings(turn, [
    {
      ...{ ruleId: rule.id, assetId },
      standing: { state, dueAt: dueAt(watched, state, masks), kept: standing?.kept ?? null, checkpointAt: null },
    },
  ]);
  if (known.length > 0 || happened.length > 0 || running !== null)
    for (const made of turn.watchedBy(assetId))
      if (isPartOf(rule.name, made)) alerts += await judgeAgain(turn, made, assetId, from, now);
  return alerts;
}
