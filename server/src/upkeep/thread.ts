// What works out runs, on a thread: every schedule of the house is loaded and asked for its visits. Run by the pool.
import type { UpkeepRun } from '#api/upkeep.ts';
import type { Instant, LocalDate } from '#core/time/index.ts';
import type { Person } from '../platform/http.ts';
import { answered } from '../platform/thread-work.ts';
import type { Answered } from '../platform/threads.ts';
import type { VisitKey } from './hold.ts';
import { lookOut } from './outlook.ts';
import { previewRun } from './preview.ts';
import { commitRun, type Commit } from './raise.ts';

export type PreviewAsk = { readonly url: string; readonly to: LocalDate; readonly today: LocalDate };
export const preview = ({ url, to, today }: PreviewAsk): Promise<Answered<UpkeepRun>> =>
  answered(url, ({ db }) => previewRun(db, to, today));

export type CommitAsk = PreviewAsk & {
  readonly only: readonly VisitKey[] | null;
  readonly who: Person;
  readonly now: Instant;
};
export const commit = ({ url, to, only, who, now, today }: CommitAsk): Promise<Answered<Commit>> =>
  answered(url, (database) => commitRun(database, to, only, who, now, today));

export type LookAsk = { readonly url: string; readonly today: LocalDate };
export const look = ({ url, today }: LookAsk): Promise<Answered<number>> =>
  answered(url, (database) => lookOut(database, today));
