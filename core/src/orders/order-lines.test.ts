// Orders with several lines, what is found at them, what goes on with another order, and what is missing before the end.
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { asId, type OrderId } from '../ids.ts';
import { asLocalDate, instant, MINUTE } from '../time/index.ts';
import {
  actsOffered,
  exceptionsOf,
  checkTerms,
  clockEventsOf,
  missingOf,
  promisesKeptBy,
  recordEvent,
  heldOf,
  refuseMissing,
  signOffMissing,
  saidOfLines,
  stateOfOrder,
  type OrderAct,
  type OrderEvent,
  type OrderFacts,
} from './index.ts';

const start = Date.UTC(2026, 10, 24, 9);
const ev = (minutes: number, act: OrderAct, recorded = minutes): OrderEvent => ({
  at: instant(start + minutes * MINUTE),
  recordedAt: instant(start + recorded * MINUTE),
  act,
});
const facts: OrderFacts = {
  kind: 'repair',
  startedAt: instant(start),
  lines: [
    { id: 1, asksFindings: true, name: 'Q101' },
    { id: 2, name: 'Q102' },
  ],
  tasks: [{ id: 11, lineId: 2, text: 'Check gasket', mandatory: true }],
  forms: [],
};
const arrived = ev(10, { kind: 'arrived' });
const found = (lineId: number, over: Partial<Record<'cause' | 'remedy' | 'fault', string>> = {}): OrderAct => ({
  ...{ kind: 'found', lineId, symptom: 'warm', fault: null, cause: 'worn seal', remedy: 'seal replaced' },
  ...over,
});
const next = asId<OrderId>(77);
const stateAfter = (events: readonly OrderEvent[], of = facts) => {
  const state = stateOfOrder(of, events);
  if (!state.ok) throw new Error(state.refusals[0]?.message);
  return state.value;
};
const answer = (events: readonly OrderEvent[], event: OrderEvent, of = facts): string => {
  const said = recordEvent(of, events, event);
  return said.ok ? 'accepted' : said.refusals.map((r) => `${r.code} ${r.field}: ${r.message}`).join(' | ');
};

// Source of the rule: the domain’s Orders, Done.
describe('what is missing before an order is done', () => {
  it('is every mandatory task, and cause and remedy where its class names such', () => {
    const missing = missingOf(facts, [arrived]);
    expect(missing.map((m) => [m.what, m.lineId, m.text])).toEqual([
      ['task', 2, 'Check gasket'],
      ['findings', 1, 'cause and remedy of Q101'],
    ]);
    const said = refuseMissing(missing).map((r) => r.message.split(':')[0]);
    expect(said).toEqual(['Not done yet', 'Say first what was found']);
  });

  it('is signed for by somebody with their function, or it is said why by nobody; what was said last holds', () => {
    const sign = (over: object): OrderAct => ({ kind: 'signed', by: '', function: '', text: '', ...over });
    const unsigned = signOffMissing(heldOf([arrived]));
    expect(refuseMissing(unsigned)).toMatchObject([{ field: 'kind', code: 'missing' }]);
    expect(answer([], ev(5, sign({ by: 'Marta Silva', function: 'shift lead' })))).toContain('wrong-stage');
    expect(answer([arrived], ev(15, sign({ by: ' ' })))).toContain('missing by');
    expect(answer([arrived], ev(15, sign({ by: 'Marta Silva' })))).toContain('missing function');
    const nobody = ev(15, sign({ text: ' night shift, nobody about ' }));
    const signed = ev(12, sign({ by: ' Marta Silva ', function: 'shift lead' }), 40);
    expect(answer([arrived], nobody)).toBe('accepted');
    expect(stateAfter([arrived, nobody, signed]).signed).toEqual({
      by: 'Marta Silva',
      function: 'shift lead',
      text: '',
    });
    expect(signOffMissing(heldOf([arrived, nobody]))).toEqual([]);
    expect(actsOffered(facts, stateAfter([arrived]))).toContain('signed');
    expect(actsOffered(facts, stateAfter([arrived, nobody]))).not.toContain('signed');
  });

  it('shrinks with each fact, and nothing else ends the order', () => {
    const acts: OrderAct[] = [found(1), { kind: 'task', taskId: 11, outcome: 'left', text: 'no gasket' }];
    let events = [arrived];
    const sizes = [missingOf(facts, events).length];
    for (const [i, act] of acts.entries()) {
      expect(answer(events, ev(20 + i, { kind: 'done', text: '' }))).not.toBe('accepted');
      events = [...events, ev(20 + i, act)];
      sizes.push(missingOf(facts, events).length);
    }
    expect(sizes).toEqual([2, 1, 0]);
    expect(answer(events, ev(40, { kind: 'done', text: '' }))).toBe('accepted');
  });

  it('wants both cause and remedy, nothing of a place or a class without such words', () => {
    const half = [arrived, ev(20, { kind: 'restored' }), ev(21, { ...found(1), remedy: null } as OrderAct)];
    expect(missingOf(facts, half).map((m) => m.what)).toEqual(['task', 'findings']);
    expect(missingOf(facts, half).some((m) => m.lineId === 2 && m.what === 'findings')).toBe(false);
  });

  it('may stand with a manager’s reason, an empty one is none; nobody finishes what nobody came to', () => {
    expect(answer([arrived], ev(20, { kind: 'done', text: '', anyway: ' ' }))).toContain('missing');
    expect(answer([arrived], ev(20, { kind: 'done', text: '', anyway: 'keys lost' }))).toBe('accepted');
    expect(answer([], ev(20, { kind: 'done', text: '', anyway: 'keys lost' }))).toContain('wrong-stage');
  });

  it('counts what other rooms know of only for the act that asks', () => {
    const ready = [
      arrived,
      ev(11, found(1)),
      ev(12, { kind: 'restored' }),
      ev(13, { kind: 'task', taskId: 11, outcome: 'done', text: '' }),
    ];
    const done = ev(20, { kind: 'done', text: '' });
    const running = [{ what: 'running time', lineId: 1, id: null, text: 'R. Quint' }] as const;
    const refused = recordEvent(facts, ready, done, running);
    expect(refused.ok || refused.refusals[0]?.message).toBe('Time is still running: R. Quint. Stop it first.');
    expect(stateOfOrder(facts, [...ready, done]).ok).toBe(true);
  });
});

describe('one machine of several', () => {
  const both = [arrived, ev(20, { kind: 'restored', lineId: 1 }), ev(21, found(1))];

  it('is finished by itself while the other waits; the order is not', () => {
    const one = ev(30, { kind: 'line', lineId: 1, outcome: 'done', text: '' });
    expect(answer([arrived], one)).toContain('cause and remedy of Q101');
    expect(answer(both, one)).toBe('accepted');
    const state = stateAfter([...both, one]);
    expect([[...state.finished], state.stage, state.restoredAt]).toEqual([[[1, one.at]], 'on site', null]);
    expect(answer([...both, one], ev(31, { kind: 'done', text: '' }))).toContain('Check gasket');
  });

  // Source of the rule: domain-work, Settled questions, Field: done stops restoration if nothing did.
  it('is back in use at the latest when its work is done; what was told of it before holds, and what was left is not', () => {
    const done = ev(60, { kind: 'done', text: '', anyway: 'gasket comes later' });
    const said = (lineId: number, outcome: 'done' | 'left') => ({ kind: 'line', lineId, outcome, text: 'x' }) as const;
    const [line, left] = [ev(30, said(1, 'done')), ev(31, said(2, 'left'))];
    const minutes = (events: readonly OrderEvent[]) =>
      [1, 2].map((id) => {
        const at = stateAfter(events).restored.get(id);
        expect(clockEventsOf(events, { id }).find((e) => e.kind === 'restored')?.at).toBe(at);
        return at === undefined ? null : (at - start) / MINUTE;
      });
    const known = [arrived, ev(11, found(1))];
    expect([minutes([...known, done]), minutes([...known, line, done])].flat()).toEqual([60, 60, 30, 60]);
    expect(minutes([...both, line, done])).toEqual([20, 60]);
    expect(minutes([...known, line, left, done])).toEqual([30, null]);
    expect(minutes([...known, line, ev(32, { kind: 'restored' }, 40)])).toEqual([30, 32]);
  });

  it('is back in use once, and the order when its last one is', () => {
    expect(answer(both, ev(25, { kind: 'restored', lineId: 1 }))).toContain('recorded already');
    expect(answer(both, ev(25, { kind: 'restored', lineId: 9 }))).toContain('not on this order');
    const all = stateAfter([...both, ev(45, { kind: 'restored' })]);
    expect([all.restored.get(1), all.restored.get(2), all.restoredAt].map((x) => (x as number) - start)).toEqual([
      20 * MINUTE,
      45 * MINUTE,
      45 * MINUTE,
    ]);
  });

  it('is taken off with a reason, never the last; nothing is asked of it and its clocks end', () => {
    const off = ev(30, { kind: 'line', lineId: 2, outcome: 'off', text: 'named by mistake' });
    expect(answer(both, { ...off, act: { ...off.act, text: '' } as OrderAct })).toContain(
      'Say why the machine is taken off',
    );
    const events = [...both, off];
    expect(answer(events, ev(31, { kind: 'line', lineId: 1, outcome: 'off', text: 'x' }))).toContain(
      'call the order off',
    );
    expect(answer(events, ev(31, { kind: 'done', text: '' }))).toBe('accepted');
    expect([[...stateAfter(events).off], stateAfter(events).restoredAt]).toEqual([[2], both[1]?.at]);
    const clocks = (id: number, of: readonly OrderEvent[]) => clockEventsOf(of, { id }).map((e) => e.kind);
    expect([clocks(1, events), clocks(2, events)]).toEqual([
      ['arrived', 'restored'],
      ['arrived', 'called off'],
    ]);
    const back = [...events, ev(32, { kind: 'line', lineId: 2, outcome: 'to do', text: '' })];
    expect(clocks(2, back)).toEqual(['arrived']);
  });

  it('that joins later runs from then: who is on site is there, what was back in use before is another', () => {
    const since = instant(start + 30 * MINUTE);
    const events = [arrived, ev(20, { kind: 'restored' }), ev(40, { kind: 'restored', lineId: 3 })];
    const own = clockEventsOf(events, { id: 3, since });
    expect(own.map((e) => [e.kind, (e.at - start) / MINUTE])).toEqual([
      ['arrived', 30],
      ['restored', 40],
    ]);
    const joined: OrderFacts = { ...facts, lines: [...facts.lines, { id: 3, since, name: 'Q103' }] };
    expect(stateAfter(events.slice(0, 2), joined).restoredAt).toBeNull();
    expect(stateAfter(events, joined).restoredAt).toBe(events[2]?.at);
  });
});

describe('what was found', () => {
  it('holds as it was said last, beside the fault told at the end', () => {
    const effort = { fault: 'gasket', labourMinutes: 90, partsCost: null, otherCost: null };
    const events = [
      arrived,
      ev(20, found(1)),
      ev(21, found(1, { fault: 'door' })),
      ev(50, { kind: 'done', text: '', effort }),
    ];
    const said = saidOfLines(facts.lines, events, {
      left: new Map(),
      found: stateAfter(events.slice(0, 3)).found,
      off: new Set(),
    });
    expect([said.get(1), said.get(2)]).toEqual([
      {
        symptom: 'warm',
        fault: 'door',
        cause: 'worn seal',
        remedy: 'seal replaced',
        labourMinutes: 45,
        partsCost: null,
        otherCost: null,
        off: false,
      },
      {
        symptom: null,
        fault: 'gasket',
        cause: null,
        remedy: null,
        labourMinutes: 45,
        partsCost: null,
        otherCost: null,
        off: false,
      },
    ]);
  });

  it('is not said of a machine of another order, nor once the order is over', () => {
    expect(answer([arrived], ev(20, found(9)))).toContain('not-found');
    expect(answer([ev(5, { kind: 'called off', text: 'x' })], ev(20, found(1)))).toContain('wrong-stage');
  });
});

// Source of the rule: the domain’s Orders, Follow-up.
describe('a follow-up', () => {
  const followed = (lineIds: number[], takesPromise: boolean): OrderAct => ({
    ...{ kind: 'followed up', orderId: next, lineIds, takesPromise, text: 'part on order' },
  });
  const minutes = { promise: { minutes: 60, measure: 'elapsed' as const }, pauses: [], serviceLevelId: asId<never>(1) };
  const promises = { arrival: minutes, restoration: minutes } as never;

  it('takes the promise of back in use with it where that was not kept, and only that one', () => {
    const events = [arrived, ev(20, followed([1], true))];
    expect(Object.keys(promisesKeptBy(events, { id: 1 }, promises))).toEqual(['arrival']);
    expect(promisesKeptBy(events, { id: 2 }, promises)).toBe(promises);
    expect(promisesKeptBy([arrived, ev(20, followed([1], false))], { id: 1 }, promises)).toBe(promises);
    expect(stateAfter(events).handedOnAt).toBe(events[1]?.at);
  });

  it('lets the order end without what goes on with it', () => {
    const events = [arrived, ev(20, followed([1, 2], true))];
    expect(missingOf(facts, events)).toEqual([]);
    const state = stateAfter([...events, ev(30, { kind: 'done', text: '' })]);
    expect([state.stage, state.restoredAt, state.handedOn.get(2)]).toEqual(['done', null, next]);
  });
});

describe('decided again', () => {
  const said = { sentence: 'Covered', promise: '' };
  const changed = (to: 1 | 2, lineId = 1): OrderAct => ({
    ...{ kind: 'changed', text: 'it is down', priority: { from: 3, to } },
    lines: [{ lineId, before: said, after: said }],
  });

  it('has the last priority that was decided, and none of its own before', () => {
    expect(stateAfter([arrived]).priority).toBeNull();
    expect(stateAfter([ev(5, changed(2)), ev(6, changed(1))]).priority).toBe(1);
  });

  it('is not decided of another order’s machine, nor once it is over', () => {
    expect(answer([], ev(5, changed(1, 9)))).toContain('not-found');
    expect(answer([ev(4, { kind: 'called off', text: 'x' })], ev(5, changed(1)))).toContain('wrong-stage');
  });
});

describe('credit terms of a caller', () => {
  const since = asLocalDate('2026-10-01');
  it('ask for a reason, stop for all but a manager with one, or let it go on', () => {
    const asked = (policy: 'ask' | 'stop' | 'go on', mayOverride: boolean, reason = '') =>
      checkTerms(policy, since, { mayOverride, reason })?.code ?? 'goes on';
    expect([asked('ask', false), asked('ask', false, 'hospital')]).toEqual(['missing', 'goes on']);
    expect([asked('stop', false, 'hospital'), asked('stop', true), asked('stop', true, 'hospital')]).toEqual([
      'not-allowed',
      'missing',
      'goes on',
    ]);
    expect([asked('go on', false), checkTerms('stop', null, { mayOverride: false, reason: '' })]).toEqual([
      'goes on',
      null,
    ]);
  });
});

describe('orders at random', () => {
  const act: fc.Arbitrary<OrderAct> = fc.constantFrom<OrderAct>(
    { kind: 'arrived' },
    { kind: 'restored', lineId: 1 },
    { kind: 'restored', lineId: 2 },
    { kind: 'restored' },
    found(1),
    { kind: 'task', taskId: 11, outcome: 'done', text: '' },
    { kind: 'line', lineId: 1, outcome: 'done', text: '' },
    { kind: 'line', lineId: 1, outcome: 'left', text: 'x' },
    { kind: 'line', lineId: 2, outcome: 'off', text: 'x' },
    { kind: 'line', lineId: 2, outcome: 'to do', text: '' },
    { kind: 'followed up', orderId: next, lineIds: [2], takesPromise: true, text: 'x' },
    { kind: 'signed', by: 'Marta Silva', function: 'shift lead', text: '' },
    { kind: 'signed', by: '', function: '', text: 'nobody there' },
    { kind: 'done', text: '' },
    { kind: 'called off', text: 'x' },
  );
  const steps = fc.array(fc.record({ act, minute: fc.integer({ min: 0, max: 500 }) }), { maxLength: 14 });

  it('are done only with nothing missing, and an order that could be finished says so', () => {
    fc.assert(
      fc.property(steps, (all) => {
        let events: OrderEvent[] = [];
        for (const [i, { act: tried, minute }] of all.entries()) {
          const event = ev(minute, tried, 600 + i);
          const before = stateAfter(events);
          const missing = missingOf(facts, events);
          const said = recordEvent(facts, events, event);
          const unsigned = signOffMissing(heldOf(events));
          if (tried.kind === 'done' && said.ok) {
            expect(missing).toEqual([]);
            expect(recordEvent(facts, events, event, unsigned).ok).toBe(before.signed !== null);
          }
          if (!said.ok) continue;
          events = [...events, event];
          expect(stateOfOrder(facts, events)).toEqual(said);
          for (const id of said.value.off) expect(clockEventsOf(events, { id }).at(-1)?.kind).toBe('called off');
        }
      }),
      { numRuns: 400 },
    );
  });
});

describe('what was decided although something spoke against it', () => {
  const kindsOf = (events: readonly OrderEvent[]) => exceptionsOf(facts, events).map((e) => e.kind);
  const left = (lineId: number, outcome: 'left' | 'to do' | 'done' | 'off'): OrderAct => ({
    ...{ kind: 'line', lineId, outcome, text: 'x' },
  });

  it('is named once for each decision, in the order they were taken', () => {
    const changed = (over: object): OrderAct => ({ kind: 'changed', text: 'x', lines: [], ...over });
    const line = { lineId: 1, before: { sentence: '', promise: '' }, after: { sentence: '', promise: '' } };
    const acts: OrderAct[] = [
      { kind: 'note', text: 'over terms', exception: 'over terms' },
      { kind: 'note', text: 'over terms since Monday' },
      changed({ priority: { from: 3, to: 1 } }),
      changed({ lines: [{ ...line, machine: { from: 'Q101', to: 'Q102' } }] }),
      changed({ lines: [{ ...line, cause: { from: 'wear', to: 'misuse' } }] }),
      { kind: 'task', taskId: 11, outcome: 'left', text: 'no gasket' },
      { kind: 'signed', by: '', function: '', text: 'nobody there' },
      { kind: 'done', text: '', anyway: 'agreed' },
      { kind: 'done', text: '' },
    ];
    expect(kindsOf(acts.map((act, i) => ev(i, act)))).toEqual([
      ...['over terms', 'decided again', 'decided again', 'task left', 'not signed for'],
      'done with something missing',
    ]);
    // A task that need not be done is left without deciding against anything.
    const free = { tasks: facts.tasks.map((t) => ({ ...t, mandatory: false })) };
    expect(exceptionsOf(free, [ev(1, { kind: 'task', taskId: 11, outcome: 'left', text: 'x' })])).toEqual([]);
  });

  it('is none any more once it was put right, whatever times were given', () => {
    fc.assert(
      fc.property(
        fc.array(fc.tuple(fc.constantFrom('left', 'to do', 'done', 'off'), fc.constantFrom(1, 2), fc.nat(200)), {
          maxLength: 12,
        }),
        (all) => {
          const events = all.map(([outcome, id, minute], i) => ev(minute, left(id, outcome as 'left'), 300 + i));
          // By a walk of its own: what each machine was said to be last.
          const last = [1, 2].flatMap((id) => {
            const own = all.flatMap(([outcome, of], i) => (of === id ? [{ outcome, i }] : [])).at(-1);
            return own?.outcome === 'left' ? [own.i] : [];
          });
          expect(exceptionsOf(facts, events).map((e) => events.indexOf(e.event))).toEqual(last.sort((a, b) => a - b));
        },
      ),
    );
  });
});
