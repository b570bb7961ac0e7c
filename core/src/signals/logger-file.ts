// What data loggers write: plain tables of values with their times, brought to the form of a pack.
import { decided, refusal, refused, type Decided } from '../refusal.ts';

type Cells = readonly string[];
type Column = { readonly channel: string; readonly unit: string | null; readonly at: number };

const wordOf = (head: string): string => head.trim().toLowerCase();
/** `chamber [Cel]`: a channel with its unit. */
function columnOf(head: string, at: number): Column {
  const [, channel = head, unit] = /^(.*?)\s*\[(.*)\]$/.exec(head.trim()) ?? [];
  return { channel: channel.trim(), unit: unit?.trim() ?? null, at };
}

/** Seconds since 1970, or a time with its offset: without one nobody knows which hour of a night with a clock change it was. */
function secondsOf(text: string): number | null {
  if (/^\d{9,11}(\.\d+)?$/.test(text)) return Number(text);
  if (!/^\d{4}-\d\d-\d\d[T ]\d\d:\d\d(:\d\d(\.\d+)?)?\s?(Z|[+-]\d\d:?\d\d)$/.test(text)) return null;
  const ms = Date.parse(text.replace(' ', 'T').replace(/\s/, ''));
  return Number.isNaN(ms) ? null : ms / 1000;
}

/** A number, with a point or a comma; yes and no; else a word. */
function valueOf(text: string): { readonly v: number } | { readonly vb: boolean } | { readonly vs: string } {
  if (/^[+-]?(\d+([.,]\d*)?|[.,]\d+)(e[+-]?\d+)?$/i.test(text)) return { v: Number(text.replace(',', '.')) };
  if (/^(true|false)$/i.test(text)) return { vb: text.toLowerCase() === 'true' };
  return { vs: text };
}

/**
 * Rows of a logger's file as records of a pack, for `readPack` to judge. The head names `time`, and `device` unless all of it is of one;
 * then either `channel`, `value` and perhaps `unit`, or one column for each channel, its unit in square brackets. Cells that are empty
 * say nothing. Refused: no such head. A row whose time cannot be read becomes a record without one that can.
 */
export function packOfRows([head, ...rows]: readonly Cells[], device: string | null): Decided<unknown[]> {
  const heads = (head ?? []).map(wordOf);
  const [time, named] = [heads.indexOf('time'), heads.indexOf('device')];
  if (time < 0) return refused(refusal('malformed', 'The first row names the columns; one of them is “time”.', 'pack'));
  if (named < 0 && device === null)
    return refused(
      refusal('malformed', 'One column is “device”, or the address says whose file it is (?device=…).', 'pack'),
    );
  const [channel, value, unit] = ['channel', 'value', 'unit'].map((name) => heads.indexOf(name)) as [
    number,
    number,
    number,
  ];
  const isLong = channel >= 0 && value >= 0;
  const columns = (head ?? []).flatMap((text, at) =>
    at === time || at === named || text.trim() === '' ? [] : [columnOf(text, at)],
  );
  if (!isLong && columns.length === 0)
    return refused(
      refusal('malformed', 'Beside “time” there is a column for each channel, or “channel” and “value”.', 'pack'),
    );
  return decided(
    rows.flatMap((cells): unknown[] => {
      const cell = (at: number): string => (cells[at] ?? '').trim();
      const of = named >= 0 ? cell(named) : (device ?? '');
      const seconds = secondsOf(cell(time));
      const record = (name: string, u: string | null, text: string): unknown => ({
        n: `${of}:${name}`,
        // What is no time is left as it stands: it is named with its record.
        t: seconds ?? cell(time),
        ...(u ? { u } : {}),
        ...valueOf(text),
      });
      if (isLong) return cell(value) === '' ? [] : [record(cell(channel), unit >= 0 ? cell(unit) : null, cell(value))];
      return columns.flatMap((c) => (cell(c.at) === '' ? [] : [record(c.channel, c.unit, cell(c.at))]));
    }),
  );
}
