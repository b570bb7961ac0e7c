// How alerts behave: how many come, how long they stand, which come again and again, and what came of them.
import { DAY, HOUR, instant, MINUTE, type Instant, type InstantSpan } from '../time/index.ts';
import { CHATTERING, crowdedIn } from './telling.ts';

/** An alert as figures see it. */
export type Counted = {
  readonly ruleId: number;
  readonly assetId: number;
  readonly from: Instant;
  readonly to: Instant | null;
  readonly toldAt: Instant | null;
  readonly acknowledgedAt: Instant | null;
  readonly isWithdrawn: boolean;
};
export type Worst = {
  readonly ruleId: number;
  readonly assetId: number;
  readonly alerts: number;
  /** In seconds, within the period. */
  readonly seconds: number;
  readonly chatters: boolean;
};
export type AlertRates = {
  readonly alerts: number;
  readonly perHour: number;
  readonly mostInTenMinutes: number;
  /** Share of the period's ten minutes that held more than ten starts. */
  readonly floodShare: number;
  /** Active for more than a day. */
  readonly standing: number;
  /** Pairs of a rule and a machine that chattered. */
  readonly chattering: number;
  readonly withdrawn: number;
  readonly heldBack: number;
  readonly toAnswerSeconds: number | null;
  readonly top: readonly Worst[];
};

const TEN_MINUTES = 10 * MINUTE;
/** More than ten starts in ten minutes are more than one person can answer. Source: EEMUA 191. */
const TOO_MANY = 10;
const TOP = 10;

/** The middle of some numbers, the lower of two; null: there are none. */
function medianOf(values: readonly number[]): number | null {
  const sorted = [...values].sort((a, b) => a - b);
  return sorted[Math.floor((sorted.length - 1) / 2)] ?? null;
}

/**
 * Figures of the alerts that started in [from, to), withdrawn ones only counted as such. Rates per hour of the period; ten minutes are
 * counted in steps from its begin. Source: IEC 62682, section on monitoring; EEMUA 191 (per ten minutes, standing, chattering, top ten).
 */
export function alertRates(all: readonly Counted[], { from, to }: InstantSpan, now: Instant): AlertRates {
  const within = all.filter((a) => a.from >= from && a.from < to);
  const own = within.filter((a) => !a.isWithdrawn);
  const tens = new Map<number, number>();
  for (const a of own) {
    const ten = Math.floor((a.from - from) / TEN_MINUTES);
    tens.set(ten, (tens.get(ten) ?? 0) + 1);
  }
  const pairs = new Map<string, Counted[]>();
  for (const a of own) {
    const key = `${a.ruleId}/${a.assetId}`;
    pairs.set(key, [...(pairs.get(key) ?? []), a]);
  }
  const lasted = (a: Counted): number => Math.min(a.to ?? now, to, now) - a.from;
  const worst = [...pairs.values()].map((alerts): Worst => ({
    ...{ ruleId: (alerts[0] as Counted).ruleId, assetId: (alerts[0] as Counted).assetId, alerts: alerts.length },
    seconds: Math.round(alerts.reduce((sum, a) => sum + Math.max(0, lasted(a)), 0) / 1000),
    chatters:
      crowdedIn(
        alerts.map((a) => a.from),
        CHATTERING,
      ).length > 0,
  }));
  return {
    alerts: own.length,
    perHour: (own.length * HOUR) / (to - from),
    mostInTenMinutes: Math.max(0, ...tens.values()),
    floodShare:
      [...tens.values()].filter((n) => n > TOO_MANY).length / Math.max(1, Math.ceil((to - from) / TEN_MINUTES)),
    standing: own.filter((a) => lasted(a) > DAY).length,
    chattering: worst.filter((w) => w.chatters).length,
    withdrawn: within.length - own.length,
    heldBack: own.filter((a) => a.toldAt === null).length,
    toAnswerSeconds: medianOf(
      own.flatMap((a) =>
        a.toldAt !== null && a.acknowledgedAt !== null ? [Math.round((a.acknowledgedAt - a.toldAt) / 1000)] : [],
      ),
    ),
    top: worst
      .sort((a, b) => b.alerts - a.alerts || b.seconds - a.seconds || a.ruleId - b.ruleId || a.assetId - b.assetId)
      .slice(0, TOP),
  };
}

/** A value against the one before: steady within a twentieth of the band it is watched in, or of what it is. */
export function trendOf(value: number, before: number, band: number | null): 'rising' | 'steady' | 'falling' {
  const least = Math.abs(band ?? value) / 20;
  const by = value - before;
  if (Math.abs(by) <= least) return 'steady';
  return by > 0 ? 'rising' : 'falling';
}

/** Whole days back from an instant. */
export const daysBefore = (now: Instant, days: number): InstantSpan => ({ from: instant(now - days * DAY), to: now });
