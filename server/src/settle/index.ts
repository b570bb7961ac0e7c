import type { Room } from '../room.ts';
import { billingRoutes } from './billing-routes.ts';
import { claimRoutes } from './claim-routes.ts';
import { followingCredit } from './credit.ts';
import { claimsFound, documentsFound } from './finder.ts';
import { figureRoutes } from './figure-routes.ts';
import { keepLooking } from './keep-looking.ts';
import { countLooks } from './look-pages.ts';
import { lookingAgain } from './looks.ts';
import { CLAIMED, DOCUMENT_SENT, REMINDED } from './messages.ts';
import { papers } from './papers.ts';
import { paymentRoutes } from './payment-routes.ts';
import { settleRoutes } from './routes.ts';
import { billing } from './runs.ts';

export { addCostTo } from './others.ts';
export { agreementCost } from './agreement-cost.ts';
export { chargesOf } from './of-order.ts';
export { settleSettings } from './billing-settings.ts';
export { approveIn } from './approving.ts';
export { nextPayers } from './billing.ts';
export { readClaimOf } from './claim-pages.ts';
export { claimPaperOf, drawClaimPaper } from './claim-paper.ts';
export { answerClaimIn, changeMakerIn, closeClaimIn, sendClaimIn } from './claims.ts';
export { certainOf, loadBankFile, planBankFile, previewBankFile } from './bank-file.ts';
export { lookAtCredit, markOverdue } from './credit.ts';
export { creditOf } from './documents.ts';
export { previewRemindersOf, remind } from './reminders.ts';
export { lookAtMarked, markDoneSince } from './looks.ts';
export { previewBilling } from './preview.ts';
export { billLot, carryOutBilling } from './runs.ts';
export { dueOf, leaveToInvoice, showsPrice } from './payments.ts';

lookingAgain();

export const settle: Room = {
  name: 'settle',
  routes: [settleRoutes, billingRoutes, paymentRoutes, figureRoutes, claimRoutes],
  found: [documentsFound, claimsFound],
  jobs: [billing, papers, followingCredit],
  messages: [CLAIMED, DOCUMENT_SENT, REMINDED],
  keep: keepLooking,
  count: countLooks,
};
