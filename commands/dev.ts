// ./stavok dev: the demo; the web application follows its files at once, the server is begun anew when one of its own changes.
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
    watch: true,
  });
  const vite = await createServer({ configFile: join(ROOT, 'web/vite.config.ts') });
  await vite.listen();
  process.stdout.write(
    `\nServer: ${house.address} (begun anew after changes)\nWeb:    http://127.0.0.1:${portOf() + 1}\n`,
  );
  await untilEnded(house);
  await vite.close();
}
