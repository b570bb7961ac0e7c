// A visit as a row.
import type { Owed } from './owed.ts';

export const VISIT_COLUMNS = [
  'schedule_id',
  'nominal',
  'part',
  'asset_id',
  'agreement_id',
  'due',
  'window_from',
  'window_to',
  'state',
  'claim',
];

export function visitValues({ row, visit: v }: Owed, state: 'held' | 'raised', claim: string | null): unknown[] {
  return [
    row.schedule.id,
    v.nominal,
    1,
    row.schedule.assetId,
    row.agreement.id,
    v.due,
    v.windowFrom,
    v.windowTo,
    state,
    claim,
  ];
}
