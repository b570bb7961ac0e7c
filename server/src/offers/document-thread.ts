// The task of an offer's paper that runs on a thread.
import type { OfferPage } from '#api/offers.ts';
import type { Answered } from '../platform/threads.ts';
import { offerDocument } from './document.ts';

export const draw = async (page: OfferPage): Promise<Answered<Uint8Array>> => ({ value: await offerDocument(page) });
