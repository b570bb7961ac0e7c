// Work on threads: looking for what runs low, every night and when somebody asks for it, and papers.
import type { PurchasePage } from '#api/purchases.ts';
import { refusal } from '#core/refusal.ts';
import { jobKind, NOTHING } from '../platform/job-kind.ts';
import { onThreads } from '../platform/threads.ts';
import type * as thread from './thread.ts';

const onThread = onThreads<Pick<typeof thread, 'lookForLow' | 'drawPurchase'>>(
  new URL('./thread.mjs', import.meta.url),
  refusal('too-large', 'So much cannot be gone through at once.'),
);

export const drawPurchase = async (page: PurchasePage): Promise<Buffer> =>
  Buffer.from(await onThread('drawPurchase', page));

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
