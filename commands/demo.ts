// ./stavok demo: the invented world, served.
import { existsSync } from 'node:fs';
import { readFile, rename, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { parseInstant, instant } from '#core/time/index.ts';
import { loadDemo } from '#demo/load.ts';
import { DEMO_PASSWORD, emailOf } from '#demo/people.ts';
import { PEOPLE } from '#demo/scenario.ts';
import { migrateDatabase, openDatabase } from '#server/platform/database.ts';
import { startDevicePage } from '#standins/device-page.ts';
import { startDevices, type SimulatedDevice } from '#standins/devices.ts';
import { folderOf, openHouse, portOf, told, untilEnded, type RunningHouse } from './house.ts';
import type { Durability } from './mariadb.ts';

export type DemoOptions = {
  readonly folder: string;
  readonly port: number;
  readonly now?: string | undefined;
  readonly fresh?: boolean;
  readonly durability?: Durability;
  readonly log?: string;
  readonly watch?: boolean;
  /** Where a trouble can be started by hand. */
  readonly onDevices?: (url: string) => void;
};

/** Starts the demo; fills its database when it is empty. With a fixed clock the devices keep still. */
export async function startDemo(options: DemoOptions): Promise<RunningHouse> {
  const devicesFile = join(options.folder, 'devices.json');
  return openHouse({
    folder: options.folder,
    port: options.port,
    demo: true,
    durability: options.durability ?? 'lasting',
    now: options.now,
    ...(options.fresh && { fresh: true }),
    ...(options.log && { log: options.log }),
    ...(options.watch && { watch: true }),
    async prepare(private_, brokerUrl) {
      // Written once the world is whole: a start that was cut off in the middle begins it anew.
      const whole = existsSync(devicesFile);
      if (!whole) {
        await private_.drop('stavok');
        await private_.create('stavok');
      }
      const database = openDatabase(private_.url, 4);
      try {
        await migrateDatabase(database);
        if (!whole) {
          const fixed = options.now ? parseInstant(options.now) : null;
          if (options.now && fixed === null)
            throw new Error(`STAVOK_NOW must name its offset, such as 2026-03-17T09:20:00Z, not “${options.now}”.`);
          const world = await told('Making the demo world', () => loadDemo(database, fixed ?? instant(Date.now())));
          await writeFile(`${devicesFile}.making`, JSON.stringify(world.devices));
          await rename(`${devicesFile}.making`, devicesFile);
          process.stderr.write(
            `Made: ${Object.entries(world.figures)
              .map(([what, n]) => `${n} ${what}`)
              .join(', ')}.\n`,
          );
        }
      } finally {
        await database.close();
      }
      if (options.now || !existsSync(devicesFile)) return null;
      const simulation = startDevices(brokerUrl, JSON.parse(await readFile(devicesFile, 'utf8')) as SimulatedDevice[]);
      const page = await startDevicePage(simulation);
      options.onDevices?.(page.url);
      return {
        async stop() {
          await page.stop();
          await simulation.stop();
        },
      };
    },
  });
}

export async function run(args: string[]): Promise<void> {
  let devices = '';
  const house = await startDemo({
    onDevices: (url) => (devices = `Troubles of the simulated devices are started at ${url}\n`),
    folder: folderOf('demo'),
    port: portOf(),
    now: process.env.STAVOK_NOW,
    fresh: args.includes('--fresh'),
  });
  const people = PEOPLE.filter((p, i) => PEOPLE.findIndex((o) => o.role === p.role) === i);
  if (args.includes('--once')) {
    process.stdout.write(`Stavok demo answers at ${house.address}.\n`);
    return house.stop();
  }
  process.stdout.write(
    `\nStavok demo: ${house.address}\nOne click on a name signs in, or the password “${DEMO_PASSWORD}” with:\n${people.map((p) => `  ${p.role.padEnd(14)} ${emailOf(p.name)}`).join('\n')}\nMail to us is taken at ${house.mailbox}, whatever its address.\n${devices}Interface description: ${house.address}/api/docs\nCtrl+C stops everything.\n`,
  );
  await untilEnded(house);
}
