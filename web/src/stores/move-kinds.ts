// What was done to stock, in words.
import type { MoveOut } from '#api/stock.ts';

export const KINDS: Readonly<Record<MoveOut['kind'] | 'built in', string>> = {
  receipt: 'received',
  issue: 'taken for an order',
  return: 'brought back',
  transfer: 'carried',
  count: 'counted',
  scrap: 'thrown away',
  'to supplier': 'sent back to the supplier',
  variance: 'cents left over',
  'built in': 'built in',
};
