// Live updates: the server names what changed, and the views that show it fetch it again.
import { useEffect } from 'react';
import { useDispatch } from 'react-redux';
import { server, TAGS, type Tag } from './store.ts';

const GATHER_MS = 1500;

export function useLiveUpdates(): void {
  const dispatch = useDispatch();
  useEffect(() => {
    const source = new EventSource('/api/live');
    const waiting = new Set<Tag>();
    let timer: ReturnType<typeof setTimeout> | null = null;
    source.addEventListener('changed', (event: MessageEvent<string>) => {
      for (const tag of JSON.parse(event.data) as string[])
        if ((TAGS as readonly string[]).includes(tag)) waiting.add(tag as Tag);
      timer ??= setTimeout(() => {
        timer = null;
        dispatch(server.util.invalidateTags([...waiting]));
        waiting.clear();
      }, GATHER_MS);
    });
    return () => {
      source.close();
      if (timer) clearTimeout(timer);
    };
  }, [dispatch]);
}
