import { describe, expect, it } from 'vitest';
import { instant, MINUTE } from '../time/index.ts';
import {
  checkQuestions,
  outsideExpected,
  recordEvent,
  stateOfOrder,
  takeAnswers,
  type FormAnswer,
  type FormQuestion,
  type OrderAct,
  type OrderEvent,
  type OrderFacts,
} from './index.ts';

const ask = (text: string, more: Partial<FormQuestion> = {}): FormQuestion => ({
  text,
  kind: 'yes or no',
  mandatory: true,
  unit: null,
  from: null,
  to: null,
  ...more,
});
const questions = [
  ask('Gasket sound'),
  ask('Chamber on leaving', { kind: 'number', unit: '°C', from: -86, to: -74 }),
  ask('Compressor run hours', { kind: 'meter', unit: 'h' }),
  ask('Remarks', { kind: 'text', mandatory: false }),
];
const fields = (answer: { ok: boolean; refusals?: readonly { code: string; field?: string }[] }): string[] =>
  answer.ok ? [] : (answer.refusals ?? []).map((r) => `${r.code} ${r.field}`);

describe('a form’s questions', () => {
  it('stand when each asks something of its own', () => expect(checkQuestions(questions).ok).toBe(true));
  it.each<[string, FormQuestion[], string[]]>([
    ['none', [], ['missing questions']],
    ['one without words', [ask('  ')], ['invalid questions.0']],
    ['two alike', [ask('Gasket sound'), ask(' gasket SOUND ')], ['invalid questions.1']],
    ['a range that ends before it begins', [ask('Chamber', { from: 5, to: 4 })], ['invalid questions.0']],
  ])('are refused: %s', (_, wrong, said) => expect(fields(checkQuestions(wrong))).toEqual(said));
});

describe('answers to a form', () => {
  it('are taken in order; blank text is no answer', () =>
    expect(takeAnswers({ questions }, [false, -80.5, 1200, '  '])).toEqual({
      ok: true,
      value: [false, -80.5, 1200, null],
    }));
  it.each<[string, FormAnswer[], string[]]>([
    ['nothing at all', [], ['missing answers.0', 'missing answers.1', 'missing answers.2']],
    ['words for a number', [true, 'cold', 1200], ['invalid answers.1']],
    ['a meter below zero', [true, -80, -1], ['invalid answers.2']],
    ['a number for yes or no', [1, -80, 1200], ['invalid answers.0']],
    ['not a number', [true, NaN, 1200], ['invalid answers.1']],
    ['more answers than questions', [true, -80, 1200, 'x', 'y'], ['invalid answers']],
    ['words beyond 500 characters', [true, -80, 1200, 'x'.repeat(501)], ['invalid answers.3']],
  ])('are refused: %s', (_, answers, said) => expect(fields(takeAnswers({ questions }, answers))).toEqual(said));

  it.each<[FormAnswer, boolean]>([
    [-86, false],
    [-74, false],
    [-73.9, true],
    [-86.1, true],
    [null, false],
  ])('%s is outside −86 to −74: %s; the answer stands all the same', (answer, outside) => {
    expect(outsideExpected(questions[1] as FormQuestion, answer)).toBe(outside);
    expect(takeAnswers({ questions }, [true, answer ?? -80, 1]).ok).toBe(true);
  });
});

// Facts of the trade: a technician must not be able to close an order with the mandatory form missing.
describe('an order with forms', () => {
  const start = Date.UTC(2026, 10, 24, 9);
  const ev = (minutes: number, act: OrderAct): OrderEvent => ({
    at: instant(start + minutes * MINUTE),
    recordedAt: instant(start + minutes * MINUTE),
    act,
  });
  const facts: OrderFacts = {
    kind: 'preventive',
    startedAt: instant(start),
    lines: [{ id: 3 }],
    tasks: [],
    forms: [
      { id: 7, lineId: 3, name: 'Freezer check', questions },
      { id: 8, lineId: 3, name: 'Photo note', questions: [ask('Remarks', { kind: 'text', mandatory: false })] },
    ],
  };
  const arrived = ev(10, { kind: 'arrived' });
  const fill = (minutes: number, answers: FormAnswer[], formId = 7): OrderEvent =>
    ev(minutes, { kind: 'form', formId, answers });
  const finished = ev(60, { kind: 'done', text: '' });

  it('is not done before the form that must be filled is, and the refusal names it', () => {
    const answer = recordEvent(facts, [arrived], finished);
    expect(answer.ok ? '' : answer.refusals[0]?.message).toBe('Fill in first: Freezer check.');
    expect(recordEvent(facts, [arrived, fill(20, [true, -80, 1200])], finished).ok).toBe(true);
  });

  it('filled again, the last answers hold', () => {
    const state = stateOfOrder(facts, [arrived, fill(20, [true, -80, 1200]), fill(30, [false, -70, 1200])]);
    expect(state.ok && state.value.forms.get(7)).toEqual([false, -70, 1200, null]);
  });

  it('refuses a form of another order, answers with gaps, and any filling after it is done', () => {
    expect(fields(recordEvent(facts, [arrived], fill(20, [], 9)))).toEqual(['not-found formId']);
    expect(fields(recordEvent(facts, [arrived], fill(20, [true])))).toEqual(['missing answers.1', 'missing answers.2']);
    const done = [arrived, fill(20, [true, -80, 1200]), finished];
    expect(fields(recordEvent(facts, done, fill(70, [true, -80, 1201])))).toEqual(['wrong-stage kind']);
  });
});
