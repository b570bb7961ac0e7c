import { describe, expect, it } from 'vitest';
import fc from 'fast-check';
import { ELAPSED_TIME, weekdaysOpen, workingTimeOf } from '../calendars/index.ts';
import { asId, type CalendarId, type ServiceLevelId } from '../ids.ts';
import { asLocalDate, asZone, HOUR, instant, MINUTE, toInstant, type Instant } from '../time/index.ts';
import {
  deriveClocks,
  strictestPromises,
  type Clock,
  type ClockEvent,
  type GivenPromises,
  type ServiceLevel,
  type TimeOfPromise,
} from './index.ts';

const office = workingTimeOf({
  name: 'office',
  zone: asZone('Europe/Lisbon'),
  weekly: weekdaysOpen(9 * 60, 17 * 60),
  closed: [],
  extraOpen: [],
});
const timeOf: TimeOfPromise = (p) => (p.measure === 'elapsed' ? ELAPSED_TIME : office);
const calendarId = asId<CalendarId>(1);
const at = (time: string, day = '2026-11-24'): Instant =>
  toInstant(asZone('Europe/Lisbon'), {
    date: asLocalDate(day),
    minutes: Number(time.slice(0, 2)) * 60 + Number(time.slice(3)),
  });

const level: ServiceLevel = {
  id: asId<ServiceLevelId>(1),
  name: 'Cold',
  pauses: ['no access'],
  targets: {
    1: {
      response: { minutes: 30, measure: 'elapsed' },
      arrival: { minutes: 240, measure: 'working', calendarId },
      restoration: { minutes: 720, measure: 'elapsed' },
    },
  },
};
const promises: GivenPromises = strictestPromises([level], 1, at('10:00'), timeOf);
const derive = (events: ClockEvent[], now: Instant, start = at('10:00')): Record<string, Clock> =>
  Object.fromEntries(deriveClocks(start, events, promises, timeOf, now).map((c) => [c.target, c]));

describe('clocks', () => {
  it('run in elapsed or working time, whichever is promised', () => {
    const { response, arrival } = derive([], at('10:10'));
    expect(response).toMatchObject({ state: 'running', dueAt: at('10:30'), left: 20 * MINUTE });
    expect(arrival).toMatchObject({ state: 'running', dueAt: at('14:00') });
  });

  it('stopped exactly at the due instant are met, a millisecond later missed', () => {
    expect(derive([{ kind: 'told', at: at('10:30') }], at('12:00')).response).toMatchObject({ state: 'met', left: 0 });
    expect(derive([{ kind: 'told', at: instant(at('10:30') + 1) }], at('12:00')).response).toMatchObject({
      state: 'missed',
      over: 1,
      stoppedAt: at('10:30') + 1,
    });
  });

  it('are missed while still open once the due instant is past', () => {
    expect(derive([], at('11:00')).response).toMatchObject({ state: 'missed', stoppedAt: null, over: 30 * MINUTE });
  });

  it('stand still during an allowed pause, from event to event', () => {
    const events: ClockEvent[] = [
      { kind: 'paused', at: at('11:00'), reason: 'no access' },
      { kind: 'resumed', at: at('13:30') },
    ];
    expect(derive(events.slice(0, 1), at('12:00')).arrival).toMatchObject({
      state: 'paused',
      since: at('11:00'),
      left: 3 * HOUR,
    });
    expect(derive(events, at('13:30')).arrival).toMatchObject({ state: 'running', dueAt: at('16:30'), left: 3 * HOUR });
    expect(derive(events, at('13:30')).restoration).toMatchObject({ dueAt: at('00:30', '2026-11-25') });
  });

  it('run on through a pause the service level does not allow', () => {
    expect(
      derive([{ kind: 'paused', at: at('11:00'), reason: 'waiting for parts' }], at('12:00')).arrival,
    ).toMatchObject({ state: 'running', dueAt: at('14:00') });
  });

  it('missed before a pause stay missed', () => {
    expect(derive([{ kind: 'paused', at: at('11:00'), reason: 'no access' }], at('11:30')).response).toMatchObject({
      state: 'missed',
      dueAt: at('10:30'),
    });
  });

  it('stopped during a pause are met', () => {
    const events: ClockEvent[] = [
      { kind: 'paused', at: at('11:00'), reason: 'no access' },
      { kind: 'arrived', at: at('16:50') },
    ];
    expect(derive(events, at('17:00')).arrival).toMatchObject({ state: 'met', used: HOUR });
  });

  // Settled in the domain's arithmetic of clocks: the stop plus what was left, counted in its own measure.
  it('stopped during a pause are due at the stop plus what was left', () => {
    const events: ClockEvent[] = [
      { kind: 'paused', at: at('11:00'), reason: 'no access' },
      { kind: 'arrived', at: at('16:50') },
      { kind: 'restored', at: at('16:55') },
    ];
    const { arrival, restoration } = derive(events, at('18:00'));
    // Three working hours were left: ten minutes on that day, the rest on the next from nine o'clock.
    expect(arrival).toMatchObject({ state: 'met', dueAt: at('11:50', '2026-11-25'), left: 3 * HOUR });
    expect(restoration).toMatchObject({ state: 'met', dueAt: at('03:55', '2026-11-25'), left: 11 * HOUR });
  });

  it('are late by their own measure without the pauses that count', () => {
    const day = '2026-11-27';
    const events: ClockEvent[] = [
      { kind: 'paused', at: at('14:23', day), reason: 'no access' },
      { kind: 'resumed', at: at('15:16', day) },
    ];
    const late = (extra: ClockEvent[], now: Instant): Clock | undefined =>
      derive([...events, ...extra], now, at('14:00', '2026-11-25')).restoration;
    // Due Thu 02:00; until Fri 16:00 are 38 h, less the 53 minutes of the pause.
    expect(late([], at('16:00', day))).toMatchObject({
      state: 'missed',
      dueAt: at('02:00', '2026-11-26'),
      over: 38 * HOUR - 53 * MINUTE,
      lateness: { ms: 36 * HOUR + 23 * MINUTE, runsFrom: at('15:16', day) },
    });
    expect(late([{ kind: 'restored', at: at('16:00', day) }], at('20:00', day))).toMatchObject({
      over: 38 * HOUR - 53 * MINUTE,
      lateness: { runsFrom: null },
    });
    expect(derive(events.slice(0, 1), at('15:00', day), at('14:00', '2026-11-25')).restoration).toMatchObject({
      over: 36 * HOUR + 23 * MINUTE,
      lateness: { runsFrom: null },
      pausedBy: 'no access',
    });
  });

  it('missed ones end with the order that is called off', () => {
    expect(derive([{ kind: 'called off', at: at('11:00') }], at('18:00')).response).toMatchObject({
      state: 'missed',
      stoppedAt: at('11:00'),
      over: 30 * MINUTE,
    });
  });

  it('count an event a little ahead of now, and derive the same at any later now', () => {
    const told: ClockEvent = { kind: 'told', at: at('10:29') };
    expect(derive([told], at('10:28')).response).toMatchObject({ state: 'met', stoppedAt: at('10:29'), left: MINUTE });
    const pause: ClockEvent = { kind: 'paused', at: at('10:29'), reason: 'no access' };
    expect(derive([pause], at('10:28')).response).toMatchObject({ state: 'paused', since: at('10:29'), left: MINUTE });
    const kinds = ['told', 'arrived', 'restored', 'paused', 'resumed', 'called off'] as const;
    const event = fc.record({ kind: fc.constantFrom(...kinds), minute: fc.integer({ min: 0, max: 3000 }) });
    fc.assert(
      fc.property(fc.array(event, { maxLength: 8 }), fc.nat(4000), fc.nat(4000), (drawn, one, other) => {
        const events = drawn.map(({ kind, minute }): ClockEvent => {
          const when = instant(at('10:00') + minute * MINUTE);
          return kind === 'paused' ? { kind, at: when, reason: 'no access' } : { kind, at: when };
        });
        const stopped = (minute: number) =>
          Object.values(derive(events, instant(at('10:00') + minute * MINUTE))).filter(
            (c) => c.state === 'met' || c.state === 'void' || (c.state === 'missed' && c.stoppedAt !== null),
          );
        expect(stopped(one)).toEqual(stopped(other));
      }),
    );
  });

  it('are late by exactly the running time since they were due', () => {
    fc.assert(
      fc.property(fc.array(fc.integer({ min: 0, max: 2000 }), { maxLength: 6 }), fc.nat(3000), (minutes, later) => {
        const events = [...minutes]
          .sort((a, b) => a - b)
          .map((m, i): ClockEvent => ({
            ...(i % 2 === 0 ? ({ kind: 'paused', reason: 'no access' } as const) : ({ kind: 'resumed' } as const)),
            at: instant(at('10:00') + m * MINUTE),
          }));
        const now = instant(Math.max(at('10:00') + later * MINUTE, ...events.map((e) => e.at)));
        const { restoration } = derive(events, now);
        if (restoration?.state !== 'missed') return;
        // Second way: minute by minute over everything since the start, less the promised length.
        let running = 0;
        for (let m = at('10:00') as number; m < now; m += MINUTE) {
          const last = events.findLast((e) => e.at <= m);
          if (!last || last.kind === 'resumed') running += MINUTE;
        }
        expect(restoration.over).toBe(running - 720 * MINUTE);
      }),
    );
  });

  it('are voided by calling off while running, not once missed', () => {
    const { response, arrival } = derive([{ kind: 'called off', at: at('11:00') }], at('12:00'));
    expect([response?.state, arrival?.state]).toEqual(['missed', 'void']);
  });

  it('owe no arrival once the asset is back in use from afar', () => {
    const { response, arrival, restoration } = derive([{ kind: 'restored', at: at('10:20') }], at('12:00'));
    expect([response?.state, arrival?.state, restoration?.state]).toEqual(['met', 'void', 'met']);
  });

  it('derive the same whatever order events were recorded in', () => {
    const events: ClockEvent[] = [
      { kind: 'told', at: at('10:20') },
      { kind: 'paused', at: at('10:40'), reason: 'no access' },
      { kind: 'resumed', at: at('11:40') },
      { kind: 'arrived', at: at('12:10') },
      { kind: 'restored', at: at('15:00') },
    ];
    fc.assert(
      fc.property(fc.shuffledSubarray(events, { minLength: 5 }), (shuffled) => {
        expect(derive(shuffled, at('16:00'))).toEqual(derive(events, at('16:00')));
      }),
    );
  });

  it('used and left always add up to the promise while neither missed nor void', () => {
    fc.assert(
      fc.property(
        fc.array(fc.integer({ min: 0, max: 2000 }), { maxLength: 6 }),
        fc.integer({ min: 0, max: 3000 }),
        (minutes, later) => {
          const events = [...minutes]
            .sort((a, b) => a - b)
            .map((m, i): ClockEvent => ({
              ...(i % 2 === 0 ? ({ kind: 'paused', reason: 'no access' } as const) : ({ kind: 'resumed' } as const)),
              at: instant(at('10:00') + m * MINUTE),
            }));
          const now = instant(Math.max(at('10:00') + later * MINUTE, ...events.map((e) => e.at)));
          for (const clock of Object.values(derive(events, now))) {
            if ('left' in clock) expect(clock.used + clock.left).toBe(clock.given.promise.minutes * MINUTE);
            if (clock.state === 'running')
              expect(timeOf(clock.given.promise).between(now, clock.dueAt)).toBe(clock.left);
          }
        },
      ),
    );
  });

  // Common practice: a promise of 24 h to respond and 48 h to resolve.
  it('24 h to respond and 48 h to resolve', () => {
    const given = strictestPromises(
      [
        {
          ...level,
          targets: {
            1: { response: { minutes: 1440, measure: 'elapsed' }, restoration: { minutes: 2880, measure: 'elapsed' } },
          },
        },
      ],
      1,
      at('10:00'),
      timeOf,
    );
    const [response, restoration] = deriveClocks(at('10:00'), [], given, timeOf, at('10:00'));
    expect(response).toMatchObject({ dueAt: at('10:00', '2026-11-25') });
    expect(restoration).toMatchObject({ dueAt: at('10:00', '2026-11-26') });
  });
});

describe('the strictest of several service levels', () => {
  it('is chosen per target by the due instant, not by the number of minutes', () => {
    const slow: ServiceLevel = {
      ...level,
      id: asId<ServiceLevelId>(2),
      targets: {
        1: { response: { minutes: 20, measure: 'working', calendarId }, arrival: { minutes: 60, measure: 'elapsed' } },
      },
    };
    const evening = strictestPromises([slow, level], 1, at('20:00'), timeOf);
    expect([
      evening.response?.serviceLevelId,
      evening.arrival?.serviceLevelId,
      evening.restoration?.serviceLevelId,
    ]).toEqual([1, 2, 1]);
    const morning = strictestPromises([slow, level], 1, at('10:00'), timeOf);
    expect(morning.response?.serviceLevelId).toBe(2);
    expect(strictestPromises([slow, level], 3, at('10:00'), timeOf)).toEqual({});
  });
});
