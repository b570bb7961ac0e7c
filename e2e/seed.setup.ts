// Before any journey: the demo's world made once, for every journey to begin with a copy of its own.
import { startDemo } from '../commands/demo.ts';
import { freePort } from '../commands/mariadb.ts';
import { demoOf, seedFolder } from './looking.ts';

export default async function makeSeed(): Promise<void> {
  const house = await startDemo(demoOf(seedFolder, await freePort()));
  await house.stop();
}
