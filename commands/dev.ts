// ./stavok dev: the demo, with the web application rebuilt as files change.
import { join } from 'node:path';
import { createServer } from 'vite';
import { folderOf, portOf, ROOT, untilEnded } from './house.ts';
import { startDemo } from './demo.ts';

export async function run(args: string[]): Promise<void> {
  const house = await startDemo({
    folder: folderOf('demo'),
    port: portOf(),
    now: process.env.STAVOK_NOW,
    fresh: args.includes('--fresh'),
  });
  const vite = await createServer({ configFile: join(ROOT, 'web/vite.config.ts') });
  await vite.listen();
  process.stdout.write(
    `\nServer: ${house.address} (restart after changes below server/)\nWeb:    http://127.0.0.1:${portOf() + 1}\n`,
  );
  await untilEnded(house);
  await vite.close();
}
