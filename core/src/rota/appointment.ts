// An appointment: who goes, when and for how long; what speaks against it is looked at by the same rules whoever makes it.
import { decided, refusal, refused, type Decided, type Refusal } from '../refusal.ts';
import { HOUR, MINUTE, minutesIn, type InstantSpan } from '../time/index.ts';
import {
  inSteps,
  PLAIN_ROADS,
  reasonsAgainst,
  STEP_MINUTES,
  type Against,
  type PersonDay,
  type Roads,
  type Work,
} from './person-day.ts';

/** No appointment is longer; what takes longer is done on several days. */
export const MOST_HOURS = 16;

/**
 * Minutes at the place, in whole steps: what a crew of one size takes, done by another. Source: checks, facts of the trade: hours on
 * site = contracted hours ÷ crew size.
 */
export const minutesWith = (minutes: number, plannedCrew: number, crew: number): number =>
  inSteps((minutes * plannedCrew) / Math.max(1, crew));

/** Refused: a length of nothing or of more than any day, and a beginning or end between two steps. */
export function checkSpan({ from, to }: InstantSpan): Refusal[] {
  const step = STEP_MINUTES * MINUTE;
  if (from % step !== 0) return [refusal('invalid', `Begin at a step of ${STEP_MINUTES} minutes.`, 'from')];
  if (to <= from)
    return [
      refusal('invalid', 'An appointment lasts; give at least 5 minutes. Say how long the work takes.', 'minutes'),
    ];
  if ((to - from) % step !== 0)
    return [refusal('invalid', `Give its length in steps of ${STEP_MINUTES} minutes.`, 'minutes')];
  if (to - from > MOST_HOURS * HOUR)
    return [
      refusal(
        'too-large',
        `${minutesIn([{ from, to }]) / 60} h is longer than any day; plan at most ${MOST_HOURS} h and a return for the rest.`,
        'minutes',
      ),
    ];
  return [];
}

/** One who goes: their day without the appointment itself, and their name. */
export type Goer = { readonly name: string; readonly day: PersonDay };

export type Yes = {
  /** To what a person may break after they were asked: window and open time. */
  readonly anyway: boolean;
  /** Why somebody is in two places at once; empty: nobody is to be. */
  readonly overlapReason: string;
};

export type AgainstPerson = Against & { readonly name: string };

/** A crew holds a skill where one of its people does. */
const crewSkills = (people: readonly Goer[]) => people.flatMap((p) => p.day.skills);

/** All that speaks against a crew's going at a span, each with whom it concerns; what is not theirs alone is said once. */
export function againstCrew(
  people: readonly Goer[],
  work: Work,
  span: InstantSpan,
  roads: Roads = PLAIN_ROADS,
): AgainstPerson[] {
  const skills = crewSkills(people);
  const said = new Set<string>();
  return people.flatMap(({ name, day }) =>
    reasonsAgainst({ ...day, skills }, work, span, roads).flatMap((r) => {
      const isOfWork = r.what === 'site hours' || r.what === 'part' || r.what === 'window' || r.what === 'skill';
      if (isOfWork && said.has(r.text)) return [];
      said.add(r.text);
      return [{ ...r, name }];
    }),
  );
}

const sayAgainst = ({ name, text }: AgainstPerson): string => `${name}: ${text}.`;

/**
 * Whether an appointment may be made. Refused: what binds, each with its person; two appointments at once unless a reason is given; a
 * window or open time that is broken without a yes. Given: what it breaks. Source: domain-work, Settled questions, Rota.
 */
export function decideAppointment(
  people: readonly Goer[],
  work: Work,
  span: InstantSpan,
  yes: Yes,
  roads: Roads = PLAIN_ROADS,
): Decided<readonly AgainstPerson[]> {
  const wrong = checkSpan(span);
  if (wrong.length > 0) return refused(...wrong);
  const against = againstCrew(people, work, span, roads);
  const isReasoned = yes.overlapReason.trim() !== '';
  // Who is in two places at once by intent gets to none of them in the time that the way takes.
  const overlapping = new Set(against.filter((r) => r.what === 'overlap').map((r) => r.name));
  const binds = against.filter(
    (r) => r.binds && r.what !== 'overlap' && !(isReasoned && r.what === 'travel' && overlapping.has(r.name)),
  );
  const refusals = [
    ...binds.map((r) => refusal('conflict', sayAgainst(r), 'people')),
    ...(isReasoned
      ? []
      : against
          .filter((r) => r.what === 'overlap')
          .map((r) => refusal('conflict', `${sayAgainst(r)} Say why, if they are to be in both.`, 'overlapReason'))),
    ...(yes.anyway
      ? []
      : against
          .filter((r) => !r.binds)
          .map((r) => refusal('conflict', `${sayAgainst(r)} Say yes to it, or choose another time.`, 'anyway'))),
  ];
  return refusals.length > 0 ? refused(...refusals) : decided(against);
}
