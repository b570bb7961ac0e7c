// CSV out: RFC 4180 with a byte order mark, sent as it is read; text that a spreadsheet would run stays text.
import { pipeline, Readable } from 'node:stream';
import { stringify } from 'csv-stringify';
import type { FastifyReply } from 'fastify';
import { harmlessCell } from '#core/csv.ts';
import { begun } from './begun.ts';

export type Cell = string | number | null;

/**
 * Sends pages of rows until one comes empty. The first page is read before the answer begins, so that what refuses it is the
 * answer; what fails later cuts the file short, which is logged.
 */
export async function sendCsv(
  reply: FastifyReply,
  fileName: string,
  head: readonly string[],
  pages: AsyncIterable<readonly (readonly Cell[])[]>,
): Promise<never> {
  const all = await begun(pages);
  async function* records(): AsyncGenerator<string[]> {
    yield [...head];
    for await (const page of all)
      for (const row of page) yield row.map((cell) => (cell === null ? '' : harmlessCell(String(cell))));
  }
  const body = stringify({ record_delimiter: '\r\n', bom: true });
  pipeline(Readable.from(records()), body, (error) => {
    if (error) reply.log.error({ err: error, fileName }, 'a file was cut short');
  });
  return reply
    .type('text/csv; charset=utf-8')
    .header('content-disposition', `attachment; filename="${fileName}"`)
    .send(body) as never;
}

/** Pages of a keyset-paged list, one after the other. */
export async function* pagesOf<T>(
  read: (after: string | undefined) => Promise<{ readonly items: readonly T[]; readonly next: string | null }>,
): AsyncGenerator<readonly T[]> {
  for (let after: string | undefined; ;) {
    const { items, next } = await read(after);
    yield items;
    if (next === null) return;
    after = next;
  }
}
