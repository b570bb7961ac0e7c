// The done check: what of an order, or of one of its lines, is still missing before it is done.
import { refusal, type Refusal } from '../refusal.ts';
import type { OfLine, OrderFacts } from './act.ts';
import { mustBeFilled } from './form.ts';
import type { Held } from './held.ts';

/** Something that is missing, and where: screens lead to it. */
export type Missing = {
  readonly what: 'task' | 'form' | 'findings' | 'sign-off' | 'running time';
  readonly lineId: number | null;
  /** Of the task or form. */
  readonly id: number | null;
  readonly text: string;
};

/**
 * What is missing before an order is done, or one of its lines by itself: mandatory tasks neither ticked nor left with a reason,
 * forms with a question that must be answered, and of a repaired machine its cause and remedy where its class names such. Of lines
 * left undone, taken off, or gone on with a follow-up nothing is asked; back in use a machine is at the latest when it is done.
 * Source: domain-work, Orders, and Settled questions, Field.
 */
export function missingFor(
  facts: OrderFacts,
  held: Pick<Held, 'tasks' | 'forms' | 'lines' | 'found' | 'handedOn'>,
  onlyLine: number | null = null,
): Missing[] {
  const isAsked = ({ lineId }: OfLine): boolean => {
    const said = held.lines.get(lineId)?.outcome;
    return said !== 'left' && said !== 'off' && !held.handedOn.has(lineId) && (onlyLine ?? lineId) === lineId;
  };
  const lines = facts.lines.filter((l) => isAsked({ lineId: l.id }));
  const of = (name: string | undefined): string => (name && facts.lines.length > 1 ? ` of ${name}` : '');
  const repaired = facts.kind === 'repair' ? lines : [];
  return [
    ...facts.tasks
      .filter((t) => isAsked(t) && t.mandatory && !held.tasks.has(t.id))
      .map(({ id, lineId, text }): Missing => ({ what: 'task', lineId, id, text })),
    ...facts.forms
      .filter((f) => isAsked(f) && mustBeFilled(f) && !held.forms.has(f.id))
      .map(({ id, lineId, name }): Missing => ({ what: 'form', lineId, id, text: name })),
    ...repaired
      .filter((l) => l.asksFindings && !(held.found.get(l.id)?.cause && held.found.get(l.id)?.remedy))
      .map(({ id, name }): Missing => ({
        what: 'findings',
        lineId: id,
        id: null,
        text: `cause and remedy${of(name)}`,
      })),
  ];
}

/**
 * What is missing where an agreement asks that the customer signs for the work: nothing once somebody signed, or it was said why
 * nobody does. Source: domain-work, Orders, Done.
 */
export const signOffMissing = ({ signed }: Pick<Held, 'signed'>): Missing[] =>
  signed ? [] : [{ what: 'sign-off', lineId: null, id: null, text: 'the customer’s sign-off' }];

/** Of many machines the same is asked: said once. */
function listed(missing: readonly Missing[]): string {
  const times = new Map<string, number>();
  for (const { text } of missing) times.set(text, (times.get(text) ?? 0) + 1);
  return [...times].map(([text, n]) => (n === 1 ? text : `${text} (${n} times)`)).join('; ');
}

const SAYS: Readonly<Record<Missing['what'], (list: string) => string>> = {
  task: (list) => `Not done yet: ${list}. Tick each, or leave it with a reason.`,
  form: (list) => `Fill in first: ${list}.`,
  findings: (list) => `Say first what was found: ${list}.`,
  'sign-off': () => 'The agreement asks for the customer’s sign-off: record who signed, or why nobody did.',
  'running time': (list) => `Time is still running: ${list}. Stop it first.`,
};

/** What is missing as a refusal for each kind of it; nothing missing, none. */
export const refuseMissing = (missing: readonly Missing[]): Refusal[] =>
  (Object.keys(SAYS) as Missing['what'][]).flatMap((what) => {
    const own = missing.filter((m) => m.what === what);
    return own.length === 0 ? [] : [refusal('missing', SAYS[what](listed(own)), 'kind')];
  });
