// Why a plan leaves work out, in words: the first thing that keeps it from every day that was looked at.
import { meets } from '../time/index.ts';
import { capacityOf, PLAIN_ROADS, skillsAgainst, type PersonDay, type Roads } from './person-day.ts';
import type { Job } from './plan-cost.ts';
import { travelBetween } from './travel.ts';

/**
 * Why no day of some people takes a job that a plan left out: a part, a way nobody knows, the hours of its place, a skill, too few who
 * are let come; else there is no room for it. Source: domain-work, Rota, Can go.
 */
export function whyLeft(job: Job, days: readonly PersonDay[], roads: Roads = PLAIN_ROADS): string {
  const { lacks, spot, site, skills, blocked, people = 1 } = job;
  const open = days.flatMap(capacityOf);
  if (open.length === 0) return 'nobody is there on these days';
  if (lacks !== null) return `${lacks} is not to be had`;
  if (days.every((d) => travelBetween(d.start, spot, roads.rules, roads.known) === null))
    return 'the travel is unknown: a place has no position';
  if (site !== null && !site.some((s) => open.some((o) => meets(s, o)))) return 'the place is not open on these days';
  const missing = skills.find((skill) => days.every((d) => skillsAgainst(d, { ...job, skills: [skill] }).length > 0));
  if (missing) return `nobody’s ${missing.name} holds on these days`;
  if (days.every((d) => blocked.has(d.personId))) return 'the customer does not want those who are there';
  const where = site === null ? 'on these days' : 'in the hours of its place';
  return people === 1
    ? `nobody who may do it has room for it ${where}: look who can, and why not`
    : `no ${people} people have room for it together ${where}: look who can, and why not`;
}
