// What happened to an order, in words.
import { orderNumber } from '#api/shapes.ts';
import { FINDINGS, inOwnTime, type ChangedAct, type OrderAct, type SignOff } from '#core/orders/index.ts';
import { sayDate } from '#core/time/index.ts';
import type { Db } from '../platform/database.ts';
import { namesOfPeople } from '../platform/people.ts';
import type { LoadedOrder } from './loading.ts';

/** `at`: which machine, where there are several. */
type Names = Readonly<Record<'task' | 'form' | 'line' | 'at', (id: number) => string>>;

const SAY_OUTCOME = {
  done: 'finished',
  left: 'left undone',
  off: 'taken off',
  'to do': 'to be done after all',
} as const;

function sayFound({ lineId, ...found }: Extract<OrderAct, { kind: 'found' }>, names: Names): string {
  const said = FINDINGS.flatMap((what) => (found[what] ? [`${what} ${found[what]}`] : []));
  return `found${names.at(lineId)}: ${said.join(', ') || 'nothing said'}`;
}

const SAY_CORRECTED = {
  ...{ told: 'that the customer was told', arrived: 'the arrival', paused: 'the pause', resumed: 'the going on' },
  ...{ restored: 'back in use', done: 'the end of the work' },
} as const;

/** What turned out to be another, with the decision before and the one that holds. */
function sayChange({ priority, lines, text }: ChangedAct, names: Names): string {
  const what = [
    priority && `priority ${priority.from} → ${priority.to}`,
    ...lines.flatMap(({ lineId, machine, cause }) => [
      machine && `machine ${machine.from ?? 'not named'} → ${machine.to ?? 'not named'}`,
      cause && `cause of ${names.line(lineId)} ${cause.from} → ${cause.to}`,
    ]),
  ].filter((x) => x);
  return `decided again (${text}): ${what.join(', ')}`;
}

/** Who signed, or why nobody did. */
export const saySignOff = ({ by, function: as, text }: SignOff): string =>
  by === '' ? `nobody signed for it: ${text}` : `signed for by ${by}, ${as}${text ? ` (${text})` : ''}`;

/** An act in words, for the event list. */
function sayAct(act: OrderAct, names: Names): string {
  switch (act.kind) {
    case 'raised':
      return `raised: ${act.text}`;
    case 'planned':
      return `planned for ${sayDate(act.date)}, ${act.technician}${act.text ? `: ${act.text}` : ''}`;
    case 'unplanned':
      return `taken out of the rota: ${act.text}`;
    case 'sent':
      return 'sent to the technician';
    case 'told':
      return `customer told: ${act.technician} comes`;
    case 'arrived':
      return 'on site';
    case 'paused':
      return `paused: ${act.reason}${act.text ? ` (${act.text})` : ''}`;
    case 'resumed':
      return 'resumed';
    case 'task':
      return `${act.outcome === 'done' ? 'done' : 'left'}: ${names.task(act.taskId)}${act.text ? ` (${act.text})` : ''}`;
    case 'form':
      return `filled in: ${names.form(act.formId)}`;
    case 'line':
      return `${names.line(act.lineId)} ${SAY_OUTCOME[act.outcome]}${act.text ? `: ${act.text}` : ''}`;
    case 'line added':
      return act.text;
    case 'found':
      return sayFound(act, names);
    case 'changed':
      return sayChange(act, names);
    case 'followed up':
      return `goes on with ${orderNumber(act.orderId)}${act.takesPromise ? ', its promise with it' : ''}: ${act.text}`;
    case 'signed':
      return saySignOff(act);
    case 'corrected':
      return `${SAY_CORRECTED[act.of as 'told'] ?? act.of} ${act.to === null ? 'taken back' : 'corrected'}: ${act.text}`;
    case 'restored':
      return act.lineId ? `${names.line(act.lineId)} back in use` : 'back in use';
    case 'worked around':
      return `${act.lineId ? `${names.line(act.lineId)} ` : ''}works for now: ${act.text}`;
    case 'handed over':
      return `in the hands of ${act.person}${act.text ? `: ${act.text}` : ''}`;
    case 'done':
      return `done${act.text ? `: ${act.text}` : ''}${act.anyway ? ` (although something is missing: ${act.anyway})` : ''}`;
    case 'called off':
      return `called off: ${act.text}`;
    case 'settled':
    case 'unsettled':
      return `${act.kind === 'settled' ? 'settled' : 'to be settled again'}: ${act.text}`;
    case 'alert joined':
      return `alert joined: ${act.text}`;
    case 'alert ended':
      return `alert ended: ${act.text}`;
    case 'note':
      return act.text;
  }
}

/** The acts of an order in words, by the names of its tasks, forms and machines. */
export function wordsOf({ facts, lines }: Pick<LoadedOrder, 'facts' | 'lines'>): (act: OrderAct) => string {
  const tagOf = (lineId: number): string => lines.find((l) => l.id === lineId)?.tag ?? 'the place';
  /** Of several machines it is said which. */
  const at = (of: { readonly lineId: number } | undefined): string =>
    of && lines.length > 1 ? `, ${tagOf(of.lineId)}` : '';
  const names: Names = {
    task(id) {
      const task = facts.tasks.find((t) => t.id === id);
      return `${task?.text ?? 'a task'}${at(task)}`;
    },
    form(id) {
      const form = facts.forms.find((f) => f.id === id);
      return `${form?.name ?? 'a form'}${at(form)}`;
    },
    line: tagOf,
    at: (lineId) => (lines.length > 1 ? ` at ${tagOf(lineId)}` : ''),
  };
  return (act) => sayAct(act, names);
}

/** What happened, in its own time, each with who recorded it. */
export async function toldOf(db: Db, loaded: LoadedOrder) {
  const names = await namesOfPeople(
    db,
    loaded.events.map((e) => e.by),
  );
  const say = wordsOf(loaded);
  return inOwnTime(loaded.events).map(({ id, act, at, recordedAt, by }) => ({
    ...{ id, kind: act.kind, text: say(act), at, recordedAt },
    who: names.get(by) ?? null,
  }));
}

/** What the event list says of a call. */
export const sayCall = (title: string, lateReason: string | undefined): string =>
  `call: ${title}${lateReason?.trim() ? ` (told late: ${lateReason.trim()})` : ''}`;
