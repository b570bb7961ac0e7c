// ./stavok admin: the first administrator, created from the command line.
import { createInterface } from 'node:readline/promises';
import { parseArgs } from 'node:util';
import { eq } from 'drizzle-orm';
import * as v from 'valibot';
import { personIn } from '#api/session.ts';
import { instant, parseZone } from '#core/time/index.ts';
import { hashPassword } from '#server/platform/auth.ts';
import { migrateDatabase, openDatabase } from '#server/platform/database.ts';
import { person } from '#server/tables.ts';
import { runningDatabaseUrl } from './house.ts';

async function askPassword(): Promise<string> {
  const line = createInterface({ input: process.stdin, output: process.stderr });
  const typed = await line.question('Password (at least 12 characters): ');
  line.close();
  return typed;
}

export async function run(args: string[]): Promise<void> {
  const { values } = parseArgs({
    args,
    options: {
      email: { type: 'string' },
      name: { type: 'string' },
      zone: { type: 'string', default: 'Europe/Lisbon' },
    },
  });
  const read = v.safeParse(personIn, {
    email: values.email ?? '',
    name: values.name ?? '',
    role: 'administrator',
    zone: values.zone,
    password: process.env.STAVOK_PASSWORD ?? (await askPassword()),
  });
  if (!read.success) throw new Error(read.issues.map((i) => `--${v.getDotPath(i)}: ${i.message}`).join('\n'));
  const zone = parseZone(read.output.zone);
  if (!zone)
    throw new Error(`--zone: “${read.output.zone}” is not a known time zone; use a name such as Europe/Lisbon.`);
  const database = openDatabase(await runningDatabaseUrl('serve'), 1);
  try {
    await migrateDatabase(database);
    const existing = await database.db
      .select({ email: person.email })
      .from(person)
      .where(eq(person.role, 'administrator'))
      .limit(1);
    if (existing[0])
      throw new Error(`There is an administrator already (${existing[0].email}); further people are added in Setup.`);
    await database.db.insert(person).values({
      email: read.output.email,
      name: read.output.name,
      role: 'administrator',
      zone,
      passwordHash: await hashPassword(read.output.password),
      createdAt: instant(Date.now()),
    });
  } finally {
    await database.close();
  }
  process.stdout.write(`${read.output.name} can sign in as ${read.output.email}.\n`);
}
