// The cover lane: bands of warranties and coverage lines, with the notice dates of their agreements.
import { inArray } from 'drizzle-orm';
import type { CoverBand } from '#api/ribbon.ts';
import type { AgreementId, AssetId } from '#core/ids.ts';
import type { LocalDate } from '#core/time/index.ts';
import { agreement } from '../agreements/tables.ts';
import type { Db } from '../platform/database.ts';
import type { CoverSubject } from './covers.ts';

function bandsOf(subject: CoverSubject, notices: ReadonlyMap<AgreementId, LocalDate | null>): CoverBand[] {
  return subject.covers.flatMap((cover): CoverBand[] => {
    if (cover.kind === 'warranty')
      return [
        {
          label: cover.label,
          kind: 'warranty',
          from: cover.term.from,
          to: cover.term.to,
          agreementId: null,
          noticeBy: null,
        },
      ];
    const kind = cover.stage === 'draft' ? 'draft' : cover.stage === 'suspended' ? 'suspended' : 'agreement';
    const from = cover.term.from > cover.agreementTerm.from ? cover.term.from : cover.agreementTerm.from;
    const ends = [cover.term.to, cover.agreementTerm.to].filter((d): d is LocalDate => d !== null).sort();
    return [
      {
        label: cover.label,
        kind,
        from,
        to: ends[0] ?? null,
        agreementId: cover.agreementId,
        noticeBy: notices.get(cover.agreementId) ?? null,
      },
    ];
  });
}

export async function coverBands(
  db: Db,
  subjects: ReadonlyMap<AssetId, CoverSubject>,
): Promise<Map<AssetId, CoverBand[]>> {
  const ids = [
    ...new Set(
      [...subjects.values()].flatMap((s) =>
        s.covers.flatMap((c) => (c.kind === 'coverage line' ? [c.agreementId] : [])),
      ),
    ),
  ];
  const notices =
    ids.length === 0
      ? []
      : await db
          .select({ id: agreement.id, noticeBy: agreement.noticeBy })
          .from(agreement)
          .where(inArray(agreement.id, ids));
  const noticeOf = new Map(notices.map((n) => [n.id, n.noticeBy]));
  return new Map([...subjects].map(([id, subject]) => [id, bandsOf(subject, noticeOf)]));
}
