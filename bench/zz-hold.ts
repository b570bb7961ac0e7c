import { existsSync, writeFileSync } from 'node:fs';
import { fill } from './standing.ts';
import { sumMonths } from '#server/standing/index.ts';
import { inWorld, NOW } from './world.ts';
await inWorld(async (w) => {
  await fill(w.database);
  const t = Date.now();
  await sumMonths(w.database, NOW);
  writeFileSync('/tmp/hold.json', JSON.stringify({ url: w.url, figures: w.figures, sums: Date.now() - t }));
  while (!existsSync('/tmp/hold.stop')) await new Promise((r) => setTimeout(r, 1000));
});
process.exit(0);
