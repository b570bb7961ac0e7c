// Looks at finished orders again while the server runs, as soon as something changed that they come to.
import type { FastifyBaseLogger } from 'fastify';
import type { House } from '../platform/http.ts';
import type { Going } from '../room.ts';
import { lookAtMarked } from './looks.ts';

const EVERY_MS = 1200;

export function keepLooking({ database }: House, log: FastifyBaseLogger): Going {
  let stopped = false;
  let timer: NodeJS.Timeout | null = null;
  let running: Promise<void> = Promise.resolve();
  const tick = (): void => {
    running = lookAtMarked(database)
      .catch((error: unknown) => {
        log.warn({ error }, 'finished orders were not looked at; tried again');
        return 0;
      })
      .then((looked) => {
        if (!stopped) timer = setTimeout(tick, looked === 0 ? EVERY_MS : 0);
      });
  };
  tick();
  return {
    async stop() {
      stopped = true;
      if (timer) clearTimeout(timer);
      await running;
    },
  };
}
