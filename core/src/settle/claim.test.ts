import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import type { Decided } from '../refusal.ts';
import { asLocalDate } from '../time/index.ts';
import {
  acceptedOf,
  answerClaim,
  askedOf,
  askInClaim,
  claimBy,
  claimsOf,
  closeClaim,
  gapsOf,
  giveClaimUp,
  openClaimAgain,
  sendClaim,
  type Claim,
  type ClaimEntry,
} from './claim.ts';
import { linesOfClaim } from './journal.ts';

const charges = [
  { chargeId: 1, maker: 'Vantor', borne: 120_00 },
  { chargeId: 2, maker: 'vantor ', borne: 35_50 },
  { chargeId: 3, maker: 'Orlem', borne: 80_00 },
  { chargeId: 4, maker: 'Vantor', borne: 0 },
];
const drawn = (): Claim => claimsOf(charges)[0] as Claim;
const must = <T>(answer: Decided<T>): T => {
  if (!answer.ok) throw new Error(answer.refusals.map((r) => r.message).join(' '));
  return answer.value;
};
const refusedAt = (answer: Decided<unknown>) => (answer.ok ? 'taken' : (answer.refusals[0]?.field ?? null));
const sent = () => must(sendClaim(drawn()));
const says = (first: number, second: number, why = 'labour at their own rate') => [
  { chargeId: 1, minor: first, why },
  { chargeId: 2, minor: second, why },
];

describe('a claim to a maker', () => {
  it('is one for each maker, however it is spelled, over what the warranty bears', () => {
    expect(claimsOf(charges).map((c) => [c.maker, c.lines.map((l) => l.chargeId), askedOf(c)])).toEqual([
      ['Vantor', [1, 2], 155_50],
      ['Orlem', [3], 80_00],
    ]);
  });

  it('asks for less where somebody says so, never for more, and for each line once', () => {
    const ask = (...minors: number[]) =>
      askInClaim(drawn(), { maker: 'Vantor', lines: minors.map((minor, i) => ({ chargeId: i + 1, minor })) });
    expect(askedOf(must(ask(100_00, 35_50)))).toBe(135_50);
    expect(refusedAt(ask(120_01, 0))).toBe('lines.0.minor');
    expect(refusedAt(ask(0, -1))).toBe('lines.1.minor');
    expect(refusedAt(ask(1))).toBe('lines');
    expect(refusedAt(ask(1, 1, 1))).toBe('lines');
    expect(ask(0, 0).ok && refusedAt(sendClaim(must(ask(0, 0))))).toBe('lines');
    expect(refusedAt(sendClaim({ ...drawn(), maker: '' }))).toBe('maker');
  });

  it('is accepted in part with a reason, put right, and closed by what came in', () => {
    expect(refusedAt(answerClaim(sent(), says(120_00, 0, ' ')))).toBe('lines.1.why');
    expect(refusedAt(answerClaim(sent(), says(120_01, 0)))).toBe('lines.0.minor');
    expect(refusedAt(answerClaim(drawn(), says(1, 1)))).toBe(null);
    const first = must(answerClaim(sent(), says(100_00, 0)));
    expect(first.entries).toEqual([{ kind: 'accepted', minor: 100_00 }]);
    const second = must(answerClaim(first.claim, says(90_00, 35_50)));
    expect(second.entries).toEqual([{ kind: 'accepted', minor: 25_50 }]);
    expect(must(answerClaim(second.claim, says(90_00, 35_50))).entries).toEqual([]);
    const close = (minor: number, because: string) => closeClaim(second.claim, { way: 'credit note', minor, because });
    expect(refusedAt(close(125_51, ''))).toBe('minor');
    expect(refusedAt(close(125_00, ''))).toBe('because');
    expect(must(close(125_50, '')).entries).toEqual([{ kind: 'credit note', minor: 125_50 }]);
    expect(must(close(125_00, 'their rounding')).entries).toEqual([
      { kind: 'credit note', minor: 125_00 },
      { kind: 'given up', minor: 50 },
    ]);
    expect(refusedAt(closeClaim(sent(), { way: 'payment', minor: 0, because: 'x' }))).toBe(null);
  });

  it('is given up before an answer only, and with a reason', () => {
    expect(refusedAt(giveClaimUp(sent(), ' '))).toBe('because');
    expect(must(giveClaimUp(sent(), 'their term had run out'))).toMatchObject({
      claim: { state: 'closed' },
      entries: [],
    });
    const answered = must(answerClaim(sent(), says(1, 1))).claim;
    expect(giveClaimUp(answered, 'x').ok).toBe(false);
    expect(must(openClaimAgain(must(giveClaimUp(sent(), 'x')).claim, true, [])).claim.state).toBe('sent');
    expect(must(openClaimAgain(must(giveClaimUp(drawn(), 'x')).claim, false, [])).claim.state).toBe('to send');
    // Sent once more after an answer: what they had accepted is given up with it.
    const again = must(sendClaim(must(answerClaim(sent(), says(0, 1))).claim));
    expect(must(giveClaimUp(again, 'x')).entries).toEqual([{ kind: 'given up', minor: 1 }]);
    expect(openClaimAgain(sent(), true, []).ok).toBe(false);
  });

  it('names what a maker may turn it down for', () => {
    const day = asLocalDate('2026-11-24');
    const full = { withoutSerial: [], withoutFindings: [], photos: 1, hasReport: true, by: day };
    expect(gapsOf(full, day)).toEqual([]);
    expect(gapsOf({ ...full, by: claimBy(asLocalDate('2026-11-01'), 20), photos: 0 }, day)).toEqual([
      'their last day for it was 3 days ago',
      'there is no photo',
    ]);
    expect(claimBy(day, null)).toBe(null);
  });
});

type Act =
  | { readonly kind: 'send' | 'open' }
  | { readonly kind: 'answer'; readonly first: number; readonly second: number }
  | { readonly kind: 'close'; readonly part: number; readonly way: 'credit note' | 'payment' }
  | { readonly kind: 'give up' }
  | { readonly kind: 'ask'; readonly first: number };
const act: fc.Arbitrary<Act> = fc.oneof(
  fc.constantFrom<Act>({ kind: 'send' }, { kind: 'open' }, { kind: 'give up' }),
  fc.record({ kind: fc.constant('answer' as const), first: fc.nat(130_00), second: fc.nat(40_00) }),
  fc.record({
    kind: fc.constant('close' as const),
    part: fc.nat(160_00),
    way: fc.constantFrom('credit note' as const, 'payment' as const),
  }),
  fc.record({ kind: fc.constant('ask' as const), first: fc.nat(130_00) }),
);

function actOn(claim: Claim, wasSent: boolean, booked: readonly ClaimEntry[], a: Act) {
  const plain = (answer: ReturnType<typeof sendClaim>) =>
    answer.ok ? { claim: answer.value, entries: [] as ClaimEntry[] } : null;
  const entered = (answer: ReturnType<typeof answerClaim>) => (answer.ok ? answer.value : null);
  switch (a.kind) {
    case 'send':
      return plain(sendClaim(claim));
    case 'give up':
      return entered(giveClaimUp(claim, 'we let it be'));
    case 'open':
      return entered(openClaimAgain(claim, wasSent, booked));
    case 'answer':
      return entered(answerClaim(claim, says(a.first, a.second)));
    case 'close':
      return entered(closeClaim(claim, { way: a.way, minor: a.part, because: 'the rest is lost' }));
    case 'ask':
      return plain(
        askInClaim(claim, {
          maker: claim.maker,
          lines: [
            { chargeId: 1, minor: a.first },
            { chargeId: 2, minor: 35_50 },
          ],
        }),
      );
  }
}

describe('the accounts of a claim', () => {
  it('balance whatever is done: makers owe what they accepted of claims that are open, and nothing of closed ones', () => {
    fc.assert(
      fc.property(fc.array(act, { maxLength: 30 }), (acts) => {
        let claim = drawn();
        let wasSent = false;
        const booked: ClaimEntry[] = [];
        for (const a of acts) {
          const next = actOn(claim, wasSent, booked, a);
          if (!next) continue;
          claim = next.claim;
          wasSent ||= claim.state === 'sent';
          booked.push(...next.entries);
          const lines = booked.flatMap((e) => linesOfClaim(e, 'Vantor'));
          const on = (account: string) => lines.reduce((sum, l) => (l.account === account ? sum + l.minor : sum), 0);
          expect(lines.reduce((sum, l) => sum + l.minor, 0)).toBe(0);
          expect(on('owed by makers')).toBe(claim.state === 'closed' ? 0 : acceptedOf(claim));
          // What the warranty still costs us is less by what came in, or is still to come.
          const came = on('credit notes of makers') + on('receipts to allocate');
          expect(on('warranty work') + came + on('owed by makers')).toBe(0);
          for (const l of claim.lines) {
            expect(l.asked).toBeLessThanOrEqual(l.borne);
            expect(l.accepted ?? 0).toBeLessThanOrEqual(l.asked);
          }
        }
      }),
    );
  });
});
