// Packs as they come: SenML in JSON or CBOR (RFC 8428), and the tables of data loggers.
import { parse } from 'csv-parse/sync';
import { decode } from 'cborg';
import { packOfCbor, packOfRows } from '#core/signals/index.ts';
import { accept, refuse } from '../platform/refuse.ts';

/** A message may be this large. */
export const MOST_BYTES = 256 * 1024;
export type PackForm = 'json' | 'cbor' | 'csv';

/** What form bytes have that say nothing of it: a pack in JSON begins with a bracket, in CBOR with the mark of an array, else it is a table. */
export function formOf(bytes: Buffer): PackForm {
  const first = bytes[0] ?? 0;
  // Major type 4: an array of any length. RFC 8949, section 3.
  if (first >= 0x80 && first <= 0x9f) return 'cbor';
  return /^\s*[[{]/.test(bytes.subarray(0, 64).toString('utf8')) ? 'json' : 'csv';
}

/** The separator that the first line has more of. */
const delimiterOf = (text: string): string => {
  const [head = ''] = text.split('\n', 1);
  return head.split(';').length > head.split(',').length ? ';' : ',';
};

/** Bytes as a pack, for `takePack`. Refused: what is no such thing. */
export function readBytes(bytes: Buffer, form: PackForm, device: string | null = null): unknown {
  if (bytes.length > MOST_BYTES)
    refuse(
      'too-large',
      `A message holds at most ${MOST_BYTES / 1024} kB; this one has ${Math.ceil(bytes.length / 1024)}.`,
      'pack',
    );
  if (form === 'cbor') {
    try {
      return packOfCbor(decode(bytes, { useMaps: true, allowBigInt: false, rejectDuplicateMapKeys: true }));
    } catch (error) {
      return refuse('malformed', `That is no CBOR: ${(error as Error).message}.`, 'pack');
    }
  }
  const text = bytes.toString('utf8');
  if (form === 'json') {
    try {
      return JSON.parse(text) as unknown;
    } catch {
      return refuse('malformed', 'That is no JSON; a SenML pack is an array of records.', 'pack');
    }
  }
  try {
    const rows = parse(text, {
      bom: true,
      delimiter: delimiterOf(text),
      relax_column_count: true,
      skip_empty_lines: true,
      trim: true,
    });
    return accept(packOfRows(rows, device));
  } catch (error) {
    if (error instanceof Error && 'code' in error)
      return refuse('malformed', `That is no table: ${error.message}.`, 'pack');
    throw error;
  }
}
