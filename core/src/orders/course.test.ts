// How a finished order went: told, sent, planned in time, done at first go.
import { describe, expect, it } from 'vitest';
import { asId, type OrderId } from '../ids.ts';
import { asInstant, asLocalDate, asZone, instant, MINUTE } from '../time/index.ts';
import { courseOf, type OrderAct, type OrderEvent } from './index.ts';

const startedAt = asInstant('2026-11-24T22:30:00Z');
const order = { startedAt, zone: asZone('Europe/Madrid') };
const after = (minutes: number, act: OrderAct, recorded = minutes): OrderEvent => ({
  at: instant(startedAt + minutes * MINUTE),
  recordedAt: instant(startedAt + recorded * MINUTE),
  act,
});
const planned = (date: string): OrderAct => ({ kind: 'planned', technician: 'Rui', date: asLocalDate(date) });
const due = asLocalDate('2026-11-25');
const RAISED = after(0, { kind: 'raised', text: '' });
const ARRIVED = after(90, { kind: 'arrived' });
const DONE = after(150, { kind: 'done', text: '' });
const course = (events: readonly OrderEvent[], dueOn: typeof due | null = due) => courseOf(order, events, dueOn);

describe('the course of a finished order', () => {
  it('is none while it is not done', () => {
    expect(course([RAISED, ARRIVED])).toBeNull();
  });

  it('says minutes by own times, and its day by the place’s zone', () => {
    const told = after(20, { kind: 'told', technician: 'Rui' }, 100);
    expect(course([RAISED, after(30, { kind: 'sent' }), ARRIVED, told, DONE])).toMatchObject({
      doneOn: '2026-11-25',
      toldMinutes: 20,
      sentMinutes: 30,
    });
  });

  it('takes an arrival for having been told, and says of nobody that they were sent', () => {
    expect(course([RAISED, ARRIVED, DONE])).toMatchObject({ toldMinutes: 90, sentMinutes: null });
  });

  it.each([
    ['for the due day', [planned('2026-11-25')], true],
    ['for a day after', [planned('2026-11-26')], false],
    ['first too late, then sooner', [planned('2026-11-28'), planned('2026-11-25')], true],
    ['and then nobody any more', [planned('2026-11-25'), { kind: 'unplanned', text: 'sick' }], false],
    ['by nobody', [], false],
  ] as [string, OrderAct[], boolean][])('was planned %s', (_, acts, inTime) => {
    expect(course([RAISED, ...acts.map((a, i) => after(i + 1, a)), ARRIVED, DONE])?.inTime).toBe(inTime);
  });

  it('does not count a plan made once somebody was there, and asks nothing of what is due on no day', () => {
    expect(course([RAISED, ARRIVED, after(95, planned('2026-11-25')), DONE])?.inTime).toBe(false);
    expect(course([RAISED, ARRIVED, DONE], null)?.inTime).toBeNull();
  });

  it.each([
    ['nothing came between', [], true],
    ['it waited before anybody was there', [after(30, { kind: 'paused', reason: 'no access', text: '' })], true],
    ['it waited for a part afterwards', [after(100, { kind: 'paused', reason: 'waiting for parts', text: '' })], false],
    ['a machine was left', [after(140, { kind: 'line', lineId: 1, outcome: 'left', text: 'locked' })], false],
    [
      'a machine was left, and done after all',
      [
        after(140, { kind: 'line', lineId: 1, outcome: 'left', text: 'locked' }),
        after(145, { kind: 'line', lineId: 1, outcome: 'to do', text: '' }),
      ],
      true,
    ],
    [
      'it went on with another order',
      [
        after(149, {
          ...{ kind: 'followed up', orderId: asId<OrderId>(9), lineIds: [1], takesPromise: true, text: '' },
        }),
      ],
      false,
    ],
  ] as [string, OrderEvent[], boolean][])('was done at first go if %s', (_, between, atFirstGo) => {
    expect(course([RAISED, ARRIVED, ...between, DONE])?.atFirstGo).toBe(atFirstGo);
  });
});
