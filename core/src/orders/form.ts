// Forms of an asset class: the questions answered on site, copied to an order when it is raised.
import { decided, refusal, refused, type Decided, type Refusal } from '../refusal.ts';

export const QUESTION_KINDS = ['yes or no', 'number', 'text', 'meter'] as const;
export type QuestionKind = (typeof QUESTION_KINDS)[number];

/** One question. `unit`, `from` and `to` belong to numbers: outside [from, to] an answer stands, marked. A meter's question books a reading of the meter it names. */
export type FormQuestion = {
  readonly text: string;
  readonly kind: QuestionKind;
  readonly mandatory: boolean;
  readonly unit: string | null;
  readonly from: number | null;
  readonly to: number | null;
};
export type FormAnswer = string | number | boolean | null;

/** A form as copied to an order's line: what is asked there, whatever the catalogue says later. */
export type OrderForm = { readonly id: number; readonly name: string; readonly questions: readonly FormQuestion[] };

/** A form must be filled before its order is done when one of its questions must be answered. */
export const mustBeFilled = (form: Pick<OrderForm, 'questions'>): boolean => form.questions.some((q) => q.mandatory);

const EXPECTED: Record<QuestionKind, string> = {
  'yes or no': 'Answer yes or no.',
  number: 'Answer with a number.',
  text: 'Answer in words.',
  meter: 'Give what the meter shows: a number from 0 up.',
};
const LONGEST_ANSWER = 500;

const isBlank = (answer: FormAnswer | undefined): boolean =>
  answer === undefined || answer === null || (typeof answer === 'string' && answer.trim() === '');

function fits(kind: QuestionKind, answer: FormAnswer): boolean {
  switch (kind) {
    case 'yes or no':
      return typeof answer === 'boolean';
    case 'number':
      return typeof answer === 'number' && Number.isFinite(answer);
    case 'meter':
      return typeof answer === 'number' && Number.isFinite(answer) && answer >= 0;
    case 'text':
      return typeof answer === 'string' && answer.length <= LONGEST_ANSWER;
  }
}

/** Takes a form's questions. Refused, each at `questions.N`: none at all, no text, two alike, a range that ends before it begins. */
export function checkQuestions(questions: readonly FormQuestion[]): Decided<readonly FormQuestion[]> {
  const wrong: Refusal[] = [];
  if (questions.length === 0) wrong.push(refusal('missing', 'A form asks at least one question.', 'questions'));
  questions.forEach((q, i) => {
    const at = (message: string): void => void wrong.push(refusal('invalid', message, `questions.${i}`));
    if (q.text.trim() === '') at('Write the question.');
    else if (questions.findIndex((x) => x.text.trim().toLowerCase() === q.text.trim().toLowerCase()) < i)
      at('This question is asked above already; word it otherwise or take it out.');
    if (q.from !== null && q.to !== null && q.to < q.from) at('The expected range ends before it begins.');
  });
  return wrong.length > 0 ? refused(...wrong) : decided(questions);
}

/**
 * Takes the answers to a form, one for each question in their order; null or blank text is no answer. Refused, each at
 * `answers.N`: a mandatory question without an answer, an answer of another kind than asked.
 */
export function takeAnswers(
  form: Pick<OrderForm, 'questions'>,
  answers: readonly FormAnswer[],
): Decided<readonly FormAnswer[]> {
  if (answers.length > form.questions.length)
    return refused(refusal('invalid', `The form asks ${form.questions.length} questions.`, 'answers'));
  const wrong = form.questions.flatMap((question, i): Refusal[] => {
    const answer = answers[i];
    if (isBlank(answer)) return question.mandatory ? [refusal('missing', EXPECTED[question.kind], `answers.${i}`)] : [];
    return fits(question.kind, answer as FormAnswer)
      ? []
      : [refusal('invalid', EXPECTED[question.kind], `answers.${i}`)];
  });
  if (wrong.length > 0) return refused(...wrong);
  return decided(form.questions.map((_, i) => (isBlank(answers[i]) ? null : (answers[i] as FormAnswer))));
}

/** Whether an answer lies outside what the question expects; only numbers can. */
export function outsideExpected(question: FormQuestion, answer: FormAnswer): boolean {
  if (typeof answer !== 'number') return false;
  return (question.from !== null && answer < question.from) || (question.to !== null && answer > question.to);
}
