// Starts the server: configuration, migrations, routes; stops gracefully on SIGTERM and SIGINT.
import { sweepRenewals } from './agreements/index.ts';
import { buildApp } from './app.ts';
import { deriveAgain } from './orders/index.ts';
import { ConfigError, readConfig } from './platform/config.ts';
import { migrateDatabase, openDatabase } from './platform/database.ts';
import { ensureFinder } from './platform/finder-index.ts';
import { realNow } from './platform/http.ts';
import { sweepSessions } from './platform/sessions.ts';
import { sweepTries } from './people/index.ts';
import { FOUND } from './rooms.ts';

async function main(): Promise<void> {
  const config = readConfig(process.env);
  const database = openDatabase(config.databaseUrl);
  await migrateDatabase(database);
  await ensureFinder(database, FOUND);
  const app = await buildApp(config, database);
  await app.listen({ port: config.port, host: '127.0.0.1' });
  const sweep = setInterval(
    () =>
      void Promise.all([sweepSessions(database), sweepTries(database)]).catch((error: unknown) =>
        app.log.error({ err: error }, 'sweep'),
      ),
    3_600_000,
  );
  const renewals = (): void =>
    void sweepRenewals(database, realNow(config.fixedNow)()).catch((error: unknown) =>
      app.log.error({ err: error }, 'renewals'),
    );
  deriveAgain(database, realNow(config.fixedNow)()).then(
    (orders) => orders > 0 && app.log.info({ orders }, 'clocks derived again'),
    (error: unknown) => app.log.error({ err: error }, 'clocks'),
  );
  renewals();
  const renewing = setInterval(renewals, 600_000);
  // What nobody caught concerns one request; it is logged, and the others go on.
  process.on('uncaughtException', (error) => app.log.error({ err: error }, 'nobody caught this'));
  process.on('unhandledRejection', (error) => app.log.error({ err: error }, 'nobody caught this'));
  let stopping = false;
  const stop = async (signal: string): Promise<void> => {
    if (stopping) return;
    stopping = true;
    app.log.info({ signal }, 'stopping');
    clearInterval(sweep);
    clearInterval(renewing);
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
