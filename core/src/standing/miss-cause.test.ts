// Why a promise was missed: the wait that made it late, or the first act that came after it had run out.
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { ELAPSED_TIME } from '../calendars/index.ts';
import {
  deriveClocks,
  PAUSE_REASONS,
  type ClockEvent,
  type PauseReason,
  type Target,
} from '../service-levels/index.ts';
import { instant, MINUTE } from '../time/index.ts';
import { causeOfMiss } from './miss-cause.ts';

const at = (minutes: number) => instant(Date.UTC(2026, 10, 2, 8) + minutes * MINUTE);
const NOW = at(10_000);
const told = (m: number): ClockEvent => ({ kind: 'told', at: at(m) });
const arrived = (m: number): ClockEvent => ({ kind: 'arrived', at: at(m) });
const restored = (m: number): ClockEvent => ({ kind: 'restored', at: at(m) });
const waits = (from: number, to: number, reason: PauseReason = 'waiting for parts'): ClockEvent[] => [
  { kind: 'paused', at: at(from), reason },
  { kind: 'resumed', at: at(to) },
];

function derived(target: Target, events: readonly ClockEvent[], pauses: readonly PauseReason[] = []) {
  const promise = { minutes: 240, measure: 'elapsed' } as const;
  const given = { [target]: { promise, pauses, serviceLevelId: 1 as never } };
  const [clock] = deriveClocks(at(0), events, given, () => ELAPSED_TIME, NOW);
  return clock;
}
function cause(target: Target, events: readonly ClockEvent[], pauses: readonly PauseReason[] = []) {
  const clock = derived(target, events, pauses);
  return clock?.state === 'missed' ? causeOfMiss(clock, events, ELAPSED_TIME) : clock?.state;
}

describe('the cause of a miss', () => {
  it.each([
    ['told after it had run out', 'response', [told(300)], 'nobody was told in time'],
    ['nobody told, and there too late', 'arrival', [arrived(300)], 'nobody was told in time'],
    ['told in time, there too late', 'arrival', [told(30), arrived(300)], 'came late'],
    ['told in time, there too late, mended', 'restoration', [told(30), arrived(250), restored(300)], 'came late'],
    ['there in time, mended too late', 'restoration', [told(30), arrived(60), restored(300)], 'work took longer'],
    [
      'a wait longer than the delay',
      'restoration',
      [told(30), arrived(60), ...waits(70, 140), restored(300)],
      'waiting for parts',
    ],
    [
      'a wait shorter than the delay',
      'restoration',
      [told(30), arrived(60), ...waits(70, 100), restored(300)],
      'work took longer',
    ],
    ['still open', 'restoration', [told(30), arrived(60)], null],
    ['met', 'restoration', [restored(240)], 'met'],
  ] as const)('%s', (_, target, events, says) => {
    expect(cause(target, events)).toBe(says);
  });

  it('is no wait that its service level allows: that does not count', () => {
    const events = [told(30), arrived(60), ...waits(70, 140), restored(400)];
    expect(cause('restoration', events, ['waiting for parts'])).toBe('work took longer');
  });

  it('of two waits is the longer one', () => {
    const events = [arrived(10), ...waits(20, 90, 'no access'), ...waits(100, 200), restored(300)];
    expect(cause('restoration', events)).toBe('waiting for parts');
  });

  it('a wait is said only where the promise was kept without it', () => {
    const reason = fc.constantFrom(...PAUSE_REASONS);
    fc.assert(
      fc.property(fc.nat(600), fc.nat(600), reason, fc.integer({ min: 241, max: 1500 }), (from, length, why, end) => {
        const events = [arrived(1), ...waits(from, from + length, why), restored(end)].toSorted((a, b) => a.at - b.at);
        const said = cause('restoration', events);
        const kept = derived('restoration', events, [why])?.state === 'met';
        if ((PAUSE_REASONS as readonly unknown[]).includes(said)) expect([said, kept]).toEqual([why, true]);
        else expect([said, kept]).toEqual(['work took longer', false]);
      }),
    );
  });
});
