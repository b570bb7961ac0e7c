// Alert rules on the wire: when a channel of a class, a model or a machine is abnormal, and what a rule would have found in the past.
import * as v from 'valibot';
import type { AlertRuleId, AssetClassId, AssetId, CalendarId, JobPlanId, PersonId } from '#core/ids.ts';
import { WRITERS } from '#core/people.ts';
import { PRIORITIES } from '#core/service-levels/index.ts';
import { contract } from './contract.ts';
import { created, done, idOf, idText, instantNumber, shortText, version } from './shapes.ts';

const finite = v.pipe(v.number(), v.finite());
const DAY_SECONDS = 86_400;
const seconds = (least: number, most: number) =>
  v.pipe(v.number(), v.integer('Whole seconds.'), v.minValue(least), v.maxValue(most));
const deadband = v.pipe(finite, v.minValue(0, 'A deadband is not negative.'));
const equals = v.pipe(
  v.string(),
  v.trim(),
  v.minLength(1, 'Name the state, such as open, or 1 for yes.'),
  v.maxLength(60),
);
/** When a channel is abnormal. */
const alertCondition = v.variant('kind', [
  v.object({ kind: v.literal('limit'), side: v.picklist(['above', 'below']), limit: finite, deadband }),
  v.pipe(
    v.object({ kind: v.literal('band'), low: finite, high: finite, deadband }),
    v.forward(
      v.partialCheck([['low'], ['high']], ({ low, high }) => low < high, 'The upper limit is above the lower one.'),
      ['high'],
    ),
  ),
  v.object({
    ...{ kind: v.literal('rate'), side: v.picklist(['rising', 'falling']) },
    ...{ perHour: v.pipe(finite, v.gtValue(0, 'More than 0.')), deadband, spanSeconds: seconds(60, DAY_SECONDS) },
  }),
  v.object({ kind: v.literal('silence'), spanSeconds: seconds(60, 31 * DAY_SECONDS) }),
  v.object({ kind: v.literal('state'), equals }),
  v.object({
    ...{ kind: v.literal('count'), equals, most: v.pipe(v.number(), v.integer(), v.minValue(0), v.maxValue(10_000)) },
    spanSeconds: seconds(60, DAY_SECONDS),
  }),
  v.object({
    ...{ kind: v.literal('parts'), by: v.picklist(['all', 'any']) },
    /** Names of rules of the class. */
    of: v.pipe(
      v.array(shortText),
      v.minLength(2, 'Two rules at least.'),
      v.maxLength(10, 'Ten rules at most.'),
      v.readonly(),
    ),
  }),
]);
const minuteOfDay = v.pipe(v.number(), v.integer(), v.minValue(0), v.maxValue(1439));
/** Who is told of an alert that nobody acknowledged, so many minutes after it is told. */
const tellStep = v.object({
  personId: idOf<PersonId>(),
  afterMinutes: v.pipe(v.number(), v.integer('Whole minutes.'), v.minValue(0), v.maxValue(1440, 'A day at most.')),
  /** Minutes of the day where the person is; null: at any time. */
  hours: v.nullable(v.object({ from: minuteOfDay, to: minuteOfDay })),
});
export const alertRuleIn = v.object({
  name: shortText,
  assetClassId: idOf<AssetClassId>(),
  /** Of a rule made of others: the channel whose readings are shown with its alerts. */
  channel: v.pipe(
    v.string(),
    v.trim(),
    v.regex(/^[A-Za-z0-9][A-Za-z0-9-]{0,39}$/, 'A channel is a word such as chamber.'),
  ),
  unit: v.pipe(v.string(), v.maxLength(20)),
  condition: alertCondition,
  onDelaySeconds: seconds(0, DAY_SECONDS),
  offDelaySeconds: seconds(0, DAY_SECONDS),
  holdSeconds: seconds(10, 31 * DAY_SECONDS),
  /** Of this model of the class only; null: of all. */
  model: v.nullable(v.pipe(v.string(), v.trim(), v.minLength(1), v.maxLength(120))),
  /** Of this machine only. */
  assetId: v.nullable(idOf<AssetId>()),
  /** False: what a rule of that name watches for the class or model is not watched here. */
  watched: v.boolean(),
  priority: v.picklist(PRIORITIES),
  /** It counts for rules made of others: nobody is told of it, and nothing is raised. */
  partOnly: v.boolean(),
  /** Somebody decides whether an order is raised. */
  askFirst: v.boolean(),
  /** What its order says beside what was seen. */
  orderText: v.pipe(v.string(), v.trim(), v.maxLength(500)),
  likelyCause: v.pipe(v.string(), v.trim(), v.maxLength(200)),
  jobPlanId: v.nullable(idOf<JobPlanId>()),
  /** When it watches; null: always. */
  watchCalendarId: v.nullable(idOf<CalendarId>()),
  /** Names of rules of the class while whose alerts nobody is told of this one's. */
  suppressedBy: v.pipe(v.array(shortText), v.maxLength(10, 'Ten rules at most.')),
  tells: v.pipe(v.array(tellStep), v.maxLength(10, 'Ten people at most.')),
});
const alertRuleOut = v.object({
  ...{ id: v.number(), version: v.number(), className: v.string(), ...alertRuleIn.entries },
  /** The machine's tag, where it is of one only. */
  tag: v.nullable(v.string()),
});
export type AlertRuleIn = v.InferInput<typeof alertRuleIn>;
export type AlertRuleOut = v.InferOutput<typeof alertRuleOut>;

export const listAlertRules = contract({
  method: 'GET',
  path: '/api/alert-rules',
  summary: 'Alert rules',
  room: 'signals',
  may: 'signed in',
  reads: ['setup'],
  answer: v.object({ items: v.array(alertRuleOut) }),
});
export const addAlertRule = contract({
  method: 'POST',
  path: '/api/alert-rules',
  summary: 'Add an alert rule',
  room: 'signals',
  may: WRITERS,
  touches: ['signals', 'setup'],
  body: alertRuleIn,
  answer: created,
});
export const changeAlertRule = contract({
  method: 'PUT',
  path: '/api/alert-rules/:id',
  summary: 'Change an alert rule',
  room: 'signals',
  may: WRITERS,
  touches: ['signals', 'setup'],
  params: v.object({ id: idText<AlertRuleId>() }),
  body: v.object({ version, ...alertRuleIn.entries }),
  answer: done,
});
const tried = v.object({
  /** Machines it would watch that reported, and what they reported. */
  ...{ machines: v.number(), readings: v.number(), alerts: v.number(), seconds: v.number(), active: v.number() },
  shown: v.array(
    v.object({
      ...{ assetId: v.number(), tag: v.string(), model: v.string(), text: v.string() },
      ...{ from: instantNumber, to: v.nullable(instantNumber) },
    }),
  ),
});
export type Tried = v.InferOutput<typeof tried>;
export const TRIED_DAYS = 90;
export const tryAlertRule = contract({
  method: 'POST',
  path: '/api/alert-rules/preview',
  summary: 'Which alerts a rule would have raised in the past, beside those of the rule as it is kept',
  room: 'signals',
  may: WRITERS,
  reads: ['setup', 'signals'],
  body: v.object({
    ...alertRuleIn.entries,
    days: v.pipe(
      v.number(),
      v.integer(),
      v.minValue(1, 'One day at least.'),
      v.maxValue(TRIED_DAYS, 'At most 90 days.'),
    ),
    /** The rule that is changed; null: it is new. */
    ruleId: v.nullable(idOf<AlertRuleId>()),
  }),
  answer: v.object({
    tried,
    /** As it is kept. */
    kept: v.nullable(tried),
    /** Machines that reported more than is gone through are left out. */
    leftOut: v.number(),
  }),
});
