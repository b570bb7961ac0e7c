// The phone: shows what is done at once, keeps it until the server has it, sends it in order, and fetches what changed there.
import type { AnyContract, Answer } from '#api/contract.ts';
import {
  leavePhone,
  MOST_ACTS,
  MOST_ORDERS,
  readField,
  readFieldOrders,
  sendActs,
  sendPhoto,
  type FieldBody,
  type FieldDays,
  type FieldOrder,
} from '#api/field.ts';
import { readSession, signIn, signInDemo, signOut, type Session } from '#api/session.ts';
import type { Problem } from '#api/shapes.ts';
import {
  addAct,
  answered,
  corrected,
  goneAstray,
  letActGo,
  offsetOf,
  queueSaid,
  sending,
  toSend,
  type Outcome,
  type PhoneAct,
} from '#core/field/index.ts';
import { decided, type Decided, type Refusal } from '#core/refusal.ts';
import { formatInstant, instant, type Instant } from '#core/time/index.ts';
import { callServer, holdToken, type Args } from '../../shell/calls.ts';
import { heldAsNow, orderAsNow } from './before.ts';
import { NOTHING, type Held, type Keep } from './keep.ts';
import { PhotosOut } from './photos-out.ts';
import { leaveBy } from './push.ts';
import { allowsPosition, saysWhere, whereNow } from './where.ts';
import { FULL, isFull, isUnreachable, oneAtATime, problemOf, UNKEPT } from './troubles.ts';

export type PhoneState = Held & {
  readonly orders: ReadonlyMap<number, FieldOrder>;
  /** Everything kept was read: what is shown is what there is. */
  readonly isRead: boolean;
  readonly net: 'there' | 'gone' | 'not known';
  /** The server does not know this phone any more: nothing is shown until the same person signs in. */
  readonly isLocked: boolean;
  readonly isSending: boolean;
  readonly problem: Problem | null;
  readonly demo: Session['demo'];
};

export type Said<C> =
  { readonly ok: true; readonly value: Answer<C> } | { readonly ok: false; readonly problem: Problem };

const RETRY_MS = [2000, 5000, 15_000, 30_000] as const;
const LOOK_EVERY_MS = 60_000;
/** What was done is drawn before the phone turns to sending it. */
const SHOWN_FIRST_MS = 60;

export class Phone {
  readonly #keep: Keep;
  #state: PhoneState = {
    ...{ ...NOTHING, orders: new Map(), isRead: false, net: 'not known', isLocked: false, isSending: false },
    ...{ problem: null, demo: null },
  };
  readonly #listeners = new Set<() => void>();
  #tries = 0;
  #timer: ReturnType<typeof setTimeout> | null = null;
  #asked = false;
  /** The server's token for changes: without one, as after a start without signal, it is fetched first. */
  #hasToken = false;
  readonly #photos: PhotosOut;
  readonly #others = typeof BroadcastChannel === 'undefined' ? null : new BroadcastChannel('stavok-field');

  constructor(keep: Keep) {
    this.#keep = keep;
    this.#photos = new PhotosOut(
      keep,
      (id, body) => this.#ask(sendPhoto, { params: { id }, body }),
      () => {
        this.#hasToken = false;
      },
    );
  }

  subscribe = (listener: () => void): (() => void) => {
    this.#listeners.add(listener);
    return () => this.#listeners.delete(listener);
  };
  state = (): PhoneState => this.#state;

  #show(more: Partial<PhoneState>): void {
    this.#state = { ...this.#state, ...more };
    for (const listener of this.#listeners) listener();
  }

  /** Reads what is kept; what was on its way when the phone stopped may not have arrived. */
  async start(): Promise<void> {
    // Asked while the phone looks at what it keeps: on a slow one both take their time.
    const asked = this.#ask(readSession, undefined);
    await this.#readAgain();
    await this.#change((held) => ({ ...held, queue: goneAstray(held.queue) }));
    this.#others?.addEventListener('message', () => void this.#readAgain());
    addEventListener('online', () => this.look());
    document.addEventListener('visibilitychange', () => document.visibilityState === 'visible' && this.look());
    const said = await asked;
    if (said.ok) await this.#met(said.value);
    this.look();
  }

  async #readAgain(): Promise<void> {
    const { held, orders } = await this.#keep.read();
    const asNow = new Map([...orders].map(([id, order]) => [id, orderAsNow(order)]));
    this.#show({ ...heldAsNow(held), orders: asNow, isRead: true });
  }

  async #change(how: (held: Held) => Held, orders?: Parameters<Keep['change']>[1]): Promise<void> {
    const held = await this.#keep.change(how, orders);
    if (orders) await this.#readAgain();
    else this.#show(heldAsNow(held));
    this.#others?.postMessage('changed');
  }

  now(): Instant {
    const { clock } = this.#state;
    return clock.fixed ?? corrected(instant(Date.now()), clock.offset);
  }

  async #ask<C extends AnyContract>(contract: C, sent: Args<C>): Promise<Said<C>> {
    const signal = AbortSignal.timeout(60_000);
    const answer = await callServer({ contract, sent: sent ?? {} }, { signal } as never, {});
    if (!('error' in answer) || answer.error === undefined) {
      if (this.#state.net !== 'there') this.#show({ net: 'there' });
      return { ok: true, value: (answer as { data: Answer<C> }).data };
    }
    const problem = answer.error;
    if (isUnreachable(problem)) this.#show({ net: 'gone' });
    else if (problem.code === 'signed-out') this.#show({ isLocked: true, net: 'there' });
    return { ok: false, problem };
  }

  /** What the server says now; null: it says nothing, for there is no network, or refuses. */
  async read<C extends AnyContract>(contract: C, sent: Args<C>): Promise<Answer<C> | null> {
    const said = await this.#ask(contract, sent);
    return said.ok ? said.value : null;
  }

  /** Learns who is signed in, and the token that changes need. */
  async #meet(): Promise<boolean> {
    const said = await this.#ask(readSession, undefined);
    if (!said.ok) return false;
    await this.#met(said.value);
    return true;
  }

  async #met(session: Session): Promise<void> {
    holdToken(session.csrf);
    this.#hasToken = true;
    const { owner } = this.#state;
    const { person, fixedNow, now } = session;
    const isSame = person !== null && person.role === 'technician' && (owner === null || owner.id === person.id);
    this.#show({ demo: session.demo, isLocked: owner !== null && !isSame });
    if (!isSame) return;
    await this.#change((held) => ({
      ...held,
      owner: { id: person.id, name: person.name, email: person.email, zone: person.zone },
      clock: fixedNow ? { offset: 0, fixed: now } : { ...held.clock, fixed: null },
    }));
  }

  /** Signs in. Refused: somebody whose phone it is not while acts of another wait on it, and who is no technician. */
  async signIn(how: { email: string; password: string } | { demo: string }): Promise<Problem | null> {
    const { owner, queue } = this.#state;
    const email = 'demo' in how ? how.demo : how.email;
    if (owner && queue.length > 0 && owner.email !== email.trim().toLowerCase())
      return problemOf(`Work of ${owner.name} waits on this phone to be sent. They sign in first, or let go of it.`);
    if (!this.#hasToken) await this.#meet();
    const said =
      'demo' in how
        ? await this.#ask(signInDemo, { body: { email: how.demo } })
        : await this.#ask(signIn, { body: how });
    if (!said.ok) return said.problem;
    const { person } = said.value;
    if (person?.role !== 'technician') {
      holdToken(said.value.csrf);
      await this.#ask(signOut, undefined);
      return problemOf('Field is for technicians. Everybody else works in Stavok itself.');
    }
    if (owner && owner.id !== person.id) await this.#wipe();
    this.#show({ isLocked: false });
    await this.#met(said.value);
    this.look();
    return null;
  }

  /** Signs out and leaves nothing behind. What waits is lost by it, and only gone when that was said. */
  async signOut(withWaiting: boolean): Promise<boolean> {
    if (this.#state.queue.length > 0 && !withWaiting) return false;
    // Nobody is told on a phone that is theirs no more; without a signal the browser's push service lets it go by itself.
    const endpoint = await leaveBy();
    if (endpoint !== null) await this.tell(leavePhone, { body: { endpoint } });
    await this.#ask(signOut, undefined);
    await this.#wipe();
    await this.#meet();
    return true;
  }

  async #wipe(): Promise<void> {
    await this.#keep.wipe();
    const { demo, net } = this.#state;
    this.#state = {
      ...NOTHING,
      orders: new Map(),
      isRead: true,
      net,
      isLocked: false,
      isSending: false,
      problem: null,
      demo,
    };
    this.#show({});
    this.#others?.postMessage('changed');
  }

  /**
   * Does something: kept before it is shown, sent when there is a network. `deed`: what it tells anew, where that was refused.
   * Gives its id, by which others need it.
   */
  async do(body: FieldBody, over: { needs?: readonly string[]; deed?: string } = {}): Promise<Decided<string>> {
    const id = crypto.randomUUID();
    const act: PhoneAct<FieldBody> = {
      ...{ id, deed: over.deed ?? id, needs: over.needs ?? [], body },
      ...{ phoneAt: instant(Date.now()), at: this.now() },
    };
    let refused: readonly Refusal[] = [];
    try {
      const kept = await this.#keep.changeQueue((queue) => {
        const added = addAct(queue, act);
        if (added.ok) return added.value;
        refused = added.refusals;
        return queue;
      });
      this.#show({ queue: kept });
      this.#others?.postMessage('changed');
    } catch (fault) {
      return { ok: false, refusals: [isFull(fault) ? FULL : UNKEPT] };
    }
    if (refused.length > 0) return { ok: false, refusals: refused };
    if (saysWhere(body) && allowsPosition(this.#state)) void this.#sayWhere(act);
    setTimeout(() => this.look(), SHOWN_FIRST_MS);
    return { ok: true, value: act.deed };
  }

  /** Tells where somebody was when they did something, as soon as the phone knows; nobody waits for it. */
  async #sayWhere({ deed, body }: PhoneAct<FieldBody>): Promise<void> {
    const where = await whereNow();
    if (where === null || !allowsPosition(this.#state)) return;
    const orderId = 'orderId' in body ? body.orderId : null;
    await this.do({ kind: 'was at', deed, orderId, ...where }, { needs: [deed] });
  }

  /** Changes something at the office at once, for which there must be a signal. */
  async tell<C extends AnyContract>(contract: C, sent: Args<C>): Promise<Said<C>> {
    if (!this.#hasToken) await this.#meet();
    return this.#ask(contract, sent);
  }

  /** Keeps a photo and the act that names it. */
  async addPhoto(
    orderId: number,
    photo: Blob,
    name: string,
    signs = false,
  ): Promise<Decided<{ readonly id: string; readonly deed: string }>> {
    const id = crypto.randomUUID();
    try {
      await this.#keep.keepPhoto({ id, name, type: photo.type, bytes: await photo.arrayBuffer() });
    } catch (fault) {
      return { ok: false, refusals: [isFull(fault) ? FULL : UNKEPT] };
    }
    const told = await this.do({ kind: 'photo', orderId, photo: id, name, signs });
    return told.ok ? decided({ id, deed: told.value }) : told;
  }

  photo = (id: string) => this.#keep.photo(id);
  draft = (key: string) => this.#keep.draft(key);
  keepDraft = (key: string, value: unknown) => this.#keep.keepDraft(key, value).catch(() => undefined);

  async letGo(id: string): Promise<void> {
    await this.#change((held) => {
      const queue = letActGo(held.queue, id);
      return queue.ok ? { ...held, queue: queue.value } : held;
    });
  }

  /** Sends what waits and fetches what changed, now if it can; asked for meanwhile, once more after. */
  look(): void {
    if (this.#timer) clearTimeout(this.#timer);
    this.#timer = null;
    if (this.#state.isSending) {
      this.#asked = true;
      return;
    }
    void this.#lookNow();
  }

  async #lookNow(): Promise<void> {
    if (this.#state.owner === null || this.#state.isLocked) return;
    this.#show({ isSending: true });
    const went = await oneAtATime(async () => (await this.#send()) && (await this.#fetch())).catch(() => false);
    this.#show({ isSending: false });
    this.#tries = went ? 0 : Math.min(this.#tries + 1, RETRY_MS.length - 1);
    if (this.#asked) {
      this.#asked = false;
      return void this.#lookNow();
    }
    this.#timer = setTimeout(() => this.look(), went ? LOOK_EVERY_MS : RETRY_MS[this.#tries]);
  }

  async #send(): Promise<boolean> {
    for (;;) {
      const batch = toSend(this.#state.queue, MOST_ACTS);
      if (batch.length === 0) return true;
      if (!this.#hasToken && !(await this.#meet())) return false;
      await this.#change((held) => ({
        ...held,
        queue: sending(
          held.queue,
          batch.map((a) => a.id),
        ),
      }));
      const outcomes = await this.#sent(batch);
      await this.#change((held) => {
        const known = outcomes ?? [];
        const taken = batch.filter((a) => known.some((o) => o.id === a.id && o.kind === 'taken'));
        return { ...held, queue: goneAstray(answered(held.queue, known)), taken: [...held.taken, ...taken] };
      });
      if (outcomes === null) return false;
      await this.#keep.forgetPhotos(
        batch.flatMap(({ id, body }) =>
          body.kind === 'photo' && outcomes.some((o) => o.id === id && o.kind === 'taken') ? [body.photo] : [],
        ),
      );
      // What waits for something that is not here would be asked for over and over.
      if (outcomes.every((o) => o.kind === 'waits' || o.kind === 'failed')) return false;
    }
  }

  /** What the server says of a batch; null: nothing was heard. */
  async #sent(batch: readonly PhoneAct<FieldBody>[]): Promise<Outcome[] | null> {
    const lost = await this.#photos.send(batch);
    if (lost === null) return null;
    const going = batch.filter((a) => !lost.some((o) => o.id === a.id));
    if (going.length === 0) return lost;
    const acts = going.map((a) => ({ ...a, phoneAt: formatInstant(a.phoneAt), at: formatInstant(a.at) }));
    const said = await this.#ask(sendActs, { body: { acts } });
    if (!said.ok) {
      // A token grows old: the next try has a new one.
      if (said.problem.status === 403) this.#hasToken = false;
      else this.#show({ problem: isUnreachable(said.problem) ? null : said.problem });
      return null;
    }
    this.#show({ problem: null });
    return [...lost, ...(said.value.outcomes as Outcome[])];
  }

  async #fetch(): Promise<boolean> {
    const askedAt = instant(Date.now());
    const before = new Set(this.#state.taken.map((a) => a.id));
    const said = await this.#ask(readField, undefined);
    if (!said.ok) return false;
    const days: FieldDays = said.value;
    const heardAt = instant(Date.now());
    const held = this.#state.orders;
    const wanted = days.orders.filter((o) => held.get(o.id)?.stamp !== o.stamp).map((o) => o.id);
    const fetched: FieldOrder[] = [];
    for (let i = 0; i < wanted.length; i += MOST_ORDERS) {
      const ids = wanted.slice(i, i + MOST_ORDERS).join(',');
      const some = await this.#ask(readFieldOrders, { query: { ids } });
      if (!some.ok) return false;
      fetched.push(...some.value.orders);
    }
    // Orders of acts that wait or were refused stay, so that it can be seen what they are about.
    const about = this.#state.queue.flatMap(({ act }) => ('orderId' in act.body ? (act.body.orderId ?? []) : []));
    await this.#change(
      (now) => ({
        ...now,
        ...{ days, heardAt, taken: now.taken.filter((a) => !before.has(a.id)) },
        clock: now.clock.fixed === null ? { offset: offsetOf(askedAt, heardAt, days.now), fixed: null } : now.clock,
      }),
      { put: fetched, keep: new Set([...days.orders.map((o) => o.id), ...about]) },
    );
    return true;
  }

  waiting = () => queueSaid(this.#state.queue);
}
