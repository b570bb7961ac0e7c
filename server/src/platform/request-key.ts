// Request keys: the same request sent again gives the first answer; a key used again for something else is refused.
import { createHash } from 'node:crypto';
import { refuse } from './refuse.ts';

const inOrder = (value: unknown): unknown =>
  Array.isArray(value)
    ? value.map(inOrder)
    : typeof value === 'object' && value !== null
      ? Object.fromEntries(
          Object.entries(value)
            .filter(([, held]) => held !== undefined)
            .sort(([a], [b]) => (a < b ? -1 : 1))
            .map(([key, held]) => [key, inOrder(held)]),
        )
      : value;

/** What a request asks, as one short text; the order in which its fields were written does not matter. */
export const contentOf = (ask: object): string =>
  createHash('sha256')
    .update(JSON.stringify(inOrder(ask)))
    .digest('hex');

/** Refuses a key that was used for another content. Rows from before contents were kept are taken as the same. */
export function mustBeSame(held: string | null, asked: string): void {
  if (held !== null && held !== asked)
    refuse('conflict', 'This request key was used for something else already; send a new key.', 'requestKey');
}
