import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { asId, type PersonId } from '../ids.ts';
import { recordEvent, stateOfOrder, type OrderAct, type OrderEvent, type OrderFacts } from '../orders/index.ts';
import { instant, MINUTE, type Instant } from '../time/index.ts';
import { nextOnSite, orderNow, refusedNow } from './order-now.ts';
import { standsFor } from './whose.ts';

const started = instant(Date.UTC(2026, 10, 24, 8));
const at = (minutes: number): Instant => instant(started + minutes * MINUTE);
const [mine, other] = [asId<PersonId>(5), asId<PersonId>(6)];
const facts: OrderFacts = {
  ...{ kind: 'repair', startedAt: started },
  lines: [{ id: 1 }],
  tasks: [{ id: 7, lineId: 1, text: 'look for leaks', mandatory: true }],
  forms: [
    {
      ...{ id: 9, lineId: 1, name: 'Pressure' },
      questions: [{ text: 'Shown', kind: 'number', mandatory: true, unit: 'bar', from: 1, to: 3 }],
    },
  ],
};
const event = (minutes: number, act: OrderAct, over: Partial<OrderEvent> = {}): OrderEvent => ({
  ...{ at: at(minutes), recordedAt: at(minutes), act },
  ...over,
});
const planned = event(1, { kind: 'planned', technicianId: mine, technician: 'Me', date: '2026-11-24' as never });
const done = (minutes: number, act: OrderAct) => ({ id: `act ${minutes}`, at: at(minutes), act });

describe('an order on the phone', () => {
  it('stands as it will at the office: what was done there counts, and says what is next and what is missing', () => {
    const held = { facts, events: [planned] };
    const before = orderNow(held, [], at(10));
    expect([nextOnSite(facts, before), before.state.stage]).toEqual(['arrived', 'planned']);
    const here = orderNow(held, [done(10, { kind: 'arrived' })], at(11));
    expect([nextOnSite(facts, here), here.state.stage]).toEqual(['restored', 'on site']);
    expect(here.missing.map((m) => m.what)).toEqual(['task', 'form']);
    const back = orderNow(held, [done(10, { kind: 'arrived' }), done(12, { kind: 'restored' })], at(13));
    expect(nextOnSite(facts, back)).toBe('done');
    const waits = done(14, { kind: 'paused', reason: 'waiting for parts', text: '' });
    expect(nextOnSite(facts, orderNow(held, [done(10, { kind: 'arrived' }), waits], at(15)))).toBe('resumed');
  });

  it('names what its rules refuse, and nothing of that happens', () => {
    const held = { facts, events: [planned, event(5, { kind: 'called off', text: 'sold' }, { recordedAt: at(5) })] };
    const here = orderNow(held, [done(10, { kind: 'restored' })], at(11));
    expect(here.state.stage).toBe('called off');
    expect(here.doubted.get('act 10')?.[0]?.code).toBe('wrong-stage');
    expect(nextOnSite(facts, here)).toBeNull();
    const now = orderNow({ facts, events: [planned] }, [], at(9));
    const asked = { kind: 'form', formId: 9, answers: [null] } as const;
    expect(refusedNow({ facts }, now, asked, at(9), at(9)).map((r) => r.field)).toEqual(['answers.0']);
    expect(refusedNow({ facts }, now, { kind: 'arrived' }, at(9), at(9))).toEqual([]);
  });

  it('is after any acts what the server makes of the same acts sent in order', () => {
    const act = fc.constantFrom<OrderAct>(
      { kind: 'arrived' },
      { kind: 'restored' },
      { kind: 'task', taskId: 7, outcome: 'done', text: '' },
      { kind: 'form', formId: 9, answers: [2] },
      { kind: 'paused', reason: 'waiting for parts', text: '' },
      { kind: 'resumed' },
      { kind: 'note', text: 'seen' },
      { kind: 'done', text: '' },
    );
    fc.assert(
      fc.property(fc.array(act, { maxLength: 9 }), (acts) => {
        const all = acts.map((a, i) => done(10 + i, a));
        const here = orderNow({ facts, events: [planned] }, all, at(60));
        // The server takes them hours later, one by one, each by what it holds by then.
        let events: readonly OrderEvent[] = [planned];
        for (const one of all) {
          const sent: OrderEvent = { at: one.at, recordedAt: at(300), act: one.act, onSite: true };
          if (recordEvent(facts, events, sent).ok) events = [...events, sent];
        }
        const there = stateOfOrder(facts, events);
        expect(there.ok && there.value).toEqual(here.state);
        expect(here.doubted.size).toBe(all.length - (events.length - 1));
      }),
      { numRuns: 300 },
    );
  });
});

describe('what was found by somebody whose phone was out of reach', () => {
  const late = (act: OrderAct): OrderEvent => ({ at: at(20), recordedAt: at(90), act, onSite: true });
  const found: OrderAct = { kind: 'found', lineId: 1, symptom: null, fault: 'leaks', cause: null, remedy: null };

  it('is kept of an order that was called off or done before it was told; at a desk it is refused', () => {
    for (const end of [
      { kind: 'called off', text: 'sold' },
      { kind: 'note', text: 'none' },
    ] as const) {
      const events = [planned, event(2, { kind: 'arrived' }), event(30, end)];
      const kept = recordEvent(facts, events, late(found));
      expect(kept.ok && kept.value.stage).toBe(end.kind === 'note' ? 'on site' : 'called off');
      const atDesk = recordEvent(facts, events, { ...late(found), onSite: false });
      expect(atDesk.ok).toBe(end.kind === 'note');
    }
    expect(
      recordEvent(facts, [planned, event(5, { kind: 'called off', text: 'x' })], late({ kind: 'arrived' })).ok,
    ).toBe(false);
  });

  it('counts by its own time: the later answers of a form hold, whichever came first', () => {
    const form = (value: number): OrderAct => ({ kind: 'form', formId: 9, answers: [value] });
    const early: OrderEvent = { at: at(10), recordedAt: at(90), act: form(1), onSite: true };
    const state = stateOfOrder(facts, [planned, event(20, form(2)), early]);
    expect(state.ok && state.value.forms.get(9)).toEqual([2]);
  });
});

describe('whose an order is', () => {
  const by = (e: OrderEvent, who: PersonId | null) => ({ ...e, by: who });
  const toOther = by(event(15, { kind: 'told', technicianId: other, technician: 'Other' }), null);
  const arrival = { act: { kind: 'arrived' }, at: at(20) } as const;

  it('whoever arrives first keeps it; what the other found is kept; nobody acts on what never was theirs', () => {
    const given = [by(planned, null), toOther];
    expect(standsFor(given, mine, arrival)).toBe('keeps it');
    const there = [...given, by(event(18, { kind: 'arrived' }), other)];
    expect(standsFor(there, mine, arrival)).toMatchObject({ code: 'conflict' });
    expect(standsFor(there, mine, { ...arrival, at: at(16) })).toBe('keeps it');
    expect(standsFor(there, mine, { ...arrival, act: { kind: 'form' } })).toBe('fact');
    expect(standsFor(given, asId<PersonId>(8), arrival)).toMatchObject({ code: 'not-allowed' });
  });
});
