// ./stavok recompute: works a statement out again from its own data file, without a database.
import { readFile } from 'node:fs/promises';
import { recompute, STATEMENT_FORM, type StatementData } from '#core/standing/index.ts';

const SHOWN = 50;

/** Reads a file; what is no statement is refused in words. */
async function read(path: string): Promise<StatementData> {
  const text = await readFile(path, 'utf8').catch(() => {
    throw new Error(`There is no file ${path} that can be read.`);
  });
  let data: Partial<StatementData>;
  try {
    data = JSON.parse(text) as Partial<StatementData>;
  } catch {
    throw new Error(`${path} is no JSON: it was cut short, or is another file.`);
  }
  if (data.form !== STATEMENT_FORM || !Array.isArray(data.clocks) || !Array.isArray(data.calendars))
    throw new Error(`${path} is no statement of form ${STATEMENT_FORM}.`);
  return data as StatementData;
}

export async function run([path]: string[]): Promise<void> {
  if (path === undefined) throw new Error('Name the file of a statement: ./stavok recompute FILE.json');
  const data = await read(path);
  const { clocks, attainment, differences } = recompute(data);
  const { met, missed } = attainment;
  process.stdout.write(`${data.customer}, ${data.from} to ${data.to}, as of ${data.asOf}\n`);
  process.stdout.write(`${clocks} clocks worked out again: ${met} met, ${missed} missed\n`);
  if (differences.length === 0) process.stdout.write('Every one comes out as it is stated.\n');
  else {
    process.stdout.write(`${differences.length} come out otherwise:\n`);
    for (const line of differences.slice(0, SHOWN)) process.stdout.write(`  ${line}\n`);
    process.exitCode = 1;
  }
}
