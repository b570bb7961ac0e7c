// The routes of claims to makers.
import fp from 'fastify-plugin';
import * as contracts from '#api/claims.ts';
import { claimNumber } from '#api/claims.ts';
import { refusal } from '#core/refusal.ts';
import { localDateAt } from '#core/time/index.ts';
import { readContent } from '../platform/content.ts';
import { serve, type House } from '../platform/http.ts';
import { onThreads } from '../platform/threads.ts';
import { readClaimOf, readClaims, sentPaper } from './claim-pages.ts';
import { claimPaperOf, type ClaimPaper } from './claim-paper.ts';
import {
  answerClaimIn,
  changeClaimIn,
  changeMakerIn,
  closeClaimIn,
  giveClaimUpIn,
  openClaimAgainIn,
  sendClaimIn,
} from './claims.ts';
import type * as thread from './thread.ts';

const done = { done: true as const };

const onThread = onThreads<Pick<typeof thread, 'drawClaim'>>(
  new URL('./thread.ts', import.meta.url),
  refusal('too-large', 'The claim is too large to be drawn at once; take photos off its order.'),
);
const draw = async (paper: ClaimPaper): Promise<Buffer> => Buffer.from(await onThread('drawClaim', paper));

export const claimRoutes = fp<{ house: House }>(
  async (app, { house }) => {
    const { db } = house.database;
    serve(app, house, contracts.listClaims, ({ query }) => readClaims(db, query));
    serve(app, house, contracts.readClaim, ({ params, who, now }) =>
      readClaimOf(db, params.id, localDateAt(who.zone, now)),
    );
    serve(app, house, contracts.changeClaim, async ({ params, body, write, who, now }) => {
      await changeClaimIn(write, params.id, body, { who, now });
      return done;
    });
    serve(app, house, contracts.sendClaim, async ({ params, body, write, who, now }) => {
      const paper = await draw(await claimPaperOf(db, params.id, now, localDateAt(who.zone, now)));
      await sendClaimIn(write, params.id, body, paper, { who, now });
      house.ring();
      return done;
    });
    serve(app, house, contracts.answerClaim, async ({ params, body, write, who, now }) => {
      await answerClaimIn(write, params.id, body, { who, now });
      return done;
    });
    serve(app, house, contracts.closeClaim, async ({ params, body, write, who, now }) => {
      await closeClaimIn(write, params.id, body, { who, now });
      return done;
    });
    serve(app, house, contracts.giveClaimUp, async ({ params, body, write, who, now }) => {
      await giveClaimUpIn(write, params.id, body, { who, now });
      return done;
    });
    serve(app, house, contracts.openClaimAgain, async ({ params, body, write, who, now }) => {
      await openClaimAgainIn(write, params.id, body, { who, now });
      return done;
    });
    serve(app, house, contracts.changeMaker, async ({ body, write }) => {
      await changeMakerIn(write, body);
      return done;
    });
    serve(app, house, contracts.claimFile, async ({ params, who, now, reply }): Promise<never> => {
      const kept = await sentPaper(db, params.id);
      const paper =
        kept === null
          ? await draw(await claimPaperOf(db, params.id, now, localDateAt(who.zone, now)))
          : await readContent(db, kept);
      return reply
        .type('application/pdf')
        .header('content-disposition', `inline; filename="${claimNumber(params.id)}.pdf"`)
        .send(paper) as never;
    });
  },
  { name: 'stavok-claim-routes', dependencies: ['stavok-authentication'] },
);
