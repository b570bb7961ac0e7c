// Levelling from the page's side: what the server gave as the core's problem, the worker, its progress, and what it proposes.
import { useEffect, useRef, useState } from 'react';
import type { Levelling, LevelVisit } from '#api/load.ts';
import { fromDayNumber, toDayNumber, type LocalDate } from '#core/time/index.ts';
import type { Levelled, LevelProblem, LevelProgress } from '#core/upkeep/index.ts';
import type { LevelAsk, LevelSaid } from './level.worker.ts';

/** The same seed gives the same answer. */
const SEED = 1;

export function problemOf({ visits, sites, depots, groups, fixed }: Levelling): LevelProblem {
  return {
    sites,
    depots: depots.map((d) => d.position),
    groups,
    fixed: fixed.map(({ week, ...f }) => ({ ...f, day: toDayNumber(week) })),
    visits: visits.map((v) => {
      const first = toDayNumber(v.from);
      return {
        day: toDayNumber(v.planned),
        days: [...v.days].flatMap((may, i) => (may === '1' ? [first + i] : [])),
        minutes: v.minutes,
        group: v.group,
        depot: v.depot,
        site: v.site,
        series: v.scheduleId,
      };
    }),
  };
}

export type ProposedMove = { readonly visit: LevelVisit; readonly index: number; readonly to: LocalDate };
export type Proposal = {
  readonly given: Levelling;
  readonly problem: LevelProblem;
  readonly levelled: Levelled;
  readonly moves: readonly ProposedMove[];
};

const movesOf = ({ visits }: Levelling, { days }: Levelled): ProposedMove[] =>
  visits.flatMap((visit, index) => {
    const to = fromDayNumber(days[index] as number);
    return to === visit.planned ? [] : [{ visit, index, to }];
  });

export type Evening =
  | { readonly state: 'idle' }
  | { readonly state: 'working'; readonly progress: LevelProgress | null }
  | { readonly state: 'failed' }
  | { readonly state: 'done'; readonly proposal: Proposal };

export function useLevelling() {
  const [evening, setEvening] = useState<Evening>({ state: 'idle' });
  const worker = useRef<Worker | null>(null);
  const end = (): void => {
    worker.current?.terminate();
    worker.current = null;
  };
  useEffect(() => end, []);
  const begin = (given: Levelling): void => {
    end();
    const problem = problemOf(given);
    const at = new Worker(new URL('./level.worker.ts', import.meta.url), { type: 'module' });
    worker.current = at;
    setEvening({ state: 'working', progress: null });
    at.onmessage = ({ data }: MessageEvent<LevelSaid>) => {
      if ('progress' in data) return setEvening({ state: 'working', progress: data.progress });
      end();
      const { levelled } = data;
      setEvening({ state: 'done', proposal: { given, problem, levelled, moves: movesOf(given, levelled) } });
    };
    at.onerror = () => {
      end();
      setEvening({ state: 'failed' });
    };
    at.postMessage({ problem, seed: SEED } satisfies LevelAsk);
  };
  const stop = (): void => {
    end();
    setEvening({ state: 'idle' });
  };
  return { evening, begin, stop };
}
