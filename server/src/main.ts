// Starts the server: configuration, migrations, routes, jobs; stops gracefully on SIGTERM and SIGINT.
import { buildApp } from './app.ts';
import { ConfigError, readConfig } from './platform/config.ts';
import { migrateDatabase, openDatabase } from './platform/database.ts';
import { ensureFinder } from './platform/finder-index.ts';
import { startJobClock } from './platform/job-clock.ts';
import { FOUND, ROOMS } from './rooms.ts';

async function main(): Promise<void> {
  const config = readConfig(process.env);
  const database = openDatabase(config.databaseUrl);
  await migrateDatabase(database);
  await ensureFinder(database, FOUND);
  const app = await buildApp(config, database, ROOMS);
  await app.listen({ port: config.port, host: '127.0.0.1' });
  const clock = await startJobClock(
    database,
    ROOMS.flatMap((room) => room.jobs ?? []),
    (error) => app.log.error({ err: error }, 'job clock'),
  );
  // What nobody caught concerns one request; it is logged, and the others go on.
  process.on('uncaughtException', (error) => app.log.error({ err: error }, 'nobody caught this'));
  process.on('unhandledRejection', (error) => app.log.error({ err: error }, 'nobody caught this'));
  let stopping = false;
  const stop = async (signal: string): Promise<void> => {
    if (stopping) return;
    stopping = true;
    app.log.info({ signal }, 'stopping');
    clock.stop();
    // Open event streams would hold the server; after a grace period it goes anyway.
    const force = setTimeout(() => process.exit(0), 5000);
    force.unref();
    await app.close();
    await database.close();
    process.exit(0);
  };
  process.on('SIGTERM', (signal) => void stop(signal));
  process.on('SIGINT', (signal) => void stop(signal));
}

main().catch((error: unknown) => {
  if (error instanceof ConfigError) process.stderr.write(`${error.message}\n`);
  else console.error(error);
  process.exit(1);
});
