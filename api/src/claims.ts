// Claims to makers on the wire: what work under a maker's warranty is asked back for, sent, answered, and closed.
import * as v from 'valibot';
import type { ChargeId, ClaimId, IncomingId } from '#core/ids.ts';
import { MANAGERS, OFFICE, WRITERS } from '#core/people.ts';
import { CHARGE_ELEMENTS, CLAIM_STATES, CLAIM_WAYS } from '#core/settle/index.ts';
import { contract } from './contract.ts';
import { dateOut, done, idOf, idText, instantNumber, minor, named, needed, pageOf, upTo, version } from './shapes.ts';

/** How it stands on papers and screens. */
export const claimNumber = (id: number): string => `CL-${id}`;

const row = v.object({
  ...{ id: v.number(), state: v.picklist(CLAIM_STATES), maker: v.string(), customer: named },
  order: v.object({ id: v.number(), title: v.string() }),
  ...{ doneOn: dateOut, currency: v.string(), asked: v.number(), accepted: v.nullable(v.number()) },
  /** The last day on which they take it; null: they name none. */
  by: v.nullable(dateOut),
  sentOn: v.nullable(dateOut),
});
export type ClaimRow = v.InferOutput<typeof row>;

const counts = v.object({ 'to send': v.number(), sent: v.number(), answered: v.number() });
export const listClaims = contract({
  method: 'GET',
  path: '/api/settle/claims',
  summary: 'Claims to makers: those to send first by the work’s day',
  room: 'settle',
  may: OFFICE,
  reads: ['settle', 'register', 'orders'],
  query: v.object({
    state: v.picklist(CLAIM_STATES),
    maker: v.optional(v.pipe(v.string(), v.trim(), v.maxLength(120))),
    after: v.optional(v.string()),
  }),
  answer: v.object({
    ...pageOf(row).entries,
    /** Up to 1,000 are counted. */
    counts,
    /** Of all with these filters, by currency. */
    sums: v.array(v.object({ currency: v.string(), asked: v.number(), accepted: v.number() })),
  }),
});
export type ClaimList = v.InferOutput<typeof listClaims.answer & {}>;

const claimParams = v.object({ id: idText<ClaimId>() });
const line = v.object({
  ...{ chargeId: v.number(), element: v.picklist(CHARGE_ELEMENTS), text: v.string() },
  machine: v.nullable(v.object({ id: v.number(), tag: v.string(), model: v.string(), serial: v.string() })),
  ...{ borne: v.number(), asked: v.number(), accepted: v.nullable(v.number()), why: v.string() },
});
const file = v.object({ id: v.number(), name: v.string() });
export const readClaim = contract({
  method: 'GET',
  path: '/api/settle/claims/:id',
  summary: 'A claim with its lines, what speaks for it, what is missing, and what was done',
  room: 'settle',
  may: OFFICE,
  reads: ['settle', 'register', 'orders'],
  params: claimParams,
  answer: v.object({
    ...row.entries,
    ...{ version: v.number(), theirNumber: v.string(), lines: v.array(line) },
    /** Where and until when claims to them go; without version: nobody wrote it yet. */
    terms: v.object({ mail: v.string(), days: v.nullable(v.number()), version: v.nullable(v.number()) }),
    /** What a maker may turn it down for; while it is to send. */
    gaps: v.array(v.string()),
    /** The warranty as it was decided, in words. */
    because: v.array(v.string()),
    photos: v.array(file),
    reports: v.array(file),
    /** The paper as it was sent last. */
    hasPaper: v.boolean(),
    steps: v.array(v.object({ what: v.string(), text: v.string(), who: v.string(), at: instantNumber })),
    /** Payments that wait and may be theirs, those of its very amount first. */
    payments: v.array(
      v.object({ id: v.number(), bookedOn: dateOut, payer: v.string(), text: v.string(), left: v.number() }),
    ),
  }),
});
export type ClaimPage = v.InferOutput<typeof readClaim.answer & {}>;

const acts = { room: 'settle', touches: ['settle'], params: claimParams, answer: done } as const;
const because = upTo(200);
export const changeClaim = contract({
  ...acts,
  method: 'PUT',
  path: '/api/settle/claims/:id',
  summary: 'What is asked for, and of whom',
  may: WRITERS,
  body: v.object({
    version,
    maker: upTo(120),
    lines: v.pipe(v.array(v.object({ chargeId: idOf<ChargeId>(), minor })), v.maxLength(500)),
  }),
});
export const sendClaim = contract({
  ...acts,
  method: 'POST',
  path: '/api/settle/claims/:id/send',
  touches: ['settle', 'outbox'],
  summary: 'Send a claim with its evidence by mail, or say where it was handed in',
  may: WRITERS,
  body: v.object({ version, way: v.picklist(['mail', 'otherwise']), text: upTo(200) }),
});
export const answerClaim = contract({
  ...acts,
  method: 'POST',
  path: '/api/settle/claims/:id/answer',
  summary: 'What the maker accepts of a claim, line by line',
  may: WRITERS,
  body: v.object({
    version,
    theirNumber: upTo(60),
    lines: v.pipe(v.array(v.object({ chargeId: idOf<ChargeId>(), minor, why: because })), v.maxLength(500)),
  }),
});
export const closeClaim = contract({
  ...acts,
  method: 'POST',
  path: '/api/settle/claims/:id/close',
  touches: ['settle', 'register'],
  summary: 'Close a claim by what came in of it',
  may: WRITERS,
  body: v.object({
    ...{ version, way: v.picklist(CLAIM_WAYS), minor, because, theirNumber: upTo(60) },
    /** The payment that it came by. */
    incomingId: v.nullable(idOf<IncomingId>()),
  }),
});
export const giveClaimUp = contract({
  ...acts,
  method: 'POST',
  path: '/api/settle/claims/:id/give-up',
  summary: 'Ask for nothing any more',
  may: MANAGERS,
  body: v.object({ version, because }),
});
export const openClaimAgain = contract({
  ...acts,
  method: 'POST',
  path: '/api/settle/claims/:id/open',
  touches: ['settle', 'register'],
  summary: 'Open a closed claim again; what its closing booked is booked back',
  may: MANAGERS,
  body: v.object({ version, because: needed(200, 'Say why.') }),
});
export const changeMaker = contract({
  method: 'PUT',
  path: '/api/settle/makers',
  summary: 'Where claims to a maker go, and how many days after the work they take them',
  room: 'settle',
  may: WRITERS,
  touches: ['settle'],
  body: v.object({
    ...{ name: needed(120, 'Say which maker.'), version: v.nullable(version) },
    mail: v.union([
      v.literal(''),
      v.pipe(v.string(), v.trim(), v.email('Write it as name@example.org.'), v.maxLength(200)),
    ]),
    days: v.nullable(
      v.pipe(
        v.number('Write days.'),
        v.integer('Whole days.'),
        v.minValue(1, '1 or more.'),
        v.maxValue(3660, 'Ten years at most.'),
      ),
    ),
  }),
  answer: done,
});
export const claimFile = contract({
  method: 'GET',
  path: '/api/settle/claims/:id/file',
  summary: 'A claim on paper: as it was sent last, or as it stands',
  room: 'settle',
  may: OFFICE,
  params: claimParams,
});
