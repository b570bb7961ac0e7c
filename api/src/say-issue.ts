// A refusal of a schema in words: the same in the form before it is sent and from the server after.
import type * as v from 'valibot';

/** The schema's own words where it has them, else what would be right in plain ones. */
export function sayIssue(issue: v.BaseIssue<unknown>): string {
  if (!/^Invalid |^Expected /.test(issue.message)) return issue.message;
  const { requirement } = issue as { requirement?: unknown };
  switch (issue.type) {
    case 'min_value':
      return `This is at least ${String(requirement)}.`;
    case 'max_value':
      return `This is at most ${String(requirement)}.`;
    case 'min_length':
      return Number(requirement) === 1 ? 'This is needed.' : `At least ${String(requirement)} of them are needed.`;
    case 'max_length':
      return `At most ${String(requirement)} are taken at a time.`;
    case 'integer':
      return 'This is a whole number.';
    case 'picklist':
    case 'literal':
    case 'variant':
      return issue.expected
        ? `This is one of: ${issue.expected.replace(/^\(|\)$/g, '').replaceAll(' | ', ', ')}.`
        : 'This is not one of the choices.';
    case 'email':
      return 'Write an e-mail address, such as ana@example.org.';
    case 'regex':
    case 'check':
      return 'This is not written as it should be.';
    default:
      if (issue.expected === 'number' && ['NaN', 'null', 'undefined'].includes(issue.received))
        return 'A number is needed.';
      return issue.received === 'undefined' ? 'This is needed.' : `Here belongs ${sayKind(issue.expected)}.`;
  }
}

function sayKind(expected: string | null): string {
  const kinds: Readonly<Record<string, string>> = {
    string: 'a text',
    number: 'a number',
    boolean: 'true or false',
    Array: 'a list',
    Object: 'an object',
  };
  return kinds[expected ?? ''] ?? `something else (${expected ?? 'nothing'})`;
}
