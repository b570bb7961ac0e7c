// Working time: adding and measuring over 8 h, 5 d and 90 d against the package opening_hours, holidays and night spans included.
import { workingTimeOf, type Calendar, type WorkingTime } from '#core/calendars/index.ts';
import { asLocalDate, asZone, HOUR, instant, MINUTE, toInstant, type Instant } from '#core/time/index.ts';
import { rounded, secondsOf } from './stopwatch.ts';

const ZONE = 'Europe/Lisbon';
const HOLIDAYS = ['2026-01-01', '2026-04-03', '2026-06-04', '2026-06-10', '2026-10-05', '2026-12-08', '2026-12-25'];
const MONTH_NAMES = ['Jan', 'Feb', 'Mar', 'Apr', 'May', 'Jun', 'Jul', 'Aug', 'Sep', 'Oct', 'Nov', 'Dec'];
const WEEK = [1, 2, 3, 4, 5, 6, 7];
/** The night case has no holidays: the reference ends a night at midnight when a holiday follows, ours runs on to its end (domain: Working time). */
const CALENDARS: { name: string; weekly: Calendar['weekly']; text: string; holidays: readonly string[] }[] = [
  {
    name: 'office days',
    weekly: WEEK.map((d) => (d <= 5 ? [{ from: 540, to: 1080 }] : [])),
    text: 'Mo-Fr 09:00-18:00',
    holidays: HOLIDAYS,
  },
  {
    name: 'night spans',
    weekly: WEEK.map((d) => (d <= 5 ? [{ from: 1320, to: 360 }] : [])),
    text: 'Mo-Fr 22:00-06:00',
    holidays: [],
  },
];
const SPANS: [string, number, number][] = [
  ['8 h', 8 * HOUR, 12],
  ['5 d', 45 * HOUR, 8],
  ['90 d', 580 * HOUR, 3],
];

type OpeningHours = {
  getOpenDuration(from: Date, to: Date): [number, number];
  getNextChange(from: Date): Date | undefined;
  getState(at: Date): boolean;
};

async function referenceOf(text: string, holidays: readonly string[]): Promise<OpeningHours> {
  const { default: Package } = (await import('opening_hours')) as unknown as {
    default: new (value: string, place: object) => OpeningHours;
  };
  const closed = holidays
    .map((d) => `; ${d.slice(0, 4)} ${MONTH_NAMES[Number(d.slice(5, 7)) - 1]} ${d.slice(8)} off`)
    .join('');
  return new Package(`${text}${closed}`, { address: { country_code: 'pt', state: '' } });
}

/** The reference has no addition: from one change to the next, as its documentation does. */
function addByReference(reference: OpeningHours, from: Date, milliseconds: number): Date {
  let [at, left] = [from, milliseconds];
  for (let i = 0; i < 2000; i += 1) {
    const next = reference.getNextChange(at);
    if (!next) throw new Error('no further change');
    if (reference.getState(at)) {
      const open = next.getTime() - at.getTime();
      if (open >= left) return new Date(at.getTime() + left);
      left -= open;
    }
    at = next;
  }
  throw new Error('too many changes');
}

const startsOf = (n: number): Instant[] =>
  Array.from({ length: n }, (_, i) =>
    instant(
      toInstant(asZone(ZONE), { date: asLocalDate('2026-01-05'), minutes: 0 }) +
        ((i * 7919) % 250) * 24 * HOUR +
        ((i * 37) % 1440) * MINUTE,
    ),
  );

async function measureCase(time: WorkingTime, reference: OpeningHours, length: number, references: number) {
  const starts = startsOf(20_000);
  for (const t of starts) time.add(t, length);
  const addSeconds = await secondsOf(() => {
    for (let round = 0; round < 10; round += 1) for (const t of starts) time.add(t, length);
  });
  const ends = starts.map((t) => time.add(t, length) as Instant);
  const betweenSeconds = await secondsOf(() => {
    for (let round = 0; round < 10; round += 1)
      for (let i = 0; i < starts.length; i += 1) time.between(starts[i] as Instant, ends[i] as Instant);
  });
  const chosen = startsOf(references);
  let differing = 0;
  const referenceAdds: number[] = [];
  const referenceAddSeconds = await secondsOf(() => {
    for (const t of chosen) referenceAdds.push(addByReference(reference, new Date(t), length).getTime());
  });
  const referenceBetween: number[] = [];
  const referenceBetweenSeconds = await secondsOf(() => {
    chosen.forEach((t, i) =>
      referenceBetween.push(reference.getOpenDuration(new Date(t), new Date(referenceAdds[i] as number))[0]),
    );
  });
  chosen.forEach((t, i) => {
    if (
      time.add(t, length) !== referenceAdds[i] ||
      Math.abs(time.between(t, instant(referenceAdds[i])) - (referenceBetween[i] as number)) > 0
    )
      differing += 1;
  });
  const [adds, betweens] = [(starts.length * 10) / addSeconds, (starts.length * 10) / betweenSeconds];
  const [referenceAddRate, referenceBetweenRate] = [
    references / referenceAddSeconds,
    references / referenceBetweenSeconds,
  ];
  return {
    addsPerSecond: rounded(adds),
    referenceAddsPerSecond: rounded(referenceAddRate),
    addRatio: rounded(adds / referenceAddRate),
    betweensPerSecond: rounded(betweens),
    referenceBetweensPerSecond: rounded(referenceBetweenRate),
    betweenRatio: rounded(betweens / referenceBetweenRate),
    compared: references,
    differing,
  };
}

export async function measure(): Promise<unknown> {
  // The reference counts in the zone of the process.
  process.env.TZ = ZONE;
  const cases = [];
  for (const { name, weekly, text, holidays } of CALENDARS) {
    const time = workingTimeOf({
      name,
      zone: asZone(ZONE),
      weekly,
      closed: holidays.map((d) => ({ date: asLocalDate(d), name: 'holiday' })),
      extraOpen: [],
    });
    const reference = await referenceOf(text, holidays);
    for (const [span, length, references] of SPANS)
      cases.push({ calendar: name, span, ...(await measureCase(time, reference, length, references)) });
  }
  return {
    bench: 'working-time',
    zone: ZONE,
    reference: 'package opening_hours, same run; its additions go from change to change',
    cases,
    lowestRatioAt90Days: Math.min(
      ...cases.filter((c) => c.span === '90 d').flatMap((c) => [c.addRatio, c.betweenRatio]),
    ),
    wanted: '≥ 1000 at 90 d',
  };
}
