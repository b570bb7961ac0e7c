// An offer as a paper, drawn on a thread.
import type { OfferPage } from '#api/offers.ts';
import { refusal } from '#core/refusal.ts';
import { onThreads, type Answered } from '../platform/threads.ts';

const onThread = onThreads<{ draw(page: OfferPage): Promise<Answered<Uint8Array>> }>(
  new URL('./document-thread.mjs', import.meta.url),
  refusal('too-large', 'The offer is too large to be drawn at once; make two of it.'),
);

export const drawOffer = async (page: OfferPage): Promise<Buffer> => Buffer.from(await onThread('draw', page));
