// Standing as a file, exactly as it is shown: every row, with what was pledged where it is by agreement.
import type { StandingBy, StandingRow } from '#api/standing.ts';
import type { AgreementId } from '#core/ids.ts';
import { sayAmountOf } from '#core/money.ts';
import type { Db } from '../platform/database.ts';
import type { Told, Within } from './counting.ts';
import type { AskedPeriod } from './period.ts';
import { pledgesOf, pledging } from './pledges.ts';
import { standingPage, toldOf } from './queries.ts';

const FILE_PAGE = 1000;

const PLEDGE_HEAD = ['credit owed', 'currency', 'availability agreed %', 'availability %'];
const NOT_PLEDGED = PLEDGE_HEAD.map(() => '');

const percent = (share: number | null): string => (share === null ? '' : (share * 100).toFixed(1));

export const headOf = (by: StandingBy): string[] => [
  'number',
  by,
  'customer',
  'promises met',
  'promises missed',
  'attainment %',
  'visits owed',
  'visits in window',
  'upkeep in window %',
  'declined',
  ...(by === 'agreement' ? PLEDGE_HEAD : []),
];

/** What was pledged to these agreements and came of it, in cells of a file. */
async function pledgedOf(db: Db, ids: readonly number[], period: AskedPeriod): Promise<Map<number, string[]>> {
  const told = new Map<number, string[]>();
  for (const id of await pledging(db, ids as AgreementId[])) {
    const pledges = await pledgesOf(db, id, period);
    const credit = pledges.reduce((sum, p) => sum + p.amount, 0);
    const available = pledges.flatMap((p) => (p.availability ? [p.availability] : []));
    told.set(id, [
      pledges.length === 0 ? '' : sayAmountOf(credit, pledges[0]?.currency).replaceAll(',', ''),
      pledges[0]?.currency ?? '',
      available.map((a) => (a.target / 100).toFixed(2)).join('; '),
      available.map((a) => percent(a.share)).join('; '),
    ]);
  }
  return told;
}

/** The rows of the whole file, piece by piece. */
export async function* rowsOf(db: Db, by: StandingBy, period: AskedPeriod, within: Within) {
  for (let after: Told | null = null; ;) {
    const page: StandingRow[] = await standingPage(db, by, period, { after, limit: FILE_PAGE, within });
    const pledged =
      by !== 'agreement'
        ? null
        : await pledgedOf(
            db,
            page.map((r) => r.id),
            period,
          );
    yield page.map((r) => [
      r.detail,
      r.label,
      r.customer,
      r.met,
      r.missed,
      percent(r.attainment),
      r.owed,
      r.inWindow,
      percent(r.compliance),
      r.declined,
      ...(pledged ? (pledged.get(r.id) ?? NOT_PLEDGED) : []),
    ]);
    const last = page.at(-1);
    if (page.length < FILE_PAGE || !last) return;
    after = toldOf(last);
  }
}
