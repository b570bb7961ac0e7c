// The report of finished work, for the customer: a layout of our own, on A4, machine by machine, in the language of who asked for it.
import PdfDocument from 'pdfkit';
import type { OrderPage } from '#api/orders.ts';
import type { OrderCharges } from '#api/settle.ts';
import { orderNumber } from '#api/shapes.ts';
import { FINDINGS, type FormAnswer, type SignOff } from '#core/orders/index.ts';
import { sayAmount } from '#core/stores/index.ts';
import type { Language } from '#core/telling.ts';
import { localDateAt, sayDay, sayTimeOfDay, toWallTime, type Instant, type Zone } from '#core/time/index.ts';
import { bytesOf, heading, INK, MARGIN, QUIET, roomFor, rowOf, said, type Sheet } from '../platform/paper.ts';

export type Report = {
  readonly language: Language;
  readonly page: OrderPage;
  readonly charges: Pick<OrderCharges, 'entries' | 'parts'>;
  /** What was said when it was done. */
  readonly text: string;
  readonly signed: SignOff | null;
  /** What the customer drew with a finger, as JPEG or PNG; null: nobody did. */
  readonly signature: Uint8Array | null;
};

const WORDS = {
  en: {
    ...{ report: 'Service report', arrived: 'On site', done: 'Done', back: 'Back in use' },
    ...{ symptom: 'Symptom', fault: 'Fault', cause: 'Cause', remedy: 'Remedy', left: 'Left undone' },
    ...{ parts: 'Parts', hours: 'Time', quantity: 'Quantity', minutes: 'Minutes', day: 'Day', serial: 'Serial' },
    ...{
      said: 'What was done',
      signed: 'Signature',
      yes: 'yes',
      no: 'no',
      reference: 'Your reference',
      rest: 'Goes on with',
    },
  },
  pt: {
    ...{
      report: 'Relatório de serviço',
      arrived: 'No local',
      done: 'Concluído',
      back: 'De novo em uso',
    },
    ...{ symptom: 'Sintoma', fault: 'Avaria', cause: 'Causa', remedy: 'Solução', left: 'Por fazer' },
    ...{ parts: 'Peças', hours: 'Tempo', quantity: 'Quantidade', minutes: 'Minutos', day: 'Dia', serial: 'Série' },
    ...{
      said: 'O que foi feito',
      signed: 'Assinatura',
      yes: 'sim',
      no: 'não',
      reference: 'A sua referência',
      rest: 'Continua com',
    },
  },
} as const;
type Words = (typeof WORDS)[Language];

/** Points. */
const SIGNATURE = [180, 80] as const;

const moment = (at: Instant, zone: Zone): string =>
  `${sayDay(localDateAt(zone, at))}, ${sayTimeOfDay(toWallTime(zone, at).minutes)}`;

function headOf(sheet: Sheet, { page }: Report, words: Words): void {
  const zone = page.zone as Zone;
  const when = (kind: string) => page.events.find((e) => e.kind === kind);
  const [arrived, done] = [when('arrived'), when('done')];
  sheet
    .font('Times-Bold')
    .fontSize(20)
    .fillColor(INK)
    .text(`${words.report} ${orderNumber(page.id)}`, MARGIN, MARGIN);
  sheet.font('Helvetica').fontSize(11).text(page.title);
  sheet.moveDown(0.6);
  said(sheet, page.customer.name);
  if (page.address) said(sheet, page.address.value, QUIET);
  if (page.customerReference !== '') said(sheet, `${words.reference}: ${page.customerReference}`, QUIET);
  sheet.moveDown(0.4);
  if (arrived) said(sheet, `${words.arrived} ${moment(arrived.at, zone)}${arrived.who ? `, ${arrived.who}` : ''}`);
  if (done) said(sheet, `${words.done} ${moment(done.at, zone)}${done.who ? `, ${done.who}` : ''}`);
}

function answerOf(answer: FormAnswer, unit: string | null, words: Words): string {
  if (typeof answer === 'boolean') return answer ? words.yes : words.no;
  return answer === null ? '–' : `${answer}${unit ? ` ${unit}` : ''}`;
}

function machineOf(sheet: Sheet, report: Report, line: OrderPage['lines'][number], words: Words): void {
  const { page, charges } = report;
  heading(sheet, line.tag === '' ? line.place : `${line.className} ${line.model} ${line.tag}`);
  const serial = line.serial === '' ? '' : `${words.serial} ${line.serial}. `;
  said(sheet, `${serial}${line.place}`, QUIET);
  if (line.verdict) said(sheet, line.verdict.sentence);
  for (const what of FINDINGS) if (line.found[what]) said(sheet, `${words[what]}: ${line.found[what]}`);
  if (line.restoredAt !== null) said(sheet, `${words.back}: ${moment(line.restoredAt, page.zone as Zone)}`);
  if (line.left !== null) said(sheet, `${words.left}: ${line.left}`);
  if (line.handedOn !== null) said(sheet, `${words.rest} ${orderNumber(line.handedOn)}`);
  for (const task of page.tasks.filter((t) => t.lineId === line.id && t.outcome !== null))
    rowOf(sheet, [380], [task.text, task.outcome === 'done' ? words.done : words.left]);
  for (const form of page.forms.filter((f) => f.lineId === line.id && f.answers !== null)) {
    sheet.moveDown(0.3);
    said(sheet, form.name, QUIET);
    form.questions.forEach((q, i) => rowOf(sheet, [380], [q.text, answerOf(form.answers?.[i] ?? null, q.unit, words)]));
  }
  const parts = charges.parts.filter((p) => p.lineId === line.id);
  if (parts.length === 0) return;
  sheet.moveDown(0.3);
  rowOf(sheet, [300, 400], [words.parts, words.serial, words.quantity], QUIET);
  for (const { part, serial: own, thousandths } of parts)
    rowOf(sheet, [300, 400], [`${part.number} ${part.name}`, own, sayAmount(thousandths, part.unit)]);
}

function timeOf(sheet: Sheet, { charges: { entries } }: Report, words: Words): void {
  if (entries.length === 0) return;
  heading(sheet, words.hours);
  rowOf(sheet, [300, 400], ['', words.day, words.minutes], QUIET);
  const all = new Map<string, { name: string; day: string; minutes: number }>();
  for (const { person, day, minutes } of entries) {
    const key = `${person.id} ${day}`;
    all.set(key, { name: person.name, day: sayDay(day), minutes: (all.get(key)?.minutes ?? 0) + minutes });
  }
  for (const { name, day, minutes } of all.values()) rowOf(sheet, [300, 400], [name, day, String(minutes)]);
}

function signedOf(sheet: Sheet, { signed, signature }: Report, words: Words): void {
  if (signed === null) return;
  heading(sheet, words.signed);
  if (signature) {
    roomFor(sheet, SIGNATURE[1] + 20);
    const { y } = sheet;
    sheet.image(Buffer.from(signature), MARGIN, y, { fit: [...SIGNATURE] });
    sheet.y = y + SIGNATURE[1] + 4;
  }
  said(sheet, signed.by === '' ? signed.text : `${signed.by}, ${signed.function}`);
}

/** What was done, where, by whom, with what, and who signed for it; no prices: these are on the invoice. */
export function reportDocument(report: Report): Promise<Buffer> {
  const { page, language, text } = report;
  const words = WORDS[language];
  const title = `${words.report} ${orderNumber(page.id)}`;
  const sheet = new PdfDocument({ ...{ size: 'A4', margin: MARGIN }, info: { Title: title, Producer: 'Stavok' } });
  return bytesOf(sheet, () => {
    headOf(sheet, report, words);
    if (text !== '') {
      heading(sheet, words.said);
      said(sheet, text);
    }
    for (const line of page.lines) if (!line.off) machineOf(sheet, report, line, words);
    timeOf(sheet, report, words);
    signedOf(sheet, report, words);
  });
}
