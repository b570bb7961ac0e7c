// Levelling a year: seconds in a thread of its own, the peak against a lower bound and against the plain greedy way.
import { Worker } from 'node:worker_threads';
import {
  levelled,
  measureLoad,
  mondayOf,
  type Levelled,
  type LevelProblem,
  type LoadVisit,
} from '#core/upkeep/index.ts';
import { toDayNumber, asLocalDate } from '#core/time/index.ts';
import { sized } from './size.ts';
import { rounded, secondsOf } from './stopwatch.ts';

const VISITS = sized(5000, 120);
const SEED = 20_261_124;

/** Numbers from 0 to 1 that are the same each time. */
function drawn(seed: number): () => number {
  let state = seed;
  return () => (state = (state * 48_271) % 2_147_483_647) / 2_147_483_647;
}

/** A year whose visits crowd in spring, at sites around two depots, each with a window of some weeks. */
function yearOf(visits: number): LevelProblem {
  const random = drawn(SEED);
  const first = mondayOf(toDayNumber(asLocalDate('2026-11-23')));
  const isOpen = (day: number): boolean => (day + 3) % 7 < 5;
  const sites = Array.from({ length: Math.ceil(visits / 16) }, (_, i) => ({
    latitude: (i % 2 === 0 ? 41.2 : 41.9) + random() * 0.6,
    longitude: -7.5 + random() * 1.2,
  }));
  return {
    sites,
    depots: [
      { latitude: 41.5, longitude: -7 },
      { latitude: 42.2, longitude: -7 },
    ],
    groups: 8,
    fixed: [],
    visits: Array.from({ length: visits }, (_, i): LoadVisit => {
      // Two of five lie in spring, weeks 14 to 26; the others anywhere.
      const week = random() < 0.4 ? 14 + Math.floor(random() * 12) : Math.floor(random() * 52);
      const day = first + week * 7 + Math.floor(random() * 5);
      const [early, late] = [7 + Math.floor(random() * 14), 7 + Math.floor(random() * 21)];
      const days = Array.from({ length: early + late + 1 }, (_, k) => day - early + k).filter(
        (d) => d >= first && d < first + 364 && isOpen(d),
      );
      const site = Math.floor(random() * sites.length);
      const minutes = 30 * (1 + Math.floor(random() * 8));
      return { day, days, minutes, site, depot: site % 2, group: (site % 2) * 4 + (i % 4), series: i };
    }),
  };
}

/** The plain way: in due order, each into the emptiest week of its window. */
function greedy({ visits }: LevelProblem): number[] {
  const weeks = new Map<number, number>();
  const days = visits.map((v) => v.day);
  const order = visits.map((_, i) => i).sort((a, b) => (visits[a]?.day as number) - (visits[b]?.day as number));
  for (const i of order) {
    const { days: may, day, minutes } = visits[i] as LoadVisit;
    const load = (d: number): number => weeks.get(mondayOf(d)) ?? 0;
    const best = may.reduce((a, b) => (load(b) < load(a) ? b : a), may[0] ?? day);
    days[i] = best;
    weeks.set(mondayOf(best), load(best) + minutes);
  }
  return days;
}

/** In a thread, as the browser does it in a worker. */
function inThread(problem: LevelProblem): Promise<Levelled> {
  return new Promise((resolve, reject) => {
    const worker = new Worker(new URL('./level-thread.mjs', import.meta.url), { workerData: { problem, seed: SEED } });
    worker.once('message', resolve);
    worker.once('error', reject);
  });
}

const said = ({ peakMinutes, spreadMinutes, km }: Levelled['before']) => ({
  peakHours: rounded(peakMinutes / 60),
  spreadHours: rounded(spreadMinutes / 60),
  kilometres: Math.round(km),
});

export async function measure(): Promise<unknown> {
  const problem = yearOf(VISITS);
  let found: Levelled | null = null;
  const seconds = await secondsOf(async () => {
    found = await inThread(problem);
  });
  const { before, after, days, boundMinutes } = found as unknown as Levelled;
  let plain: number[] = [];
  const plainSeconds = await secondsOf(() => {
    plain = greedy(problem);
  });
  const again = levelled(problem, SEED);
  return {
    bench: 'level',
    visits: VISITS,
    weeks: 52,
    seconds: rounded(seconds),
    wanted: '≤ 10 s, in a thread',
    before: said(before),
    after: said(after),
    peakLowerBy: `${rounded((1 - after.peakMinutes / before.peakMinutes) * 100)} %`,
    lowerBoundHours: rounded(boundMinutes / 60),
    aboveBound: `${rounded((after.peakMinutes / boundMinutes - 1) * 100)} %`,
    sameAnswerAgain: again.days.join() === days.join(),
    reference: {
      what: 'greedy: in due order, each into the emptiest week of its window; same run',
      seconds: rounded(plainSeconds),
      ...said(measureLoad(problem, plain)),
    },
    ratio: rounded(after.peakMinutes / measureLoad(problem, plain).peakMinutes),
  };
}
