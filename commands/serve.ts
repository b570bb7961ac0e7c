// ./stavok serve: a real, empty installation.
import { openDatabase } from '#server/platform/database.ts';
import { isLoaded } from '#demo/load.ts';
import { folderOf, openHouse, portOf, untilEnded } from './house.ts';

export async function run(): Promise<void> {
  const house = await openHouse({
    folder: folderOf('serve'),
    port: portOf(),
    demo: false,
    durability: 'lasting',
    now: process.env.STAVOK_NOW,
  });
  const database = openDatabase(house.databaseUrl, 1);
  const peopled = await isLoaded(database);
  await database.close();
  process.stdout.write(
    `\nStavok: ${house.address}\n${peopled ? '' : 'Nobody can sign in yet: run ./stavok admin --email you@example.org --name "Your Name" in another terminal.\n'}Ctrl+C stops everything.\n`,
  );
  await untilEnded(house);
}
