// A customer's statement on paper: what was promised, what came of it and why, line by line.
import PdfDocument from 'pdfkit';
import type { PledgeOut } from '#api/standing.ts';
import { sayAmountOf } from '#core/money.ts';
import { TARGETS } from '#core/service-levels/index.ts';
import { attainmentShare } from '#core/standing/index.ts';
import {
  localDateAt,
  sayDate,
  sayDay,
  sayLength,
  sayTimeOfDay,
  toWallTime,
  type Instant,
  type Zone,
} from '#core/time/index.ts';
import { bytesOf, heading, INK, MARGIN, QUIET, roomFor, rowOf, said, type Sheet } from '../platform/paper.ts';
import type { StatedPromise, StatementFacts } from './statement-facts.ts';

const percent = (share: number | null): string =>
  share === null ? '' : `${(Math.floor(share * 1000) / 10).toFixed(1)} %`;
const hundredths = (n: number): string => `${n / 100} %`;

const moment = (at: Instant | null, zone: Zone): string =>
  at === null ? '' : `${sayDay(localDateAt(zone, at))} ${sayTimeOfDay(toWallTime(zone, at).minutes)}`;

function headOn(sheet: Sheet, { customer, seller, from, to, asOf, zone }: StatementFacts): void {
  sheet.font('Times-Bold').fontSize(20).fillColor(INK).text('Statement of standing', MARGIN, MARGIN);
  sheet.font('Helvetica').fontSize(11).text(`For ${customer}`);
  sheet.moveDown(0.4);
  said(sheet, `${sayDate(from)} to ${sayDate(to)}, by the days of each place`);
  said(sheet, `${seller ? `${seller}, ` : ''}as known on ${moment(asOf, zone)}`, QUIET);
}

function totalOn(sheet: Sheet, { total, promises }: StatementFacts): void {
  heading(sheet, 'In all');
  const kept =
    total.attainment === null
      ? 'No promise fell due in this period.'
      : `${total.met} of ${total.met + total.missed} promises were met: ${percent(total.attainment)}.`;
  const done =
    total.compliance === null
      ? 'No visit was owed.'
      : `${total.inWindow} of ${total.owed} visits were done in their window: ${percent(total.compliance)}.`;
  said(sheet, `${kept} ${done}${total.declined > 0 ? ` Declined by you, and not counted: ${total.declined}.` : ''}`);
  if (promises.length === 0) return;
  sheet.moveDown(0.3);
  const columns = [200, 280, 360, 430];
  rowOf(sheet, columns, ['Promise', 'Priority', 'Met', 'Missed', 'Attainment'], QUIET);
  for (const target of TARGETS)
    for (const priority of [...new Set(promises.map((p) => p.priority))].sort((a, b) => a - b)) {
      const own = promises.filter((p) => p.target === target && p.priority === priority);
      if (own.length === 0) continue;
      const met = own.filter((p) => p.state === 'met').length;
      const n = { met, missed: own.length - met };
      rowOf(sheet, columns, [target, String(priority), String(n.met), String(n.missed), percent(attainmentShare(n))]);
    }
}

const sayCredit = (p: PledgeOut): string => {
  if (p.tiers.length === 0) return 'no credit agreed';
  if (p.attainment === null) return 'no promise fell due, no credit';
  if (p.credit === 0) return `no credit: not below ${hundredths(Math.max(...p.tiers.map((t) => t.below)))}`;
  return `credit ${p.currency} ${sayAmountOf(p.amount, p.currency)}, ${hundredths(p.credit)} of ${sayAmountOf(p.fee, p.currency)}`;
};

function pledgesOn(sheet: Sheet, { pledges, zone }: StatementFacts): void {
  if (pledges.length === 0) return;
  heading(sheet, 'What was agreed beside');
  for (const { agreement, pledge: p } of pledges) {
    said(
      sheet,
      `${agreement}, ${p.serviceLevel}: ${p.attainment === null ? '' : `${percent(p.attainment)} of its promises met, `}${sayCredit(p)}`,
    );
    if (p.upkeep !== null)
      said(
        sheet,
        `Visits in their windows: ${p.upkeep.share === null ? 'none was owed' : percent(p.upkeep.share)}, ${hundredths(p.upkeep.target)} agreed.`,
      );
    if (p.availability === null) continue;
    const { target, share, machines, measure, downtime } = p.availability;
    said(
      sheet,
      `Availability ${share === null ? 'not known' : `${(share * 100).toFixed(2)} %`} of ${hundredths(target)} agreed, ${measure}, ${machines} machines.`,
    );
    for (const d of downtime)
      said(
        sheet,
        `   ${d.tag} down from ${moment(d.from, zone)} ${d.to === null ? 'on' : `to ${moment(d.to, zone)}`}: ${sayLength(d.downMinutes * 60_000, 'as hours')} of service time`,
        QUIET,
      );
  }
}

const sayOutcome = (p: StatedPromise): string =>
  p.state === 'met'
    ? 'met'
    : `missed${p.over > 0 ? ` by ${sayLength(p.over, 'as hours')}` : ''}${p.cause ? `: ${p.cause}` : p.stoppedAt === null ? ': still open' : ''}`;

function promisesOn(sheet: Sheet, { promises }: StatementFacts): void {
  heading(sheet, 'Every promise');
  if (promises.length === 0) return said(sheet, 'No promise fell due.');
  const columns = [142, 226, 310, 394];
  rowOf(sheet, columns, ['Order, machine', 'Since', 'Due', 'Stopped', 'Outcome'], QUIET);
  for (const p of promises)
    rowOf(sheet, columns, [
      `${p.order} ${p.tag}, ${p.target}`,
      ...[p.startedAt, p.dueAt, p.stoppedAt].map((at) => moment(at, p.zone)),
      sayOutcome(p),
    ]);
}

function visitsOn(sheet: Sheet, { visits }: StatementFacts): void {
  heading(sheet, 'Every visit');
  if (visits.length === 0) return said(sheet, 'No visit was owed.');
  const columns = [190, 260, 350, 420];
  rowOf(sheet, columns, ['Visit, machine', 'Due', 'Window', 'Done', 'Outcome'], QUIET);
  for (const v of visits)
    rowOf(sheet, columns, [
      `${v.work}, ${v.tag}${v.order ? `, ${v.order}` : ''}`,
      sayDay(v.due),
      `${sayDay(v.windowFrom).replace(/ \d{4}$/, '')} – ${sayDay(v.windowTo).replace(/ \d{4}$/, '')}`,
      v.completedOn === null ? '' : sayDay(v.completedOn),
      v.state,
    ]);
}

function foundOn(sheet: Sheet, { found, zone }: StatementFacts): void {
  if (found.items.length === 0) return;
  heading(sheet, 'Found since months were closed');
  said(sheet, 'These change what was stated before; the months themselves stay as they were.', QUIET);
  for (const a of found.items)
    said(
      sheet,
      `${moment(a.foundAt, zone)}: ${a.thing} of ${a.tag} in ${a.month.slice(0, 7)}: ${a.before ?? 'not counted'} → ${a.after ?? 'not counted'}`,
    );
}

export function drawStatement(facts: StatementFacts): Promise<Buffer> {
  const info = { Title: `Statement of standing, ${facts.customer}, ${facts.from} to ${facts.to}`, Producer: 'Stavok' };
  const sheet = new PdfDocument({ size: 'A4', margin: MARGIN, info });
  return bytesOf(sheet, () => {
    headOn(sheet, facts);
    totalOn(sheet, facts);
    pledgesOn(sheet, facts);
    promisesOn(sheet, facts);
    visitsOn(sheet, facts);
    foundOn(sheet, facts);
    roomFor(sheet, 30);
    sheet.moveDown(0.8);
    said(
      sheet,
      'The data file of this statement holds all that each line follows from; each can be worked out again from it.',
      QUIET,
    );
  });
}
