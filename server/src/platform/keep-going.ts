// What a server does over and over while it runs: at once again while there was something to do, else after a while.
import type { Going } from '../room.ts';

/** `step` gives how much it did; what breaks is handed to `failed`, and tried again after the while. */
export function keepGoing(step: () => Promise<number>, everyMs: number, failed: (error: unknown) => void): Going {
  let stopped = false;
  let timer: NodeJS.Timeout | null = null;
  let running: Promise<void> = Promise.resolve();
  const tick = (): void => {
    running = step()
      .catch((error: unknown) => {
        failed(error);
        return 0;
      })
      .then((done) => {
        if (!stopped) timer = setTimeout(tick, done === 0 ? everyMs : 0);
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
