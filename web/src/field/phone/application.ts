// The application on the phone: kept by its service worker, and a newer one taken over when somebody says so.
const listeners = new Set<() => void>();
let waiting: ServiceWorker | null = null;

const found = (worker: ServiceWorker | null): void => {
  waiting = worker;
  for (const listener of listeners) listener();
};

/** Whether a newer version waits to take over. */
export const newerVersion = {
  subscribe: (listener: () => void): (() => void) => {
    listeners.add(listener);
    return () => listeners.delete(listener);
  },
  get: (): boolean => waiting !== null,
};

export function takeOver(): void {
  navigator.serviceWorker.addEventListener('controllerchange', () => location.reload(), { once: true });
  waiting?.postMessage('take over');
}

export function keepApplication(): void {
  if (!('serviceWorker' in navigator)) return;
  // Asked for, what is kept is not thrown away when the phone runs out of room.
  void navigator.storage?.persist?.();
  void navigator.serviceWorker.register('/field/worker.js', { scope: '/field/' }).then((registration) => {
    const isUpdate = (): boolean => navigator.serviceWorker.controller !== null;
    if (registration.waiting && isUpdate()) found(registration.waiting);
    registration.addEventListener('updatefound', () => {
      const coming = registration.installing;
      coming?.addEventListener('statechange', () => {
        if (coming.state === 'installed' && isUpdate()) found(coming);
      });
    });
    document.addEventListener('visibilitychange', () => {
      if (document.visibilityState === 'visible') void registration.update().catch(() => undefined);
    });
  });
}
