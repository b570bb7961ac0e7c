// Looks at finished orders and credit terms again while the server runs, as soon as something changed that they come to.
import type { FastifyBaseLogger } from 'fastify';
import type { House } from '../platform/http.ts';
import { keepGoing } from '../platform/keep-going.ts';
import type { Going } from '../room.ts';
import { lookAtCredit } from './credit.ts';
import { lookAtMarked } from './looks.ts';

const EVERY_MS = 1200;

export const keepLooking = ({ database, readNow }: House, log: FastifyBaseLogger): Going =>
  keepGoing(
    async () => {
      const [orders, customers] = await Promise.all([lookAtMarked(database), lookAtCredit(database, readNow())]);
      return orders + customers;
    },
    EVERY_MS,
    (error) => log.warn({ error }, 'finished orders or credit terms were not looked at; tried again'),
  );
