// Work on threads: looking for what runs low, every night and when somebody asks for it, and papers.
import type { PurchasePage } from '#api/purchases.ts';
import { refusal } from '#core/refusal.ts';
import type { ListRead, PartRow, ShelfRow } from '#core/stores/index.ts';
import { jobKind, NOTHING } from '../platform/job-kind.ts';
import { onThreads } from '../platform/threads.ts';
import type * as thread from './thread.ts';

const onThread = onThreads<
  Pick<typeof thread, 'lookForLow' | 'drawPurchase' | 'workOutFigures' | 'readPartsIn' | 'readShelvesIn'>
>(new URL('./thread.ts', import.meta.url), refusal('too-large', 'So much cannot be gone through at once.'));

export const drawPurchase = async (page: PurchasePage): Promise<Buffer> =>
  Buffer.from(await onThread('drawPurchase', page));

/** A list read from a file; refused: what is no CSV at all. */
export const readPartsIn = (text: string): Promise<ListRead<PartRow>> => onThread('readPartsIn', text);
export const readShelvesIn = (text: string): Promise<ListRead<ShelfRow>> => onThread('readShelvesIn', text);

export const LOOKING_FOR_LOW = 'look for what runs low';
export const lookingForLow = jobKind({
  kind: LOOKING_FOR_LOW,
  says: 'Look through all stores for parts that run low',
  every: { cron: '40 3 * * *', says: 'every night' },
  ask: NOTHING,
  async run({ config, readNow }, _, { signal }) {
    const n = await onThread('lookForLow', { url: config.databaseUrl, now: readNow() }, signal);
    return `${n} ${n === 1 ? 'part runs' : 'parts run'} low`;
  },
});

export const WORKING_OUT = 'figures of stores';
export const workingOutFigures = jobKind({
  kind: WORKING_OUT,
  says: 'Work out how stores do: turnover, and what nothing is taken of',
  every: { cron: '10 4 * * *', says: 'every night' },
  ask: NOTHING,
  async run({ config, readNow }, _, { signal }) {
    const n = await onThread('workOutFigures', { url: config.databaseUrl, now: readNow() }, signal);
    return `${n} ${n === 1 ? 'store' : 'stores'}`;
  },
});
