// What plugs in.
import { listJobs } from '#api/jobs.ts';
import type { Room } from '../shell/room.ts';

export const jobs: Room = {
  name: 'jobs',
  setup: [{ path: 'jobs', word: 'Jobs', shown: listJobs, load: async () => (await import('./jobs.tsx')).Jobs }],
};
