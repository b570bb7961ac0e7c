// The year of upkeep to print: A4 across, a row for each machine and job plan, a column for each month.
import PdfDocument from 'pdfkit';
import type { YearPlan, YearRow, YearVisit } from '#api/year.ts';
import { sayDate, SHORT_MONTHS } from '#core/time/index.ts';
import { sayVisits } from '#core/upkeep/index.ts';

/** Lengths in points (1/72 inch). */
const MARGIN = 36;
const INK = '#16202E';
const QUIET = '#4B5563';
const HAIRLINE = '#D8D2C4';
const LEFT = 214;
const LINE = 11;

type Sheet = InstanceType<typeof PdfDocument>;

const monthWidth = (sheet: Sheet): number => (sheet.page.width - 2 * MARGIN - LEFT) / 12;

function heads(sheet: Sheet): void {
  const { y } = sheet;
  sheet.font('Helvetica-Bold').fontSize(8).fillColor(INK);
  sheet.text('Machine and work', MARGIN, y, { width: LEFT, lineBreak: false });
  SHORT_MONTHS.forEach((month, i) =>
    sheet.text(month, MARGIN + LEFT + i * monthWidth(sheet) + 2, y, { width: monthWidth(sheet), lineBreak: false }),
  );
  rule(sheet, y + 11, INK);
  sheet.y = y + 15;
}

function rule(sheet: Sheet, y: number, colour: string): void {
  sheet
    .moveTo(MARGIN, y)
    .lineTo(sheet.page.width - MARGIN, y)
    .lineWidth(0.5)
    .strokeColor(colour)
    .stroke();
}

/** Hollow: to come; filled: done in its window; with a bar through: outside it; crossed: not done. */
function mark(sheet: Sheet, { state }: YearVisit, x: number, y: number): void {
  const r = 2.4;
  sheet.lineWidth(0.8).strokeColor(INK).fillColor(INK);
  if (state === 'not done')
    sheet
      .moveTo(x - r, y - r)
      .lineTo(x + r, y + r)
      .moveTo(x - r, y + r)
      .lineTo(x + r, y - r)
      .stroke();
  else if (state === 'in window' || state === 'outside window') sheet.circle(x, y, r).fill();
  else sheet.circle(x, y, r).stroke();
  if (state === 'outside window')
    sheet
      .moveTo(x - r - 2, y)
      .lineTo(x + r + 2, y)
      .stroke();
}

const dayOf = ({ planned }: YearVisit): string => String(Number(planned.slice(8)));

/** Days of a month beside each other, as many in a line as it is wide. */
function monthCell(sheet: Sheet, visits: readonly YearVisit[], x: number, y: number): number {
  const perLine = Math.max(1, Math.floor((monthWidth(sheet) - 2) / 20));
  visits.forEach((visit, i) => {
    const [at, line] = [x + 4 + (i % perLine) * 20, y + Math.floor(i / perLine) * LINE];
    mark(sheet, visit, at, line + 3.6);
    sheet
      .font('Helvetica')
      .fontSize(7.5)
      .fillColor(INK)
      .text(dayOf(visit), at + 5, line, { lineBreak: false });
  });
  return Math.ceil(visits.length / perLine) * LINE;
}

function newPage(sheet: Sheet): void {
  sheet.addPage();
  sheet.y = MARGIN;
  heads(sheet);
}

function row(sheet: Sheet, of: YearRow): void {
  const months = SHORT_MONTHS.map((_, i) => of.visits.filter((v) => Number(v.planned.slice(5, 7)) === i + 1));
  const perLine = Math.max(1, Math.floor((monthWidth(sheet) - 2) / 20));
  const lines = Math.max(2, ...months.map((m) => Math.ceil(m.length / perLine)));
  if (sheet.y + lines * LINE + 4 > sheet.page.height - MARGIN - 14) newPage(sheet);
  const { y } = sheet;
  sheet.font('Helvetica').fontSize(8).fillColor(INK);
  sheet.text(`${of.tag}  ${of.model}`, MARGIN, y, { width: LEFT - 8, height: LINE, ellipsis: true });
  sheet.fillColor(QUIET).fontSize(7.5);
  sheet.text(`${of.jobPlan}, ${of.agreement}`, MARGIN, y + LINE, { width: LEFT - 8, height: LINE, ellipsis: true });
  months.forEach((visits, i) => monthCell(sheet, visits, MARGIN + LEFT + i * monthWidth(sheet), y));
  const below = y + lines * LINE + 2;
  rule(sheet, below, HAIRLINE);
  sheet.y = below + 4;
}

function placeHead(sheet: Sheet, place: string): void {
  if (sheet.y > sheet.page.height - MARGIN - 60) newPage(sheet);
  sheet
    .font('Helvetica-Bold')
    .fontSize(8.5)
    .fillColor(INK)
    .text(place, MARGIN, sheet.y + 3);
  sheet.y += 3;
}

function legend(sheet: Sheet, today: YearPlan['today']): void {
  const { y } = sheet;
  const kinds = [
    ['to come', 'to come or raised'],
    ['in window', 'done in its window'],
    ['outside window', 'done outside it'],
    ['not done', 'not done'],
  ] as const;
  let x = MARGIN + 4;
  for (const [state, words] of kinds) {
    mark(sheet, { state } as YearVisit, x, y + 3.6);
    sheet
      .font('Helvetica')
      .fontSize(8)
      .fillColor(QUIET)
      .text(words, x + 7, y, { lineBreak: false });
    x += sheet.widthOfString(words) + 24;
  }
  sheet.text(`As it stands on ${sayDate(today)}. Days to come may still move inside their windows.`, x, y, {
    lineBreak: false,
  });
  sheet.y = y + 18;
}

/** The plan as PDF. */
export function drawYear(plan: YearPlan): Promise<Uint8Array> {
  const sheet = new PdfDocument({
    size: 'A4',
    layout: 'landscape',
    margin: MARGIN,
    bufferPages: true,
    info: { Title: `Upkeep ${plan.year}, ${plan.title}`, Author: 'Stavok' },
  });
  const chunks: Buffer[] = [];
  const made = new Promise<Uint8Array>((resolve, reject) => {
    sheet.on('data', (chunk: Buffer) => chunks.push(chunk));
    sheet.on('end', () => resolve(Buffer.concat(chunks)));
    sheet.on('error', reject);
  });
  sheet.font('Times-Bold').fontSize(17).fillColor(INK).text(`Upkeep ${plan.year}`, MARGIN, MARGIN);
  sheet.font('Helvetica').fontSize(10).fillColor(QUIET);
  sheet.text(`${plan.title}: ${sayVisits(plan.visits, plan.prices)}`);
  sheet.y += 6;
  legend(sheet, plan.today);
  heads(sheet);
  let place: string | null = null;
  for (const of of plan.rows) {
    if (of.place !== place) placeHead(sheet, (place = of.place));
    row(sheet, of);
  }
  const { start, count } = sheet.bufferedPageRange();
  for (let i = start; i < start + count; i += 1) {
    sheet.switchToPage(i);
    sheet.page.margins.bottom = 0;
    sheet.font('Helvetica').fontSize(8).fillColor(QUIET);
    sheet.text(`${i + 1} of ${count}`, MARGIN, sheet.page.height - MARGIN + 8, {
      ...{ align: 'right', width: sheet.page.width - 2 * MARGIN, height: 12 },
    });
  }
  sheet.end();
  return made;
}
