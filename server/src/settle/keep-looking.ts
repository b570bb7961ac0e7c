// Looks at finished orders and credit terms again while the server runs, as soon as something changed that they come to.
import type { FastifyBaseLogger } from 'fastify';
import type { House } from '../platform/http.ts';
import type { Going } from '../room.ts';
import { lookAtCredit } from './credit.ts';
import { lookAtMarked } from './looks.ts';

const EVERY_MS = 1200;

export function keepLooking({ database, readNow }: House, log: FastifyBaseLogger): Going {
  let stopped = false;
  let timer: NodeJS.Timeout | null = null;
  let running: Promise<void> = Promise.resolve();
  const tick = (): void => {
    running = Promise.all([lookAtMarked(database), lookAtCredit(database, readNow())])
      .then(([orders, customers]) => orders + customers)
      .catch((error: unknown) => {
        log.warn({ error }, 'finished orders or credit terms were not looked at; tried again');
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
