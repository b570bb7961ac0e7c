// The agreement as a document, drawn on a thread: hundreds of machines take longer than others should wait.
import type { AgreementPage } from '#api/agreements/index.ts';
import { refusal } from '#core/refusal.ts';
import { onThreads } from '../platform/threads.ts';
import type { DocumentFacts } from './document-facts.ts';
import type * as tasks from './document-thread.ts';

type Drawn = { readonly page: AgreementPage; readonly facts: DocumentFacts };

const onThread = onThreads<typeof tasks>(
  new URL('./document-thread.ts', import.meta.url),
  refusal('too-large', 'The agreement is too large to be drawn at once; take its coverage as CSV.'),
);

export const drawDocument = async (ask: Drawn): Promise<Buffer> => Buffer.from(await onThread('draw', ask));
