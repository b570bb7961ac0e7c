// An offer as a paper, drawn on a thread.
import type { OfferPage } from '#api/offers.ts';
import { refusal } from '#core/refusal.ts';
import { onThreads } from '../platform/threads.ts';
import type * as tasks from './document-thread.ts';

const onThread = onThreads<typeof tasks>(
  new URL('./document-thread.ts', import.meta.url),
  refusal('too-large', 'The offer is too large to be drawn at once; make two of it.'),
);

export const drawOffer = async (page: OfferPage): Promise<Buffer> => Buffer.from(await onThread('draw', page));
