// The task of an agreement's paper that runs on a thread.
import type { AgreementPage } from '#api/agreements/index.ts';
import type { Answered } from '../platform/threads.ts';
import type { DocumentFacts } from './document-facts.ts';
import { agreementDocument } from './document.ts';

type Ask = { readonly page: AgreementPage; readonly facts: DocumentFacts };
export const draw = async ({ page, facts }: Ask): Promise<Answered<Uint8Array>> => ({
  value: await agreementDocument(page, facts),
});
