import { XMLParser } from 'fast-xml-parser';
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { parseCurrency } from '../money.ts';
import { bankKeys, readBankList } from './bank.ts';
import { isoAmount, readStatement, type Element } from './statement.ts';

const EUR = parseCurrency('EUR') as NonNullable<ReturnType<typeof parseCurrency>>;
const tree = (xml: string): Element =>
  new XMLParser({
    ignoreAttributes: false,
    attributeNamePrefix: '@',
    removeNSPrefix: true,
    parseTagValue: false,
  }).parse(xml) as Element;

/** The statement of the message definition report for camt.053.001.02 (Finpetrol’s account at Bank A, 18 October 2010). */
const ISO_SAMPLE = `<?xml version="1.0" encoding="UTF-8"?>
<Document xmlns="urn:iso:std:iso:20022:tech:xsd:camt.053.001.02"><BkToCstmrStmt>
<GrpHdr><MsgId>AAAASESS-FP-STAT001</MsgId><CreDtTm>2010-10-18T17:00:00+01:00</CreDtTm></GrpHdr>
<Stmt><Id>AAAASESS-FP-STAT001</Id><CreDtTm>2010-10-18T17:00:00+01:00</CreDtTm>
<Acct><Id><Othr><Id>50000000054910000003</Id></Othr></Id><Ownr><Nm>FINPETROL</Nm></Ownr></Acct>
<Bal><Tp><CdOrPrtry><Cd>OPBD</Cd></CdOrPrtry></Tp><Amt Ccy="SEK">500000</Amt><CdtDbtInd>CRDT</CdtDbtInd><Dt><Dt>2010-10-15</Dt></Dt></Bal>
<Bal><Tp><CdOrPrtry><Cd>CLBD</Cd></CdOrPrtry></Tp><Amt Ccy="SEK">435678.50</Amt><CdtDbtInd>CRDT</CdtDbtInd><Dt><Dt>2010-10-18</Dt></Dt></Bal>
<Ntry><Amt Ccy="SEK">105678.50</Amt><CdtDbtInd>CRDT</CdtDbtInd><Sts>BOOK</Sts>
<BookgDt><DtTm>2010-10-18T13:15:00+01:00</DtTm></BookgDt><ValDt><Dt>2010-10-18</Dt></ValDt>
<AcctSvcrRef>AAAASESS-FP-CN_98765/01</AcctSvcrRef>
<NtryDtls><TxDtls><Refs><EndToEndId>MUELL/FINP/RA12345</EndToEndId></Refs>
<RltdPties><Dbtr><Nm>MUELLER</Nm></Dbtr></RltdPties></TxDtls></NtryDtls></Ntry>
<Ntry><Amt Ccy="SEK">200000</Amt><CdtDbtInd>DBIT</CdtDbtInd><Sts>BOOK</Sts>
<BookgDt><DtTm>2010-10-18T10:15:00+01:00</DtTm></BookgDt><ValDt><Dt>2010-10-18</Dt></ValDt>
<AcctSvcrRef>AAAASESS-FP-ACCR-01</AcctSvcrRef></Ntry>
<Ntry><Amt Ccy="SEK">30000</Amt><CdtDbtInd>CRDT</CdtDbtInd><Sts>BOOK</Sts>
<BookgDt><DtTm>2010-10-18T15:15:00+01:00</DtTm></BookgDt><ValDt><Dt>2010-10-18</Dt></ValDt>
<AcctSvcrRef>AAAASESS-FP-CONF-FX</AcctSvcrRef></Ntry>
</Stmt></BkToCstmrStmt></Document>`;

describe('a statement by ISO 20022', () => {
  it('is read as its own sample says: amounts, references, dates', () => {
    const read = readStatement(tree(ISO_SAMPLE));
    expect(read.bad).toEqual([]);
    expect(read.account).toBe('50000000054910000003');
    expect(read.entries.map((e) => [e.bookedOn, e.minor, e.currency, e.payer, e.text, e.bankReference])).toEqual([
      ['2010-10-18', 105_678_50, 'SEK', 'MUELLER', 'MUELL/FINP/RA12345', 'AAAASESS-FP-CN_98765/01'],
      ['2010-10-18', 30_000_00, 'SEK', '', '', 'AAAASESS-FP-CONF-FX'],
    ]);
    expect(read.passed).toEqual([{ line: 2, column: 'entry', message: 'It goes out.' }]);
    // Opening balance, what came in, what went out: the closing balance of the sample.
    expect(500_000_00 + read.entries.reduce((sum, e) => sum + e.minor, 0) - 200_000_00).toBe(435_678_50);
    expect(read.doubts).toEqual([]);
  });

  it('that lacks an entry its balances tell of is doubted, and read all the same', () => {
    const cut = ISO_SAMPLE.replace(/<Ntry><Amt Ccy="SEK">30000[\s\S]*?<\/Ntry>/, '');
    const read = readStatement(tree(cut));
    expect([read.entries.length, read.bad.length]).toEqual([1, 0]);
    expect(read.doubts).toEqual([
      'Statement 1 ends at SEK 435,678.50, but what it begins with and lists comes to SEK 405,678.50: something may be missing.',
    ]);
    // Overdrawn at the end, as it says; what is only announced does not count.
    const overdrawn = ISO_SAMPLE.replace('>435678.50</Amt><CdtDbtInd>CRDT', '>64321.50</Amt><CdtDbtInd>DBIT');
    expect(readStatement(tree(overdrawn.replace('>500000<', '>0.00<'))).doubts).toEqual([]);
    const pending = '<Ntry><Amt Ccy="SEK">9</Amt><CdtDbtInd>CRDT</CdtDbtInd><Sts>PDNG</Sts></Ntry></Stmt>';
    expect(readStatement(tree(ISO_SAMPLE.replace('</Stmt>', pending))).doubts).toEqual([]);
    // Without both balances nothing can be said.
    expect(readStatement(tree(cut.replace('CLBD', 'ITBD'))).doubts).toEqual([]);
  });

  const entry = (over: string, amount = '90.00') =>
    `<Ntry><Amt Ccy="EUR">${amount}</Amt><CdtDbtInd>CRDT</CdtDbtInd><Sts><Cd>BOOK</Cd></Sts><BookgDt><Dt>2026-11-20</Dt></BookgDt>${over}</Ntry>`;
  const of = (...entries: string[]) =>
    readStatement(
      tree(
        `<c:Document xmlns:c="urn:iso:std:iso:20022:tech:xsd:camt.053.001.08"><c:BkToCstmrStmt><c:Stmt><c:Acct><c:Id><c:IBAN>PT50 0002</c:IBAN></c:Id></c:Acct>${entries.join('')}</c:Stmt></c:BkToCstmrStmt></c:Document>`,
      ),
    );
  const part = (sum: string, text: string) =>
    `<TxDtls><Amt Ccy="EUR">${sum}</Amt><RltdPties><Dbtr><Pty><Nm>P ${text}</Nm></Pty></Dbtr><DbtrAcct><Id><IBAN>PT99 ${text}</IBAN></Id></DbtrAcct></RltdPties><RmtInf><Ustrd>INV-${text}</Ustrd></RmtInf></TxDtls>`;
  it('takes a batch apart where its sums are those of the entry, and as one otherwise', () => {
    const whole = of(entry(`<NtryDtls>${part('50.00', '10001')}${part('40', '10002')}</NtryDtls>`));
    expect(whole.entries.map((e) => [e.minor, e.text, e.payer, e.payerAccount])).toEqual([
      [50_00, 'INV-10001', 'P 10001', 'PT9910001'],
      [40_00, 'INV-10002', 'P 10002', 'PT9910002'],
    ]);
    const other = of(entry(`<NtryDtls>${part('50.00', '10001')}${part('39.99', '10002')}</NtryDtls>`));
    expect(other.entries.map((e) => [e.minor, e.text])).toEqual([[90_00, 'INV-10001 INV-10002']]);
  });
  it('says what is passed over and what cannot be read, and takes the rest', () => {
    const read = of(
      entry('<RvslInd>true</RvslInd>'),
      entry('').replace('BOOK', 'PDNG'),
      entry('', '90.001'),
      entry('').replace('2026-11-20', '2026-13-20'),
      entry('', '0.00'),
      entry(''),
    );
    expect(read.passed.map((p) => p.line)).toEqual([1, 2]);
    expect(read.bad.map((b) => [b.line, b.column])).toEqual([
      [3, 'Amt'],
      [4, 'BookgDt'],
      [5, 'Amt'],
    ]);
    expect(read.entries.map((e) => [e.line, e.minor])).toEqual([[6, 90_00]]);
  });
  it('is refused as a whole where it is something else, or of several accounts', () => {
    expect(readStatement(tree('<Document><Other/></Document>')).bad[0]?.message).toContain('no statement');
    expect(readStatement(tree('<html/>')).bad).toHaveLength(1);
    const stmt = (n: number) => `<Stmt><Acct><Id><IBAN>PT${n}</IBAN></Id></Acct></Stmt>`;
    const two = `<Document><BkToCstmrStmt>${stmt(1)}${stmt(2)}</BkToCstmrStmt></Document>`;
    expect(readStatement(tree(two)).bad[0]?.message).toContain('several accounts');
  });
  it('writes amounts with a point before decimals, never as thousands', () => {
    expect(['1.25', '1.250', '1.2500', '1250', '1,25', '-1', '1.255', ''].map((t) => isoAmount(t, 'EUR'))).toEqual([
      125,
      125,
      125,
      125_000,
      null,
      null,
      null,
      null,
    ]);
    expect([
      isoAmount('12', 'JPY'),
      isoAmount('12.0', 'JPY'),
      isoAmount('12.5', 'JPY'),
      isoAmount('1.255', 'KWD'),
    ]).toEqual([12, 12, null, 1255]);
  });
  it('any tree of elements is answered, never with a fault', () => {
    const node: fc.Arbitrary<unknown> = fc.letrec((tie) => ({
      node: fc.oneof(
        { depthSize: 'small' },
        fc.constantFrom('', 'CRDT', 'BOOK', '2026-11-20', '5.00', null, undefined),
        fc.dictionary(
          fc.constantFrom(
            'Document',
            'BkToCstmrStmt',
            'Stmt',
            'Ntry',
            'Amt',
            '@Ccy',
            '#text',
            'CdtDbtInd',
            'Sts',
            'BookgDt',
            'Dt',
          ),
          fc.oneof(tie('node'), fc.array(tie('node'), { maxLength: 3 })),
        ),
      ),
    })).node;
    fc.assert(
      fc.property(node, (of) => {
        for (const e of readStatement({ Document: { BkToCstmrStmt: { Stmt: of } } } as never).entries)
          expect(e.minor).toBeGreaterThan(0);
      }),
    );
  });
});

describe('a list of a bank', () => {
  const head = ['Date', 'Amount', 'Payer', 'Text', 'ID'];
  it('is read by its head in any order; what goes out is passed over, what is wrong is said by its line', () => {
    const read = readBankList(
      [
        head,
        ['2026-11-20', '1.250,00', 'Brizal  Enzymes', 'INV-10001', 'A1'],
        ['20/11/2026', '-12.00', 'Us', 'rent', ''],
        ['', '', '', '', ''],
        ['31/02/2026', 'much', '', '', ''],
        ['20.11.2026', '+0.01', '', 'x', ''],
      ],
      EUR,
    );
    expect(read.entries.map((e) => [e.line, e.bookedOn, e.minor, e.payer, e.bankReference])).toEqual([
      [2, '2026-11-20', 1_250_00, 'Brizal Enzymes', 'A1'],
      [6, '2026-11-20', 1, '', ''],
    ]);
    expect(read.passed.map((p) => p.line)).toEqual([3]);
    expect(read.bad.map((b) => [b.line, b.column])).toEqual([
      [5, 'booked'],
      [5, 'amount'],
    ]);
  });
  it('without its columns is refused as a whole', () => {
    expect(readBankList([['amount', 'payer']], EUR).bad[0]?.message).toContain('booked');
    expect(readBankList([['date', 'payer']], EUR).bad[0]?.message).toContain('amount');
    expect(readBankList([['date', 'amount']], EUR).bad[0]?.message).toContain('payer');
    expect(readBankList([], EUR).bad).toHaveLength(1);
  });
  it('gives equal payments keys of their own, the same ones whenever it is loaded, also within a longer list', () => {
    const row = fc.record({
      day: fc.constantFrom('2026-11-20', '2026-11-21'),
      sum: fc.constantFrom('5.00', '6.00'),
      id: fc.constantFrom('', 'A', 'B'),
    });
    fc.assert(
      fc.property(fc.array(row, { maxLength: 8 }), fc.array(row, { maxLength: 8 }), (first, then) => {
        const read = (rows: typeof first) =>
          bankKeys(readBankList([head, ...rows.map((r) => [r.day, r.sum, 'P', 'T', r.id])], EUR));
        const [some, more] = [read(first), read([...first, ...then])];
        expect(new Set(more).size).toBe(more.length);
        expect(more.slice(0, some.length)).toEqual(some);
      }),
    );
  });
});
