// What is done in a day to schedules, patterns, the load and feeds.
import { randomUUID } from 'node:crypto';
import { addDays, asLocalDate } from '#core/time/index.ts';
import { act, type Act } from './act.ts';

const SCHEDULE = {
  ...{ cadence: { kind: 'rule', rule: 'FREQ=MONTHLY;INTERVAL=3;BYDAY=1TU' }, anchor: '2026-10-01' },
  ...{ convention: 'following', earlyDays: 5, lateDays: 7, lead: 21, leadUnit: 'calendar days' },
};
const { anchor: _, ...pattern } = SCHEDULE;
export const PATTERN = pattern;

export const UPKEEP_ACTS: readonly Act[] = [
  act(
    'a skill is added',
    'POST',
    () => '/api/skills',
    () => ({ name: 'Refrigerant handling' }),
  ),
  act(
    'a depot is added',
    'POST',
    () => '/api/depots',
    ({ ids }) => ({
      ...{ name: 'Ribeira', latitude: 41.7, longitude: -8.7 },
      capacity: [{ skillId: ids.skill, weeklyMinutes: 600 }],
    }),
  ),
  act(
    'a schedule’s window and wishes change',
    'PUT',
    () => '/api/schedules/1',
    (at) => ({
      ...{ ...SCHEDULE, version: at.version, jobPlanId: at.ids.plan, calendarId: at.ids.calendar },
      ...{ lateDays: 12, crew: 2, reminder: 'key at the porter' },
    }),
  ),
  act(
    'the load is evened out',
    'POST',
    () => '/api/upkeep/moves',
    ({ visits }) => {
      const visit = visits.find((v) => v.planned > '2026-12-01');
      const was = asLocalDate(visit?.planned ?? '');
      return { moves: [{ ...visit, was, to: addDays(was, 1) }] };
    },
  ),
  act(
    'a visit is added to a series',
    'POST',
    () => '/api/schedules/1/changes',
    (at) => ({ version: at.version, change: { kind: 'add', on: '2027-02-17' } }),
  ),
  act(
    'a whole place is scheduled',
    'POST',
    () => '/api/upkeep/facility',
    ({ ids }) => {
      const { lead, ...terms } = SCHEDULE;
      const jobPlanId = ids.otherPlan;
      const set = { ...terms, lead, jobPlanId, calendarId: ids.calendar };
      return { placeId: ids.place, sets: [{ ...set, agreementId: ids.agreement, assetIds: [ids.asset] }] };
    },
  ),
  act(
    'a pattern changes',
    'PUT',
    (at) => `/api/patterns/${at.ids.pattern}`,
    (at) => ({
      ...{ ...PATTERN, version: 1, name: 'Quarterly, thorough', classId: null, lateDays: 9 },
      ...{ jobPlanId: at.ids.plan, calendarId: null },
    }),
  ),
  act(
    'a pattern is applied',
    'POST',
    (at) => `/api/patterns/${at.ids.pattern}/apply`,
    (at) => ({ agreementIds: [at.ids.agreement] }),
  ),
  act(
    'a calendar feed is made',
    'POST',
    () => '/api/feeds',
    (at) => ({ requestKey: randomUUID(), kind: 'customer', of: at.ids.customer }),
  ),
  act('a calendar feed is revoked', 'DELETE', () => '/api/feeds/1'),
];
