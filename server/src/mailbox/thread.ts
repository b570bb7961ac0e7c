// The task of mail that runs on a thread.
import type { Answered } from '../platform/threads.ts';
import { parseMail, type ReadMail } from './parse.ts';

export const parse = async ({ raw }: { readonly raw: Uint8Array }): Promise<Answered<ReadMail>> => ({
  value: await parseMail(raw),
});
