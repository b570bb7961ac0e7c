import { describe, expect, it } from 'vitest';
import { instant, MINUTE, asLocalDate } from '../time/index.ts';
import {
  actsOffered,
  clockEventsOf,
  recordEvent,
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
const repair: OrderFacts = {
  kind: 'repair',
  startedAt: instant(start),
  lines: [{ id: 8 }],
  tasks: [
    { id: 1, lineId: 8, text: 'Check gasket', mandatory: true },
    { id: 2, lineId: 8, text: 'Clean filter', mandatory: false },
  ],
  forms: [],
};
const planned: OrderAct = { kind: 'planned', technician: 'A. Brandel', date: asLocalDate('2026-11-24') };
const message = (answer: ReturnType<typeof recordEvent>): string =>
  answer.ok ? 'accepted' : answer.refusals.map((r) => `${r.code}: ${r.message}`).join(' ');

describe('an order’s life', () => {
  it('goes raised, planned, sent, on site, done', () => {
    const acts: OrderAct[] = [
      planned,
      { kind: 'sent' },
      { kind: 'told', technician: 'A. Brandel' },
      { kind: 'arrived' },
      { kind: 'task', taskId: 1, outcome: 'done', text: '' },
      { kind: 'restored' },
      { kind: 'done', text: '' },
    ];
    const events = acts.map((act, i) => ev(i * 10, act));
    const stages = acts.map((_, i) => {
      const state = stateOfOrder(repair, events.slice(0, i + 1));
      return state.ok ? state.value.stage : 'refused';
    });
    expect(stages).toEqual(['planned', 'sent', 'sent', 'on site', 'on site', 'on site', 'done']);
  });

  it('planned and taken out of the rota again is raised, and nobody is planned for it', () => {
    const out: OrderAct = { kind: 'unplanned', text: 'the customer asked for later' };
    const state = stateOfOrder(repair, [ev(0, planned), ev(5, { kind: 'sent' }), ev(9, out)]);
    expect(state.ok && state.value).toMatchObject({ stage: 'raised', technician: null, plannedFor: null });
    expect(message(recordEvent(repair, [], ev(0, out)))).toContain('wrong-stage: The order is raised');
    const there = [ev(0, planned), ev(5, { kind: 'arrived' })];
    expect(message(recordEvent(repair, there, ev(9, out)))).toContain('wrong-stage: The order is on site');
  });

  it('is not unmade by what the office planned before it heard of an arrival that comes late', () => {
    const arrived = ev(10, { kind: 'arrived' }, 40);
    for (const act of [planned, { kind: 'unplanned', text: 'sick' }] as const) {
      const state = stateOfOrder(repair, [ev(0, planned), ev(20, act), arrived]);
      expect(state.ok && state.value.stage).toBe('on site');
    }
    // Known of, it is refused as ever.
    expect(message(recordEvent(repair, [ev(0, planned), arrived], ev(50, planned)))).toContain(
      'cannot be planned again',
    );
  });

  it('is told late in any order: what is ticked or filled in counts from when it is recorded, not by its own time', () => {
    const asked = { text: 'Sound', kind: 'yes or no', mandatory: true, unit: null, from: null, to: null } as const;
    const withForm: OrderFacts = { ...repair, forms: [{ id: 5, lineId: 8, name: 'Check', questions: [asked] }] };
    const before = [ev(5, { kind: 'arrived' }, 200), ev(60, { kind: 'restored' }, 201)];
    const ticked = ev(202, { kind: 'task', taskId: 1, outcome: 'done', text: '' }, 202);
    const filled = ev(203, { kind: 'form', formId: 5, answers: [true] }, 203);
    const done = ev(90, { kind: 'done', text: '' }, 219);
    expect(message(recordEvent(withForm, [...before, ticked], done))).toContain('Fill in first: Check');
    const answer = recordEvent(withForm, [...before, ticked, filled], done);
    expect(answer.ok && [answer.value.stage, answer.value.doneAt, [...answer.value.tasks.keys()]]).toEqual([
      'done',
      done.at,
      [1],
    ]);
    // Recorded after it was done nothing more is filled in, whatever time is given.
    const late = ev(80, { kind: 'form', formId: 5, answers: [false] }, 230);
    expect(message(recordEvent(withForm, [...before, ticked, filled, done], late))).toContain('wrong-stage');
  });

  it.each<[string, OrderEvent[], OrderEvent, string]>([
    ['a future time', [], ev(30, { kind: 'arrived' }, 10), 'in-the-future'],
    ['a time before the call', [], ev(-5, { kind: 'arrived' }, 10), 'out-of-order'],
    ['sending an unplanned order', [], ev(1, { kind: 'sent' }), 'wrong-stage'],
    ['a second arrival', [ev(1, { kind: 'arrived' })], ev(2, { kind: 'arrived' }), 'wrong-stage'],
    ['resuming what is not paused', [], ev(2, { kind: 'resumed' }), 'wrong-stage'],
    ['a task of another order', [], ev(2, { kind: 'task', taskId: 9, outcome: 'done', text: '' }), 'not-found'],
    ['a task left without a reason', [], ev(2, { kind: 'task', taskId: 1, outcome: 'left', text: ' ' }), 'missing'],
    ['done before anybody came', [], ev(2, { kind: 'done', text: '' }), 'wrong-stage'],
    [
      'done with a mandatory task open',
      [ev(1, { kind: 'arrived' }), ev(2, { kind: 'restored' })],
      ev(3, { kind: 'done', text: '' }),
      'Check gasket',
    ],
    ['calling off without a reason', [], ev(2, { kind: 'called off', text: '' }), 'missing'],
    [
      'anything after calling off',
      [ev(1, { kind: 'called off', text: 'wrong number' })],
      ev(2, { kind: 'arrived' }),
      'follow-up',
    ],
  ])('refuses %s', (_, before, event, said) => {
    expect(message(recordEvent(repair, before, event))).toContain(said);
  });

  it('takes an event that was recorded late by its own time, and refuses one that would break the sequence', () => {
    const events = [
      ev(1, planned),
      ev(20, { kind: 'paused', reason: 'no access', text: '' }),
      ev(40, { kind: 'resumed' }),
    ];
    expect(
      message(recordEvent(repair, events, ev(30, { kind: 'paused', reason: 'no access', text: '' }, 60))),
    ).toContain('paused already');
    expect(message(recordEvent(repair, events, ev(10, { kind: 'arrived' }, 60)))).toBe('accepted');
  });

  it('hands its clocks only the events they listen to, in own time', () => {
    const events = [
      ev(40, { kind: 'restored' }),
      ev(5, { kind: 'note', text: 'x' }),
      ev(10, { kind: 'told', technician: 'A' }),
    ];
    expect(clockEventsOf(events, { id: 8 }).map((e) => e.kind)).toEqual(['told', 'restored']);
  });

  it('offers only acts that would be accepted', () => {
    const histories: OrderEvent[][] = [
      [],
      [ev(1, planned)],
      [ev(1, { kind: 'arrived' })],
      [ev(1, { kind: 'restored' })],
      [ev(1, { kind: 'paused', reason: 'no access', text: '' })],
      [ev(1, { kind: 'called off', text: 'x' })],
    ];
    const sample: Record<string, OrderAct> = {
      planned,
      sent: { kind: 'sent' },
      told: { kind: 'told', technician: 'A' },
      arrived: { kind: 'arrived' },
      restored: { kind: 'restored' },
      resumed: { kind: 'resumed' },
      paused: { kind: 'paused', reason: 'no access', text: '' },
      'worked around': { kind: 'worked around', text: 'runs by hand' },
      note: { kind: 'note', text: 'x' },
      'called off': { kind: 'called off', text: 'x' },
      done: { kind: 'done', text: '' },
      signed: { kind: 'signed', by: 'Marta Silva', function: 'shift lead', text: '' },
    };
    const noTasks = { ...repair, tasks: [] };
    for (const events of histories) {
      const state = stateOfOrder(noTasks, events);
      if (!state.ok) throw new Error('history must hold');
      for (const kind of actsOffered(noTasks, state.value))
        expect([kind, message(recordEvent(noTasks, events, ev(9, sample[kind] as OrderAct)))]).toEqual([
          kind,
          'accepted',
        ]);
    }
  });
});

describe('an order of several machines', () => {
  const facts: OrderFacts = {
    kind: 'preventive',
    startedAt: instant(start),
    lines: [{ id: 8 }, { id: 9 }, { id: 10 }],
    tasks: [8, 9, 10].map((lineId) => ({ id: lineId * 10, lineId, text: 'Change filter', mandatory: true })),
    forms: [],
  };
  const left = (lineId: number, text = 'the room was locked'): OrderAct => ({
    kind: 'line',
    lineId,
    outcome: 'left',
    text,
  });
  const tick = (taskId: number): OrderAct => ({ kind: 'task', taskId, outcome: 'done', text: '' });
  const arrived = ev(1, { kind: 'arrived' });
  const done = ev(60, { kind: 'done', text: '' });

  it('is done without the tasks of a machine that was left, and says which that was and why', () => {
    const before = [arrived, ev(20, tick(80)), ev(30, tick(90))];
    expect(message(recordEvent(facts, before, done))).toContain('Not done yet: Change filter.');
    expect(message(recordEvent(facts, [arrived], done))).toContain('Change filter (3 times)');
    const answer = recordEvent(facts, [...before, ev(40, left(10))], done);
    expect(answer.ok && [answer.value.stage, [...answer.value.left]]).toEqual(['done', [[10, 'the room was locked']]]);
  });

  it('asks for them again where the machine is done after all', () => {
    const taken = ev(45, { kind: 'line', lineId: 10, outcome: 'to do', text: '' });
    const before = [arrived, ev(20, tick(80)), ev(30, tick(90)), ev(40, left(10)), taken];
    expect(message(recordEvent(facts, before, done))).toContain('Not done yet');
    const answer = recordEvent(facts, [...before, ev(50, tick(100))], done);
    expect(answer.ok && [...answer.value.left]).toEqual([]);
  });

  it('leaves none without a reason, none that is not on it, not the last one, and none once it is done', () => {
    expect(message(recordEvent(facts, [arrived], ev(10, left(8, ' '))))).toContain('Say why the machine is left');
    expect(message(recordEvent(facts, [arrived], ev(10, left(7))))).toContain('That machine is not on this order.');
    expect(message(recordEvent(facts, [ev(10, left(8)), ev(11, left(9))], ev(12, left(10))))).toContain(
      'call the order off instead',
    );
    expect(recordEvent(facts, [ev(10, left(8)), ev(11, left(9))], ev(12, left(9, 'still locked'))).ok).toBe(true);
    const over = [arrived, ev(20, tick(80)), ev(30, tick(90)), ev(40, tick(100)), done];
    expect(message(recordEvent(facts, over, ev(70, left(8))))).toContain('nothing more happens to it');
  });

  it('may turn out to have another cause once it is done, until it is settled; never another machine or priority', () => {
    const over = [arrived, ev(20, tick(80)), ev(30, tick(90)), ev(40, tick(100)), done];
    const line = { lineId: 8, before: { sentence: '', promise: '' }, after: { sentence: '', promise: '' } };
    const changed = (of: object, more: object = {}) =>
      ev(70, { kind: 'changed', text: 'dropped', lines: [{ ...line, ...of }], ...more });
    const cause = { cause: { from: 'wear', to: 'misuse' } };
    const found = recordEvent(facts, over, changed(cause));
    expect(found.ok && found.value.stage).toBe('done');
    for (const more of [
      changed({ ...cause, machine: { from: 'Q1', to: 'Q2' } }),
      changed(cause, { priority: { from: 2, to: 1 } }),
    ])
      expect(message(recordEvent(facts, over, more))).toContain('nothing more happens to it');
    const settled = [...over, ev(65, { kind: 'settled', text: '' })];
    expect(recordEvent(facts, settled, changed(cause)).ok).toBe(false);
    expect(recordEvent(facts, [ev(60, { kind: 'called off', text: 'x' })], changed(cause)).ok).toBe(false);
  });

  it('divides what it took among the machines that were done, to the minute and the cent', () => {
    const effort = { fault: null, labourMinutes: 121, partsCost: 999, otherCost: null };
    const done = [ev(1, { kind: 'done', text: '', effort })];
    const shared = saidOfLines(facts.lines, done, { left: new Map([[9, 'locked']]), found: new Map(), off: new Set() });
    expect([...shared].map(([id, e]) => [id, e.labourMinutes, e.partsCost, e.otherCost])).toEqual([
      [8, 61, 500, null],
      [9, null, null, null],
      [10, 60, 499, null],
    ]);
  });
});
