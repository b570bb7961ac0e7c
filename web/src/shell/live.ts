// Live updates: the server names what changed, and the views that show it fetch it again. All tabs of a browser share one connection.
import { useEffect } from 'react';
import { useDispatch } from 'react-redux';
import { THINGS, type Thing } from '#api/contract.ts';
import { server } from './store.ts';

const GATHER_MS = 1500;
/** Name of the lock that the listening tab holds, and of the channel by which it tells the others. */
const SHARED = 'stavok-live';

/** Listens until `ended`; gives the tags of each change. */
function listen(ended: AbortSignal, changed: (tags: string[]) => void): Promise<void> {
  return new Promise((done) => {
    const source = new EventSource('/api/live');
    source.addEventListener('changed', (event: MessageEvent<string>) => changed(JSON.parse(event.data) as string[]));
    ended.addEventListener('abort', () => {
      source.close();
      done();
    });
  });
}

/**
 * A browser keeps six connections to a server over HTTP/1.1, so a tab each would leave none for work. The tab that has the lock
 * listens and tells the others; when it closes, the next one gets the lock. Without locks (no secure context) each listens itself.
 */
function listenShared(ended: AbortSignal, changed: (tags: string[]) => void): void {
  if (!('locks' in navigator)) return void listen(ended, changed);
  const channel = new BroadcastChannel(SHARED);
  channel.onmessage = (event: MessageEvent<string[]>) => changed(event.data);
  ended.addEventListener('abort', () => channel.close());
  const begun = Date.now();
  navigator.locks
    .request(SHARED, { signal: ended }, () => {
      // Whoever waited for the lock may have missed what changed while nobody listened.
      if (Date.now() - begun > GATHER_MS) changed([...THINGS]);
      return listen(ended, (tags) => {
        changed(tags);
        channel.postMessage(tags);
      });
    })
    .catch(() => undefined);
}

export function useLiveUpdates(): void {
  const dispatch = useDispatch();
  useEffect(() => {
    const ending = new AbortController();
    const waiting = new Set<Thing>();
    let timer: ReturnType<typeof setTimeout> | null = null;
    listenShared(ending.signal, (tags) => {
      for (const tag of tags) if ((THINGS as readonly string[]).includes(tag)) waiting.add(tag as Thing);
      timer ??= setTimeout(() => {
        timer = null;
        dispatch(server.util.invalidateTags([...waiting]));
        waiting.clear();
      }, GATHER_MS);
    });
    return () => {
      ending.abort();
      if (timer) clearTimeout(timer);
    };
  }, [dispatch]);
}
