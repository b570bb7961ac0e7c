// The service worker of Field: the application itself comes from the phone, whatever the network does.
import { cleanupOutdatedCaches, createHandlerBoundToURL, precacheAndRoute } from 'workbox-precaching';
import { NavigationRoute, registerRoute } from 'workbox-routing';

/** What of a service worker's world is used here; the rest of the program runs in pages. */
declare const self: {
  /** The files of this build, put in when it is built. */
  readonly __FIELD_FILES: { readonly url: string; readonly revision: string | null }[];
  skipWaiting(): Promise<void>;
  readonly clients: {
    claim(): Promise<void>;
    matchAll(of: { type: 'window' }): Promise<readonly (Page & { readonly url: string })[]>;
    openWindow(url: string): Promise<unknown>;
  };
  addEventListener(type: 'message', listener: (event: { readonly data: unknown }) => void): void;
  addEventListener(type: 'activate', listener: (event: { waitUntil(done: Promise<void>): void }) => void): void;
  addEventListener(type: 'push', listener: (event: Pushed) => void): void;
  addEventListener(type: 'notificationclick', listener: (event: Clicked) => void): void;
  readonly registration: Pick<ServiceWorkerRegistration, 'showNotification'>;
};
type Pushed = { readonly data: { json(): unknown } | null; waitUntil(done: Promise<void>): void };
type Clicked = { readonly notification: { close(): void }; waitUntil(done: Promise<unknown>): void };
type Page = { focus(): Promise<unknown> };

precacheAndRoute(self.__FIELD_FILES);
cleanupOutdatedCaches();
// Every page of Field is the same one; everything else goes to the server.
registerRoute(new NavigationRoute(createHandlerBoundToURL('/field/index.html'), { allowlist: [/^\/field(?:\/|$)/] }));

// A new version waits until it is asked to take over: nothing changes under somebody's hands.
self.addEventListener('message', ({ data }) => {
  if (data === 'take over') void self.skipWaiting();
});
self.addEventListener('activate', (event) => event.waitUntil(self.clients.claim()));

// What the office tells is shown whether Field is open or not; pressed, it opens the day.
self.addEventListener('push', (event) => {
  const said = (event.data?.json() ?? {}) as { title?: unknown; body?: unknown; tag?: unknown };
  const words = (of: unknown, fallback: string): string => (typeof of === 'string' && of !== '' ? of : fallback);
  event.waitUntil(
    self.registration.showNotification(words(said.title, 'Your appointments changed'), {
      body: words(said.body, ''),
      tag: words(said.tag, 'field'),
      icon: '/field/icon-192.png',
    }),
  );
});
self.addEventListener('notificationclick', (event) => {
  event.notification.close();
  event.waitUntil(
    self.clients.matchAll({ type: 'window' }).then((pages) => {
      const open = pages.find((p) => new URL(p.url).pathname.startsWith('/field'));
      return open ? open.focus() : self.clients.openWindow('/field/');
    }),
  );
});
