// What the core needs to know of an agreement to say where its renewal stands.
import type { RenewalFacts } from '#core/agreements/index.ts';
import type { AgreementRow } from './lines.ts';

export const renewalFactsOf = (row: AgreementRow): RenewalFacts => ({
  stage: row.stage,
  term: { from: row.termFrom, to: row.termTo },
  noticeDays: row.noticeDays,
  mode: row.renewalMode,
  months: row.renewalMonths,
  decision: row.renewalDecision,
});
