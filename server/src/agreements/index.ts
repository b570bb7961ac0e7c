import type { Room } from '../room.ts';
import { countAgreements } from './count.ts';
import { agreementsFound } from './finder.ts';
import { renewing } from './jobs.ts';
import { RENEWAL_NOTICE } from './messages.ts';
import { coverageFollows } from './place-merged.ts';
import { agreementRoutes } from './routes.ts';

export { agreementsFound, indexAgreements } from './finder.ts';
export { amendIn } from './amend.ts';
export { feeOf, pricesOf } from './price.ts';
export { openWork } from './ending.ts';
export { sweepRenewals } from './renewals.ts';

export const agreements: Room = {
  name: 'agreements',
  routes: [agreementRoutes],
  found: [agreementsFound],
  count: countAgreements,
  jobs: [renewing],
  messages: [RENEWAL_NOTICE],
  placeMerged: coverageFollows,
};
