// The agreement as a document to print: a layout of our own, on A4, with everything that is promised.
import PdfDocument from 'pdfkit';
import type { AgreementPage } from '#api/agreements/index.ts';
import { COST_ELEMENTS } from '#core/entitlement/index.ts';
import { sayMoney, type Currency } from '#core/money.ts';
import { sayDay } from '#core/time/index.ts';
import { bytesOf, hairlineAcross, INK, MARGIN, QUIET, type Sheet } from '../platform/paper.ts';
import type { DocumentFacts } from './document-facts.ts';

function heading(sheet: Sheet, text: string): void {
  if (sheet.y > sheet.page.height - 140) sheet.addPage();
  sheet.moveDown(1.1).font('Times-Bold').fontSize(13).fillColor(INK).text(text, MARGIN);
  hairlineAcross(sheet, 3, 6);
}

function pair(sheet: Sheet, name: string, value: string): void {
  const width = sheet.page.width - 2 * MARGIN - 130;
  sheet.font('Helvetica').fontSize(10);
  const height = Math.max(sheet.heightOfString(value, { width }), sheet.heightOfString(name, { width: 125 }));
  if (sheet.y + height > sheet.page.height - MARGIN) sheet.addPage();
  const { y } = sheet;
  sheet.fillColor(QUIET).text(name, MARGIN, y, { width: 125 });
  sheet.fillColor(INK).text(value, MARGIN + 130, y, { width });
  sheet.y = y + height + 4;
}

function sentence(sheet: Sheet, text: string): void {
  const width = sheet.page.width - 2 * MARGIN;
  sheet.font('Helvetica').fontSize(10);
  if (sheet.y + sheet.heightOfString(text, { width }) > sheet.page.height - MARGIN) sheet.addPage();
  sheet.fillColor(INK).text(text, MARGIN, sheet.y, { width });
  sheet.moveDown(0.3);
}

const money = (page: AgreementPage, minor: number): string => sayMoney({ minor, currency: page.currency as Currency });

function headerOf(sheet: Sheet, page: AgreementPage): void {
  sheet.font('Times-Bold').fontSize(20).fillColor(INK).text(page.name, MARGIN, MARGIN);
  sheet.font('Helvetica').fontSize(10).fillColor(QUIET);
  sheet.text(`Service agreement ${page.number}, ${page.stage}`, MARGIN);
  heading(sheet, 'Parties and term');
  pair(sheet, 'Customer', page.customer.name);
  if (page.contacts.length > 0)
    pair(sheet, 'Contacts', page.contacts.map((c) => [c.name, c.role, c.phone].filter((x) => x).join(', ')).join('\n'));
  pair(sheet, 'Account manager', page.manager?.name ?? 'not named');
  pair(sheet, 'Term', `${sayDay(page.from)} to ${page.to ? sayDay(page.to) : 'open end'}`);
  pair(sheet, 'Renewal', page.renewal);
}

function termsOf(page: AgreementPage, line: AgreementPage['lines'][number]): string {
  const { terms } = line;
  const said = [
    COST_ELEMENTS.map((e) => `${e} ${terms.shares[e]} %`).join(', '),
    `work included: ${terms.kinds.join(', ')}`,
    ...(terms.excludedCauses.length > 0 ? [`not for: ${terms.excludedCauses.join(', ')}`] : []),
    ...(terms.excludedParts.length > 0 ? [`parts left out: ${terms.excludedParts.join(', ')}`] : []),
    ...terms.discounts.map((d) => `${d.percent} % off ${d.element} for ${d.kinds.join(', ')}`),
    ...(line.serviceLevel ? [`service level: ${line.serviceLevel.name}`] : []),
    ...(terms.priceMinor !== null ? [`${money(page, terms.priceMinor)} per ${page.billingPer}`] : []),
    ...(terms.from && terms.from > page.from ? [`from ${sayDay(terms.from)}`] : []),
    ...(terms.to ? [`to ${sayDay(terms.to)}`] : []),
  ];
  return `${said.join('; ')} (${line.assetsReached} ${line.assetsReached === 1 ? 'machine' : 'machines'})`;
}

/** Schedules that promise the same, with the tags of their machines. */
function visitsAlike(page: AgreementPage): Map<string, string[]> {
  const alike = new Map<string, string[]>();
  for (const s of page.schedules) {
    const said = `${s.jobPlan}: ${s.sentence}; in time from ${s.window}`;
    alike.set(said, [...(alike.get(said) ?? []), s.tag]);
  }
  return alike;
}

/** What is given: coverage, service levels, counted rights, visits. */
function givenTerms(sheet: Sheet, page: AgreementPage, facts: DocumentFacts): void {
  heading(sheet, 'What is covered');
  if (page.lines.length === 0) pair(sheet, 'Coverage', 'nothing yet');
  for (const line of page.lines) pair(sheet, line.label, termsOf(page, line));
  for (const level of facts.levels) {
    heading(sheet, `Service level ${level.name}`);
    for (const said of level.sentences) sentence(sheet, said);
  }
  if (page.allowances.length > 0) {
    heading(sheet, 'Counted rights');
    for (const a of page.allowances)
      pair(
        sheet,
        a.unit,
        `${a.sentence}; ${a.carriesOver ? 'what is left goes into the next period' : 'what is left lapses'}`,
      );
  }
  if (page.schedules.length > 0) {
    heading(sheet, 'Preventive visits');
    for (const [said, tags] of visitsAlike(page)) pair(sheet, said, tags.join(', '));
  }
}

function priceTerms(sheet: Sheet, page: AgreementPage, facts: DocumentFacts): void {
  heading(sheet, 'Price');
  for (const { from, minor } of facts.prices)
    pair(
      sheet,
      `From ${sayDay(from)}`,
      minor === null ? 'no price for the whole' : `${money(page, minor)} per ${page.billingPer}`,
    );
  pair(sheet, 'Billed', `per ${page.billingPer}, ${page.billingTiming}; broken periods by actual days`);
  if (page.indexation)
    pair(
      sheet,
      'Indexation',
      `${page.indexation.fixedPercent} % fixed, ${100 - page.indexation.fixedPercent} % follow the index from ${(page.indexation.base / 100).toFixed(2)}`,
    );
}

function signatures(sheet: Sheet, page: AgreementPage): void {
  heading(sheet, 'Signatures');
  sheet.moveDown(2.5);
  const half = (sheet.page.width - 2 * MARGIN - 30) / 2;
  const { y } = sheet;
  for (const [i, name] of ['For the provider', `For ${page.customer.name}`].entries()) {
    const x = MARGIN + i * (half + 30);
    sheet
      .moveTo(x, y)
      .lineTo(x + half, y)
      .lineWidth(0.6)
      .strokeColor(INK)
      .stroke();
    sheet
      .font('Helvetica')
      .fontSize(9)
      .fillColor(QUIET)
      .text(`${name}, place and date`, x, y + 4, { width: half });
  }
}

function pageNumbers(sheet: Sheet, page: AgreementPage): void {
  const pages = sheet.bufferedPageRange();
  for (let i = 0; i < pages.count; i += 1) {
    sheet.switchToPage(i);
    sheet.page.margins.bottom = 0;
    sheet
      .font('Helvetica')
      .fontSize(8)
      .fillColor(QUIET)
      .text(`${page.number} · page ${i + 1} of ${pages.count}`, MARGIN, sheet.page.height - 34, {
        width: sheet.page.width - 2 * MARGIN,
        align: 'right',
        lineBreak: false,
      });
  }
}

export function agreementDocument(page: AgreementPage, facts: DocumentFacts): Promise<Buffer> {
  const sheet = new PdfDocument({
    size: 'A4',
    margin: MARGIN,
    bufferPages: true,
    info: { Title: `${page.number} ${page.name}`, Producer: 'Stavok' },
  });
  return bytesOf(sheet, () => {
    headerOf(sheet, page);
    givenTerms(sheet, page, facts);
    priceTerms(sheet, page, facts);
    if (facts.machines.length > 0) {
      heading(sheet, `Machines covered (${facts.machines.length})`);
      for (const m of facts.machines) pair(sheet, m.tag, `${m.what}, serial ${m.serial}; ${m.place}`);
    }
    signatures(sheet, page);
    pageNumbers(sheet, page);
  });
}
