// The task of signals that runs on a thread.
import type { BodyOf } from '#api/contract.ts';
import type { Tried, tryAlertRule } from '#api/alert-rules.ts';
import type { Instant } from '#core/time/index.ts';
import { answered } from '../platform/thread-work.ts';
import type { Answered } from '../platform/threads.ts';
import { tryRule } from './trying.ts';

export const tryOnThePast = ({
  url,
  ask,
  now,
}: {
  readonly url: string;
  readonly ask: BodyOf<typeof tryAlertRule>;
  readonly now: Instant;
}): Promise<Answered<{ tried: Tried; kept: Tried | null; leftOut: number }>> =>
  answered(url, ({ db }) => tryRule(db, ask, now));
