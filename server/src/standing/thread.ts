// Statements drawn on a thread: a year of a large customer is many pages. Run by the pool.
import type { CustomerId } from '#core/ids.ts';
import { answered } from '../platform/thread-work.ts';
import type { Answered } from '../platform/threads.ts';
import type { AskedPeriod } from './period.ts';
import { statementFacts } from './statement-facts.ts';
import { drawStatement } from './statement-paper.ts';

export type StatementAsk = { readonly url: string; readonly customer: CustomerId; readonly period: AskedPeriod };

export const statement = ({ url, customer, period }: StatementAsk): Promise<Answered<Uint8Array>> =>
  answered(url, async ({ db }) => drawStatement(await statementFacts(db, customer, period)));
