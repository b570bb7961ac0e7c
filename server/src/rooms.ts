// The rooms of the house: the one list on the server. A new room is its folder and one line here.
import { agreements } from './agreements/index.ts';
import { assets } from './assets/index.ts';
import { calendars } from './calendars/index.ts';
import { catalogue } from './catalogue/index.ts';
import { customers } from './customers/index.ts';
import { entitlement } from './entitlement/index.ts';
import { depots } from './depots/index.ts';
import { field } from './field/index.ts';
import { finder } from './finder/index.ts';
import { imports } from './imports/index.ts';
import { jobs } from './jobs/index.ts';
import { labour } from './labour/index.ts';
import { mailbox } from './mailbox/index.ts';
import { meters } from './meters/index.ts';
import { offers } from './offers/index.ts';
import { orders } from './orders/index.ts';
import { outbox } from './outbox/index.ts';
import { people } from './people/index.ts';
import { places } from './places/index.ts';
import { rota } from './rota/index.ts';
import { serviceLevels } from './service-levels/index.ts';
import { setup } from './setup/index.ts';
import { signals } from './signals/index.ts';
import { settle } from './settle/index.ts';
import { standing } from './standing/index.ts';
import { stores } from './stores/index.ts';
import { today } from './today/index.ts';
import { upkeep } from './upkeep/index.ts';
import type { Room } from './room.ts';

export const ROOMS: readonly Room[] = [
  people,
  calendars,
  serviceLevels,
  depots,
  catalogue,
  setup,
  customers,
  places,
  assets,
  meters,
  imports,
  finder,
  agreements,
  entitlement,
  orders,
  offers,
  labour,
  rota,
  stores,
  field,
  settle,
  upkeep,
  signals,
  standing,
  today,
  outbox,
  mailbox,
  jobs,
];

/** What the finder finds, in every room. */
export const FOUND = ROOMS.flatMap((room) => room.found ?? []);

/** What follows from events, in every room. */
export const DERIVED = ROOMS.flatMap((room) => room.derived ?? []);
