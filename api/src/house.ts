// The house on the wire: the numbers beside the rooms.
import * as v from 'valibot';
import { contract } from './contract.ts';

export const readCounts = contract({
  method: 'GET',
  path: '/api/counts',
  summary: 'The numbers beside the rooms, by the room’s name',
  room: 'house',
  may: 'signed in',
  reads: ['orders', 'upkeep', 'agreements', 'signals'],
  answer: v.record(v.string(), v.number()),
});
