// The rooms: the one list on the web. A new room is its folder and one line here.
import { agreements } from './agreements/room.ts';
import { assets } from './assets/room.ts';
import { customers } from './customers/room.ts';
import { finderOver } from './finder/room.tsx';
import { imports } from './imports/room.ts';
import { jobs } from './jobs/room.ts';
import { labour } from './labour/room.ts';
import { mailbox } from './mailbox/room.ts';
import { offers } from './offers/room.ts';
import { orders } from './orders/room.ts';
import { outbox } from './outbox/room.ts';
import { places } from './places/room.ts';
import { register } from './register/room.ts';
import { rota } from './rota/room.ts';
import { setup } from './setup/room.ts';
import { settle } from './settle/room.ts';
import type { Room } from './shell/room.ts';
import { signals } from './signals/room.ts';
import { standing } from './standing/room.ts';
import { stores } from './stores/room.ts';
import { today } from './today/room.ts';
import { upkeep } from './upkeep/room.ts';

/** In the order of the rail. */
const STANDING: readonly Room[] = [
  today,
  register,
  customers,
  places,
  assets,
  imports,
  agreements,
  upkeep,
  signals,
  mailbox,
  orders,
  offers,
  labour,
  rota,
  stores,
  settle,
  standing,
  setup,
  outbox,
  jobs,
];
export const ROOMS: readonly Room[] = [...STANDING, finderOver(STANDING)];
