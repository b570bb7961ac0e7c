// A JSON file out, sent as it is read.
import { Readable } from 'node:stream';
import type { FastifyReply } from 'fastify';
import { begun } from './begun.ts';

/** Sends pieces of text. The first is read before the answer begins, so that what refuses it is the answer; what fails later cuts it short. */
export async function sendJsonFile(
  reply: FastifyReply,
  fileName: string,
  pieces: AsyncIterable<string>,
): Promise<never> {
  const body = Readable.from(await begun(pieces), { objectMode: false });
  body.on('error', (error) => reply.log.error({ err: error, fileName }, 'a file was cut short'));
  return reply
    .type('application/json; charset=utf-8')
    .header('content-disposition', `attachment; filename="${fileName}"`)
    .send(body) as never;
}
