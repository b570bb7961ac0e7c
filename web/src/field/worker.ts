// The service worker of Field: the application itself comes from the phone, whatever the network does.
import { cleanupOutdatedCaches, createHandlerBoundToURL, precacheAndRoute } from 'workbox-precaching';
import { NavigationRoute, registerRoute } from 'workbox-routing';

/** What of a service worker's world is used here; the rest of the program runs in pages. */
declare const self: {
  /** The files of this build, put in when it is built. */
  readonly __FIELD_FILES: { readonly url: string; readonly revision: string | null }[];
  skipWaiting(): Promise<void>;
  readonly clients: { claim(): Promise<void> };
  addEventListener(type: 'message', listener: (event: { readonly data: unknown }) => void): void;
  addEventListener(type: 'activate', listener: (event: { waitUntil(done: Promise<void>): void }) => void): void;
};

precacheAndRoute(self.__FIELD_FILES);
cleanupOutdatedCaches();
// Every page of Field is the same one; everything else goes to the server.
registerRoute(new NavigationRoute(createHandlerBoundToURL('/field/index.html'), { allowlist: [/^\/field(?:\/|$)/] }));

// A new version waits until it is asked to take over: nothing changes under somebody's hands.
self.addEventListener('message', ({ data }) => {
  if (data === 'take over') void self.skipWaiting();
});
self.addEventListener('activate', (event) => event.waitUntil(self.clients.claim()));
