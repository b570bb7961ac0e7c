// What an order waits for, and until when where that is known.
import type { LooseOrder } from '#api/rota.ts';
import { sayDate } from '../parts/words.ts';

export const sayWaits = ({ waitingFor, partsOn }: Pick<LooseOrder, 'waitingFor' | 'partsOn'>): string =>
  waitingFor === null ? '' : `waits: ${waitingFor}${partsOn === null ? '' : `, here on ${sayDate(partsOn)}`}`;
