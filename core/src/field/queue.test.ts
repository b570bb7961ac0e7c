import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { refusal } from '../refusal.ts';
import { instant, MINUTE } from '../time/index.ts';
import { corrected, offsetOf, timeOfAct } from './phone-clock.ts';
import {
  addAct,
  answered,
  goneAstray,
  letActGo,
  queueSaid,
  sending,
  toSend,
  type Outcome,
  type PhoneAct,
  type Queue,
} from './queue.ts';

type Body = { readonly isWrong: boolean };
const begun = instant(Date.UTC(2026, 10, 24, 8));
const wrongOne = refusal('wrong-stage', 'The order is called off.');

const told = (id: string, over: Partial<PhoneAct<Body>> = {}): PhoneAct<Body> => ({
  ...{ id, deed: id, phoneAt: begun, at: begun, needs: [], body: { isWrong: false } },
  ...over,
});

function kept(...acts: readonly PhoneAct<Body>[]): Queue<Body> {
  return acts.reduce<Queue<Body>>((queue, act) => must(addAct(queue, act)), []);
}

function must<T>(decided: { ok: true; value: T } | { ok: false; refusals: readonly { message: string }[] }): T {
  if (!decided.ok) throw new Error(decided.refusals.map((r) => r.message).join(' '));
  return decided.value;
}

const idsOf = (acts: readonly PhoneAct<Body>[]): string[] => acts.map((a) => a.id);

/** A server as the rules want it: each act is judged once, by what is there then; each deed is taken once. */
class Server {
  readonly outcomes = new Map<string, Outcome>();
  readonly taken: string[] = [];

  judge(act: PhoneAct<Body>): Outcome {
    const before = this.outcomes.get(act.id);
    if (before) return before;
    if (act.needs.some((deed) => !this.taken.includes(deed))) return { id: act.id, kind: 'waits' };
    const outcome: Outcome =
      act.body.isWrong || this.taken.includes(act.deed)
        ? { id: act.id, kind: 'refused', refusals: [wrongOne] }
        : { id: act.id, kind: 'taken' };
    if (outcome.kind === 'taken') this.taken.push(act.deed);
    this.outcomes.set(act.id, outcome);
    return outcome;
  }
}

describe('the queue of a phone', () => {
  it('sends what was done in its order, and nothing more while something is on its way', () => {
    const queue = kept(told('a'), told('b'), told('c'));
    expect(idsOf(toSend(queue, 2))).toEqual(['a', 'b']);
    const underWay = sending(queue, ['a', 'b']);
    expect(toSend(underWay, 2)).toEqual([]);
    expect(idsOf(toSend(goneAstray(underWay), 9))).toEqual(['a', 'b', 'c']);
  });

  it('holds back what needs a refused act, and nothing else', () => {
    const queue = answered(
      kept(told('arrived'), told('part'), told('done', { needs: ['arrived'] }), told('signed', { needs: ['done'] })),
      [{ id: 'arrived', kind: 'refused', refusals: [wrongOne] }],
    );
    expect(idsOf(toSend(queue, 9))).toEqual(['part']);
    expect(queueSaid(queue)).toEqual({ waiting: 3, refused: 1, since: begun });
    const again = must(addAct(queue, told('arrived 2', { deed: 'arrived' })));
    expect(idsOf(toSend(again, 9))).toEqual(['arrived 2', 'part', 'done', 'signed']);
  });

  it('lets go of what was refused with all that builds on it, and of nothing that was not refused', () => {
    const queue = answered(kept(told('a'), told('b', { needs: ['a'] }), told('c')), [
      { id: 'a', kind: 'refused', refusals: [wrongOne] },
    ]);
    expect(must(letActGo(queue, 'a')).map((w) => w.act.id)).toEqual(['c']);
    expect(letActGo(queue, 'c').ok).toBe(false);
    expect(letActGo(queue, 'nothing').ok).toBe(false);
  });

  it('refuses an id twice, and a deed that waits already', () => {
    const queue = kept(told('a'));
    expect(addAct(queue, told('a')).ok).toBe(false);
    expect(addAct(queue, told('b', { deed: 'a' })).ok).toBe(false);
  });

  it('an act the server has not the ground for waits for it, and is sent again', () => {
    const both = sending(kept(told('a'), told('b', { needs: ['a'] })), ['a', 'b']);
    expect(answered(both, [{ id: 'b', kind: 'waits' }]).map((w) => w.state.kind)).toEqual(['sending', 'waiting']);
  });

  it('an act whose ground is nowhere any more is refused by name', () => {
    const [own] = answered(sending(kept(told('b', { needs: ['a'] })), ['b']), [{ id: 'b', kind: 'waits' }]);
    expect(own?.state).toMatchObject({ kind: 'refused', refusals: [{ code: 'not-ready' }] });
  });
});

/** What happens to a phone in a day: something is done, the network comes and fails anywhere, it dies, something is put right. */
const happening = fc.oneof(
  { weight: 4, arbitrary: fc.record({ do: fc.boolean(), needs: fc.array(fc.nat(20), { maxLength: 3 }) }) },
  {
    weight: 4,
    arbitrary: fc.record({ send: fc.constantFrom('heard', 'answer lost', 'never arrived', 'half heard', 'failing') }),
  },
  { weight: 1, arbitrary: fc.constant({ restart: true } as const) },
  { weight: 2, arbitrary: fc.record({ again: fc.boolean() }) },
  { weight: 1, arbitrary: fc.constant({ letGo: true } as const) },
);
type Happening = typeof happening extends fc.Arbitrary<infer T> ? T : never;

const firstRefused = (queue: Queue<Body>): PhoneAct<Body> | undefined =>
  queue.find((w) => w.state.kind === 'refused')?.act;

/** A phone and its server over a day; `isUnlucky`: what the day says of the network comes true. */
function dayOf(all: readonly Happening[], isUnlucky: boolean): { queue: Queue<Body>; server: Server; done: string[] } {
  const server = new Server();
  const done: string[] = [];
  let queue: Queue<Body> = [];
  let ids = 0;
  const send = (how: 'heard' | 'answer lost' | 'never arrived' | 'half heard' | 'failing'): void => {
    const batch = toSend(queue, 5);
    queue = sending(queue, idsOf(batch));
    if (how === 'never arrived') return;
    // A server that fails at every other act judges the rest.
    const outcomes = batch.map((act, i): Outcome =>
      how === 'failing' && i % 2 === 0 ? { id: act.id, kind: 'failed' } : server.judge(act),
    );
    if (how === 'heard' || how === 'failing') queue = answered(queue, outcomes);
    if (how === 'half heard') queue = answered(queue, outcomes.slice(0, 1));
    // What a network may deliver twice.
    if (how !== 'failing') for (const act of batch) server.judge(act);
  };
  for (const now of all) {
    if ('do' in now) {
      const id = `act ${(ids += 1)}`;
      const needs = [...new Set(now.needs.flatMap((n) => done[n] ?? []))];
      queue = must(addAct(queue, told(id, { needs, body: { isWrong: now.do } })));
      done.push(id);
    } else if ('send' in now) {
      queue = goneAstray(queue);
      send(isUnlucky ? now.send : 'heard');
    } else if ('again' in now) {
      const wrong = firstRefused(queue);
      const id = `act ${(ids += 1)}`;
      if (wrong) queue = must(addAct(queue, { ...wrong, id, body: { isWrong: now.again } }));
    } else if ('letGo' in now) {
      const wrong = firstRefused(queue);
      if (wrong) queue = must(letActGo(queue, wrong.id));
    } else queue = goneAstray(queue);
  }
  for (let round = 0; round < done.length + 2; round += 1) {
    queue = goneAstray(queue);
    send('heard');
  }
  return { queue, server, done };
}

describe('whatever happens to a phone and its network', () => {
  it('each deed is taken once, after all it needs, or stays with a named refusal or behind one', () => {
    fc.assert(
      fc.property(fc.array(happening, { maxLength: 60 }), (all) => {
        const { queue, server } = dayOf(all, true);
        expect(new Set(server.taken).size).toBe(server.taken.length);
        // Nothing that was taken is waiting, and nothing waits that could go.
        for (const { act } of queue) expect(server.taken).not.toContain(act.deed);
        expect(toSend(queue, 99)).toEqual([]);
        for (const { act, state } of queue)
          if (state.kind !== 'refused')
            expect(queue.some((w) => act.needs.includes(w.act.deed) || w.state.kind === 'refused')).toBe(true);
      }),
      { numRuns: 400 },
    );
  });

  it('ends as if everything had been sent once, in order, the day the network never failed', () => {
    // Putting right and letting go depend on when a refusal is heard: without them, only the network differs.
    const onlyDone = happening.filter((h) => !('again' in h) && !('letGo' in h));
    fc.assert(
      fc.property(fc.array(onlyDone, { maxLength: 60 }), (all) => {
        const [unlucky, lucky] = [dayOf(all, true), dayOf(all, false)];
        expect([...unlucky.server.taken].sort()).toEqual([...lucky.server.taken].sort());
        expect(unlucky.queue.map((w) => w.act.id)).toEqual(lucky.queue.map((w) => w.act.id));
        for (const deed of unlucky.server.taken) {
          const place = unlucky.done.indexOf(deed);
          expect(place).toBeGreaterThanOrEqual(0);
        }
      }),
      { numRuns: 400 },
    );
  });
});

describe('the clock of a phone', () => {
  it('is put right by the middle of asking and hearing', () => {
    const day = 86_400_000;
    const [asked, heard] = [instant(begun - day), instant(begun - day + 400)];
    const offset = offsetOf(asked, heard, instant(begun + 200));
    expect(offset).toBe(day);
    expect(corrected(instant(begun - day + 5000), offset)).toBe(begun + 5000);
  });

  it('an act more than two minutes ahead takes the time of its receipt, and is doubtful', () => {
    expect(timeOfAct(instant(begun + 2 * MINUTE), begun)).toEqual({ at: begun + 2 * MINUTE, isDoubtful: false });
    expect(timeOfAct(instant(begun + 2 * MINUTE + 1), begun)).toEqual({ at: begun, isDoubtful: true });
    expect(timeOfAct(instant(begun - 9 * 60 * MINUTE), begun)).toEqual({
      at: begun - 9 * 60 * MINUTE,
      isDoubtful: false,
    });
  });
});
