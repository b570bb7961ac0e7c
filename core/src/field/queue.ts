// The queue of a phone: acts done on site that the server does not have yet, in their order, each taken once.
import { decided, refusal, refused, type Decided, type Refusal } from '../refusal.ts';
import type { Instant } from '../time/index.ts';

/**
 * Something done on site, as the phone tells it. What was refused is told anew by another act, with another id: both tell the same deed,
 * and whatever builds on it names the deed.
 */
export type PhoneAct<Body> = {
  /** Made on the phone; names this telling for good. */
  readonly id: string;
  /** The id of the first act that told it. */
  readonly deed: string;
  /** By the phone's own clock, and by the server's as far as the phone knew it. */
  readonly phoneAt: Instant;
  readonly at: Instant;
  /** Deeds without which this one means nothing. */
  readonly needs: readonly string[];
  readonly body: Body;
};

export type Waiting<Body> = {
  readonly act: PhoneAct<Body>;
  readonly state:
    | { readonly kind: 'waiting' }
    /** On its way; whether it arrived is not known. */
    | { readonly kind: 'sending' }
    | { readonly kind: 'refused'; readonly refusals: readonly Refusal[] };
};

/** In the order in which they were done. What the server has is no more in it. */
export type Queue<Body> = readonly Waiting<Body>[];

/** What the server says of an act. `waits`: it needs one that the server does not have; `failed`: the server could not judge it. */
export type Outcome =
  | { readonly id: string; readonly kind: 'taken' }
  | { readonly id: string; readonly kind: 'waits' | 'failed' }
  | { readonly id: string; readonly kind: 'refused'; readonly refusals: readonly Refusal[] };

const waiting = { kind: 'waiting' } as const;
const isRefused = <B>({ state }: Waiting<B>): boolean => state.kind === 'refused';

/**
 * Adds an act. One that tells a refused deed anew takes its place, so that what needs it goes after it. Refused: an id or a deed that
 * waits already.
 */
export function addAct<B>(queue: Queue<B>, act: PhoneAct<B>): Decided<Queue<B>> {
  const at = queue.findIndex((w) => w.act.deed === act.deed);
  const before = queue[at];
  if (queue.some((w) => w.act.id === act.id) || (before && !isRefused(before)))
    return refused(refusal('taken', 'This is kept already; it is sent as soon as there is a network.', 'id'));
  const own: Waiting<B> = { act, state: waiting };
  return decided(before ? queue.with(at, own) : [...queue, own]);
}

/** Deeds that mean nothing without some others of the queue, these with them. */
function standingOn<B>(queue: Queue<B>, deeds: Iterable<string>): Set<string> {
  const all = new Set(deeds);
  for (const { act } of queue) if (act.needs.some((n) => all.has(n))) all.add(act.deed);
  return all;
}

/**
 * What is to be sent now, in order: whatever waits, but for what needs an act that was refused. Nothing while something is on its way.
 * At most `most` acts.
 */
export function toSend<B>(queue: Queue<B>, most: number): PhoneAct<B>[] {
  if (queue.some((w) => w.state.kind === 'sending')) return [];
  const stuck = standingOn(
    queue,
    queue.filter(isRefused).map((w) => w.act.deed),
  );
  return queue.flatMap(({ act }) => (stuck.has(act.deed) ? [] : [act])).slice(0, most);
}

/** These are on their way. */
export function sending<B>(queue: Queue<B>, ids: readonly string[]): Queue<B> {
  return queue.map((w) => (ids.includes(w.act.id) ? { ...w, state: { kind: 'sending' } as const } : w));
}

const GROUNDLESS = refusal('not-ready', 'What this builds on is not there any more; do it anew, or let it go.');

/** The server's answer: what it has leaves the queue, what it refuses stays with the reason. What waits for nothing is refused too. */
export function answered<B>(queue: Queue<B>, outcomes: readonly Outcome[]): Queue<B> {
  const of = new Map(outcomes.map((o) => [o.id, o]));
  const left = queue.filter((w) => of.get(w.act.id)?.kind !== 'taken');
  const deeds = new Set(left.map((w) => w.act.deed));
  return left.map((w) => {
    const outcome = of.get(w.act.id);
    if (outcome?.kind === 'refused') return { ...w, state: { kind: 'refused', refusals: outcome.refusals } };
    // Whatever it is, it is tried again, and nothing else waits for it.
    if (outcome?.kind === 'failed') return { ...w, state: waiting };
    if (outcome?.kind !== 'waits') return w;
    return w.act.needs.some((n) => deeds.has(n))
      ? { ...w, state: waiting }
      : { ...w, state: { kind: 'refused', refusals: [GROUNDLESS] } };
  });
}

/** No answer came, or the phone was started anew: what was on its way may not have arrived, and is sent again. */
export function goneAstray<B>(queue: Queue<B>): Queue<B> {
  return queue.map((w) => (w.state.kind === 'sending' ? { ...w, state: waiting } : w));
}

/** Lets a refused act go, and whatever needs it. Refused: one that is not refused. */
export function letActGo<B>(queue: Queue<B>, id: string): Decided<Queue<B>> {
  const own = queue.find((w) => w.act.id === id);
  if (!own || !isRefused(own))
    return refused(refusal('conflict', 'Only what was refused is let go; everything else is sent.', 'id'));
  const gone = standingOn(queue, [own.act.deed]);
  return decided(queue.filter((w) => !gone.has(w.act.deed)));
}

/** What a phone tells of its queue, always in sight: how many acts the server does not have, since when, and how many it refused. */
export function queueSaid<B>(queue: Queue<B>): {
  readonly waiting: number;
  readonly refused: number;
  readonly since: Instant | null;
} {
  const refusedOnes = queue.filter(isRefused).length;
  const times = queue.map((w) => w.act.at);
  return {
    waiting: queue.length - refusedOnes,
    refused: refusedOnes,
    since: times.length === 0 ? null : (Math.min(...times) as Instant),
  };
}
