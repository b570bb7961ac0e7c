// Findings said by two at once: nothing that only one of them changed is lost, and nothing that both changed is overwritten unsaid.
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { FINDINGS, type Findings } from '../orders/index.ts';
import { mergeFindings } from './merge.ts';

const of = (over: Partial<Findings> = {}): Findings => ({
  symptom: null,
  fault: null,
  cause: null,
  remedy: null,
  ...over,
});

// Source of the rule: domain-work, Settled questions, Field: a field changed meanwhile to another value refuses.
describe('what was found, said by two', () => {
  it('stands side by side where they said different things, and is asked about where they said the same otherwise', () => {
    const was = of({ symptom: 'warm' });
    const office = of({ symptom: 'warm', cause: 'wear' });
    expect(mergeFindings(was, office, of({ symptom: 'warm', remedy: 'seal replaced' }))).toEqual({
      ok: true,
      value: of({ symptom: 'warm', cause: 'wear', remedy: 'seal replaced' }),
    });
    expect(mergeFindings(was, office, of({ symptom: 'warm', cause: 'dirt' }))).toMatchObject({
      ok: false,
      refusals: [
        { field: 'cause', code: 'conflict', message: 'The cause is “wear” meanwhile, not “dirt”; say which holds.' },
      ],
    });
    // Said by both alike there is nothing to ask; taken back on the phone alone it is gone.
    expect(mergeFindings(was, office, office)).toEqual({ ok: true, value: office });
    expect(mergeFindings(office, office, was)).toEqual({ ok: true, value: was });
    expect(mergeFindings(null, null, was)).toEqual({ ok: true, value: was });
  });

  it('is for any words what each alone would have made of it, or refused', () => {
    const word = fc.constantFrom(null, 'wear', 'dirt', 'misuse');
    const findings = fc.record({ symptom: word, fault: word, cause: word, remedy: word });
    fc.assert(
      fc.property(findings, findings, findings, (was, is, wanted) => {
        const merged = mergeFindings(was, is, wanted);
        const torn = FINDINGS.filter((f) => wanted[f] !== was[f] && is[f] !== was[f] && is[f] !== wanted[f]);
        expect(merged.ok).toBe(torn.length === 0);
        if (!merged.ok) {
          expect(merged.refusals.map((r) => r.field)).toEqual(torn);
          return;
        }
        for (const f of FINDINGS) expect(merged.value[f]).toBe(wanted[f] === was[f] ? is[f] : wanted[f]);
        // Said again it changes nothing.
        expect(mergeFindings(is, merged.value, merged.value)).toEqual(merged);
      }),
    );
  });
});
