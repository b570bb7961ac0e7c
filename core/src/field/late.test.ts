// Told late by a phone that was out of reach, an order's clocks are what they would have been, told in time.
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { ELAPSED_TIME } from '../calendars/index.ts';
import { asId, type ServiceLevelId } from '../ids.ts';
import { clockEventsOf, recordEvent, type OrderAct, type OrderEvent, type OrderFacts } from '../orders/index.ts';
import { deriveClocks, strictestPromises, type ServiceLevel } from '../service-levels/index.ts';
import { instant, MINUTE, type Instant } from '../time/index.ts';

const START = instant(Date.UTC(2026, 10, 24, 9));
const at = (minutes: number): Instant => instant(START + minutes * MINUTE);
/** Everything happened by then; later nothing more is told. */
const END = 1000;

const facts: OrderFacts = { kind: 'repair', startedAt: START, lines: [{ id: 1 }], tasks: [], forms: [] };
const level: ServiceLevel = {
  id: asId<ServiceLevelId>(1),
  name: 'Cold',
  pauses: ['no access'],
  targets: {
    1: {
      response: { minutes: 30, measure: 'elapsed' },
      arrival: { minutes: 240, measure: 'elapsed' },
      restoration: { minutes: 480, measure: 'elapsed' },
    },
  },
};
const promises = strictestPromises([level], 1, START, () => ELAPSED_TIME);
const clocksOf = (events: readonly OrderEvent[]) =>
  deriveClocks(START, clockEventsOf(events, { id: 1 }), promises, () => ELAPSED_TIME, at(END));

const act: fc.Arbitrary<OrderAct> = fc.constantFrom<OrderAct>(
  { kind: 'told', technician: 'A. Quint' },
  { kind: 'arrived' },
  { kind: 'paused', reason: 'no access', text: '' },
  { kind: 'paused', reason: 'waiting for parts', text: '' },
  { kind: 'resumed' },
  { kind: 'restored' },
  { kind: 'note', text: 'x' },
  { kind: 'done', text: '' },
);
/** In the order in which they happen, each by somebody on site or by the office. */
const happened = fc.array(fc.record({ act, after: fc.integer({ min: 1, max: 90 }), onSite: fc.boolean() }), {
  maxLength: 11,
});

/** Those that the rules take, recorded one after the other. */
function recorded(events: readonly OrderEvent[]): readonly OrderEvent[] {
  return events.reduce<readonly OrderEvent[]>(
    (held, event) => (recordEvent(facts, held, event).ok ? [...held, event] : held),
    [],
  );
}

// Source: domain-work, Field: clocks are derived from the act's own time.
describe('acts told late', () => {
  it('leave each clock as acts told in time, whoever else told something meanwhile', () => {
    let compared = 0;
    fc.assert(
      fc.property(happened, (all) => {
        let minute = 0;
        const drawn = all.map(({ act: what, after, onSite }) => ({ act: what, onSite, minute: (minute += after) }));
        const inTime = recorded(
          drawn.map((d) => ({
            at: at(d.minute),
            recordedAt: at(d.minute),
            act: d.act,
            ...(d.onSite && { onSite: true }),
          })),
        );
        const office = inTime.filter((e) => !e.onSite);
        const phone = inTime.filter((e) => e.onSite);
        // The phone had a signal again after everything: its acts come in their order, behind the office's.
        const late = [...office, ...phone.map((e, i): OrderEvent => ({ ...e, recordedAt: at(END + i) }))];
        const kept = recorded(late);
        // What the office could not have told before the phone did (an end before any arrival) is another story.
        if (kept.length < late.length) return;
        compared += phone.length > 0 && office.length > 0 ? 1 : 0;
        expect(clocksOf(kept)).toEqual(clocksOf(inTime));
      }),
      { numRuns: 1500 },
    );
    expect(compared).toBeGreaterThan(200);
  });
});
