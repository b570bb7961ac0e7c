// One throw-away MariaDB for all server tests; each file makes its own database on it.
import { rm } from 'node:fs/promises';
import { join } from 'node:path';
import type { TestProject } from 'vitest/node';
import { buildServer } from '../../commands/build-server.ts';
import { freePort, startDatabase, throwAwayFolder } from '../../commands/mariadb.ts';
import { makeTemplate } from './template.ts';

declare module 'vitest' {
  interface ProvidedContext {
    databaseUrl: string;
    databaseSocket: string;
    template: string;
  }
}

export default async function setup(project: TestProject): Promise<() => Promise<void>> {
  await buildServer();
  const folder = await throwAwayFolder();
  const database = await startDatabase(folder, await freePort(), 'throw-away');
  project.provide('databaseUrl', database.url);
  project.provide('template', await makeTemplate(database.url));
  project.provide('databaseSocket', join(folder, 'run', 'm.sock'));
  return async () => {
    await database.stop();
    await rm(folder, { recursive: true, force: true });
  };
}
