// What works out rotas, on a thread: a week of a large house takes half a minute of nothing but reckoning. Run by the pool.
import type { RotaPlanId } from '#core/ids.ts';
import type { Instant } from '#core/time/index.ts';
import { answered } from '../platform/thread-work.ts';
import type { Answered } from '../platform/threads.ts';
import { keepWorkedOut } from './planning.ts';

export type RotaAsk = { readonly url: string; readonly id: RotaPlanId; readonly now: Instant };
export const plan = ({ url, id, now }: RotaAsk): Promise<Answered<string>> =>
  answered(url, (database) => keepWorkedOut(database, id, now));
