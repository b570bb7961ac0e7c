// Corrections: an order is what it had been, had the act been told rightly at first; what could not have been is refused.
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { instant, MINUTE } from '../time/index.ts';
import type { OrderAct, OrderFacts } from './act.ts';
import { asCorrected, correctEvent, type Recorded } from './corrected.ts';
import { recordEvent, stateOfOrder } from './order.ts';

const START = instant(Date.UTC(2026, 10, 2, 8));
const at = (minutes: number) => instant(START + minutes * MINUTE);
const NOW = at(5000);
const facts: OrderFacts = { kind: 'repair', startedAt: START, lines: [{ id: 1 }], tasks: [], forms: [] };

const acts: fc.Arbitrary<OrderAct> = fc.constantFrom<OrderAct>(
  { kind: 'told', technician: 'A. Brandel' },
  { kind: 'arrived' },
  { kind: 'paused', reason: 'no access', text: '' },
  { kind: 'resumed' },
  { kind: 'restored' },
  { kind: 'note', text: 'seen' },
  { kind: 'done', text: '' },
);
/** What could have been told of an order, one after the other; each with its id. */
const told = fc.array(fc.record({ act: acts, minute: fc.nat(3000) }), { minLength: 1, maxLength: 10 }).map((all) => {
  const recorded: Recorded[] = [];
  for (const { act, minute } of all) {
    const event = { id: recorded.length + 1, at: at(minute), recordedAt: at(3000 + recorded.length), act };
    if (recordEvent(facts, recorded, event).ok) recorded.push(event);
  }
  return recorded;
});
const asked = fc.record({
  eventId: fc.integer({ min: 1, max: 11 }),
  to: fc.option(fc.integer({ min: -50, max: 6000 })),
});
const correctionOf = ({ eventId, to }: { eventId: number; to: number | null }) => ({
  ...{ eventId, to: to === null ? null : at(to), text: 'misheard' },
});

describe('a correction', () => {
  it('makes of the order what it had been, had it been told so at first', () => {
    let taken = 0;
    fc.assert(
      fc.property(told, fc.array(asked, { minLength: 1, maxLength: 4 }), (all, corrections) => {
        let recorded: Recorded[] = all;
        let rightly: Recorded[] = all;
        for (const one of corrections.map(correctionOf)) {
          const before = JSON.stringify(recorded);
          const decision = correctEvent(facts, recorded, one, NOW);
          expect(JSON.stringify(recorded)).toBe(before);
          if (!decision.ok) continue;
          taken += 1;
          rightly = rightly.flatMap((e) =>
            e.id !== one.eventId ? [e] : one.to === null ? [] : [{ ...e, at: one.to }],
          );
          recorded = [...recorded, { id: 100 + recorded.length, at: NOW, recordedAt: NOW, act: decision.value.act }];
          expect(asCorrected(recorded).filter((e) => e.act.kind !== 'corrected')).toEqual(rightly);
          const state = stateOfOrder(facts, rightly);
          expect(state.ok && state.value).toEqual(decision.value.state);
        }
      }),
      { numRuns: 400 },
    );
    expect(taken).toBeGreaterThan(100);
  });

  const story: Recorded[] = [
    { id: 1, at: at(10), recordedAt: at(10), act: { kind: 'told', technician: 'A. Brandel' } },
    { id: 2, at: at(60), recordedAt: at(60), act: { kind: 'arrived' } },
    { id: 3, at: at(90), recordedAt: at(95), act: { kind: 'restored' } },
    { id: 4, at: at(100), recordedAt: at(100), act: { kind: 'done', text: '' } },
    { id: 5, at: at(110), recordedAt: at(110), act: { kind: 'note', text: 'thanks' } },
  ];
  it.each([
    ['an act that is not there', { eventId: 9, to: at(20) }, 'eventId', 'not-found'],
    ['a note', { eventId: 5, to: at(20) }, 'eventId', 'unsupported'],
    ['the same time', { eventId: 2, to: at(60) }, 'to', 'conflict'],
    ['a time to come', { eventId: 2, to: at(5001) }, 'to', 'in-the-future'],
    ['a time before the order', { eventId: 2, to: at(-1) }, 'to', 'out-of-order'],
    ['no reason', { eventId: 2, to: at(20), text: ' ' }, 'text', 'missing'],
    ['taking back that it is done', { eventId: 4, to: null }, 'to', 'unsupported'],
    ['an arrival after the end', { eventId: 2, to: at(101) }, 'to', 'out-of-order'],
  ] as const)('refuses %s', (_, correction, field, code) => {
    const decision = correctEvent(facts, story, { text: 'misheard', ...correction }, NOW);
    expect(decision.ok || decision.refusals[0]).toMatchObject({ field, code });
  });

  it('of one that was taken back is refused: it is told anew', () => {
    const decision = correctEvent(facts, story, { eventId: 1, to: null, text: 'another order' }, NOW);
    const after = decision.ok ? [...story, { id: 6, at: NOW, recordedAt: NOW, act: decision.value.act }] : [];
    expect(after).toHaveLength(6);
    expect(correctEvent(facts, after, { eventId: 1, to: at(20), text: 'after all' }, NOW).ok).toBe(false);
  });
});
