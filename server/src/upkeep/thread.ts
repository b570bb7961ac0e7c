// What works out plans and raises visits, on a thread: thousands of schedules are loaded and asked for their visits. Run by the pool.
import type { FacilityOutcome } from '#api/facility.ts';
import type { Levelling, Load } from '#api/load.ts';
import type { YearPlan } from '#api/year.ts';
import type { UpkeepRun } from '#api/upkeep.ts';
import type { RunId } from '#core/ids.ts';
import type { Instant, LocalDate } from '#core/time/index.ts';
import type { Decision, RunScope, VisitKey } from '#core/upkeep/index.ts';
import type { Person } from '../platform/http.ts';
import { answered } from '../platform/thread-work.ts';
import type { Answered } from '../platform/threads.ts';
import { decideVisits, type Acting } from './decide.ts';
import { previewFacility, type FacilityAsk } from './facility.ts';
import { keepPlanned, type PlanWanted } from './planning.ts';
import { readLevelling, readLoad } from './load.ts';
import { moveVisits, type Moving } from './moves.ts';
import { previewRun } from './preview.ts';
import type { PageAsk } from './proposals.ts';
import { carryOutRun } from './runs.ts';
import { drawYear } from './year/document.ts';
import { readFeed } from './year/feeds.ts';
import { readYear } from './year/plan.ts';

export type PreviewAsk = {
  readonly url: string;
  readonly to: LocalDate;
  readonly today: LocalDate;
  readonly scope: RunScope;
  readonly page: PageAsk;
};
export const preview = ({ url, page, ...ask }: PreviewAsk): Promise<Answered<UpkeepRun>> =>
  answered(url, (database) => previewRun(database, ask, page));

export type DecideAsk = Acting & {
  readonly url: string;
  readonly visits: readonly VisitKey[];
  readonly decision: Decision;
};
export const decide = ({ url, visits, decision, ...acting }: DecideAsk): Promise<Answered<number>> =>
  answered(url, (database) => decideVisits(database, visits, decision, acting));

export type RaiseAsk = { readonly url: string; readonly id: RunId; readonly who: Person };
export const raise = ({ url, id, who }: RaiseAsk): Promise<Answered<null>> =>
  answered(url, async (database) => {
    await carryOutRun(database, id, who);
    return null;
  });

export type PlanningAsk = PlanWanted & { readonly url: string };
export const plan = ({ url, ...wanted }: PlanningAsk): Promise<Answered<number>> =>
  answered(url, (database) => keepPlanned(database, wanted));

export type LevellingAsk = { readonly url: string; readonly scope: RunScope; readonly today: LocalDate };
export const levelling = ({ url, scope, today }: LevellingAsk): Promise<Answered<Levelling>> =>
  answered(url, (database) => readLevelling(database, scope, today));
export const load = ({ url, scope, today }: LevellingAsk): Promise<Answered<Load>> =>
  answered(url, (database) => readLoad(database, scope, today));

export type MoveAsk = Moving & { readonly url: string; readonly moves: Parameters<typeof moveVisits>[1] };
export const move = ({ url, moves, ...moving }: MoveAsk): Promise<Answered<Awaited<ReturnType<typeof moveVisits>>>> =>
  answered(url, (database) => moveVisits(database, moves, moving));

export type YearAsk = LevellingAsk & { readonly year: number };
export const year = ({ url, scope, year: of, today }: YearAsk): Promise<Answered<YearPlan>> =>
  answered(url, (database) => readYear(database, scope, of, today));
export const yearDocument = ({ url, scope, year: of, today }: YearAsk): Promise<Answered<Uint8Array>> =>
  answered(url, async (database) => drawYear(await readYear(database, scope, of, today)));

export type FacilityPreviewAsk = { readonly url: string; readonly ask: FacilityAsk; readonly today: LocalDate };
export const facility = ({ url, ask, today }: FacilityPreviewAsk): Promise<Answered<FacilityOutcome>> =>
  answered(url, (database) => previewFacility(database, ask, today));

export type FeedAsk = { readonly url: string; readonly secret: string; readonly now: Instant };
export const feed = ({ url, secret, now }: FeedAsk): Promise<Answered<string>> =>
  answered(url, (database) => readFeed(database, secret, now));
