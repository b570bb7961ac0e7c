// The worked examples of RFC 5545, section 3.8.5.3, each with the dates it prints.
import { describe, expect, it } from 'vitest';
import { asLocalDate, type LocalDate } from '../time/index.ts';
import { expandDates, nextDates, parseRule, type RecurrenceRule } from './index.ts';

const d = (text: string): LocalDate => asLocalDate(text);
function rule(text: string): RecurrenceRule {
  const read = parseRule(text);
  if (!read.ok) throw new Error(read.refusals.map((r) => r.message).join(' '));
  return read.value;
}
const dates = (text: string, anchor: string, from: string, to: string): LocalDate[] =>
  expandDates(rule(text), d(anchor), { from: d(from), to: d(to) });
const first = (text: string, anchor: string, n: number): LocalDate[] => nextDates(rule(text), d(anchor), d(anchor), n);

// RFC 5545, section 3.8.5.3: the worked examples whose parts are inside the subset (dates only; times of day dropped).
describe('the examples of RFC 5545, section 3.8.5.3', () => {
  const examples: [string, string, string[]][] = [
    [
      'FREQ=DAILY;COUNT=10',
      '1997-09-02',
      [
        '1997-09-02',
        '1997-09-03',
        '1997-09-04',
        '1997-09-05',
        '1997-09-06',
        '1997-09-07',
        '1997-09-08',
        '1997-09-09',
        '1997-09-10',
        '1997-09-11',
      ],
    ],
    [
      'FREQ=DAILY;INTERVAL=10;COUNT=5',
      '1997-09-02',
      ['1997-09-02', '1997-09-12', '1997-09-22', '1997-10-02', '1997-10-12'],
    ],
    [
      'FREQ=WEEKLY;COUNT=10',
      '1997-09-02',
      [
        '1997-09-02',
        '1997-09-09',
        '1997-09-16',
        '1997-09-23',
        '1997-09-30',
        '1997-10-07',
        '1997-10-14',
        '1997-10-21',
        '1997-10-28',
        '1997-11-04',
      ],
    ],
    [
      'FREQ=WEEKLY;UNTIL=19971007T000000Z;WKST=SU;BYDAY=TU,TH',
      '1997-09-02',
      [
        '1997-09-02',
        '1997-09-04',
        '1997-09-09',
        '1997-09-11',
        '1997-09-16',
        '1997-09-18',
        '1997-09-23',
        '1997-09-25',
        '1997-09-30',
        '1997-10-02',
        '1997-10-07',
      ],
    ],
    [
      'FREQ=WEEKLY;INTERVAL=2;COUNT=8;WKST=SU;BYDAY=TU,TH',
      '1997-09-02',
      ['1997-09-02', '1997-09-04', '1997-09-16', '1997-09-18', '1997-09-30', '1997-10-02', '1997-10-14', '1997-10-16'],
    ],
    [
      'FREQ=MONTHLY;COUNT=10;BYDAY=1FR',
      '1997-09-05',
      [
        '1997-09-05',
        '1997-10-03',
        '1997-11-07',
        '1997-12-05',
        '1998-01-02',
        '1998-02-06',
        '1998-03-06',
        '1998-04-03',
        '1998-05-01',
        '1998-06-05',
      ],
    ],
    [
      'FREQ=MONTHLY;UNTIL=19971224T000000Z;BYDAY=1FR',
      '1997-09-05',
      ['1997-09-05', '1997-10-03', '1997-11-07', '1997-12-05'],
    ],
    [
      'FREQ=MONTHLY;INTERVAL=2;COUNT=10;BYDAY=1SU,-1SU',
      '1997-09-07',
      [
        '1997-09-07',
        '1997-09-28',
        '1997-11-02',
        '1997-11-30',
        '1998-01-04',
        '1998-01-25',
        '1998-03-01',
        '1998-03-29',
        '1998-05-03',
        '1998-05-31',
      ],
    ],
    [
      'FREQ=MONTHLY;COUNT=6;BYDAY=-2MO',
      '1997-09-22',
      ['1997-09-22', '1997-10-20', '1997-11-17', '1997-12-22', '1998-01-19', '1998-02-16'],
    ],
    [
      'FREQ=MONTHLY;BYMONTHDAY=-3;COUNT=6',
      '1997-09-28',
      ['1997-09-28', '1997-10-29', '1997-11-28', '1997-12-29', '1998-01-29', '1998-02-26'],
    ],
    [
      'FREQ=MONTHLY;COUNT=10;BYMONTHDAY=2,15',
      '1997-09-02',
      [
        '1997-09-02',
        '1997-09-15',
        '1997-10-02',
        '1997-10-15',
        '1997-11-02',
        '1997-11-15',
        '1997-12-02',
        '1997-12-15',
        '1998-01-02',
        '1998-01-15',
      ],
    ],
    [
      'FREQ=MONTHLY;COUNT=10;BYMONTHDAY=1,-1',
      '1997-09-30',
      [
        '1997-09-30',
        '1997-10-01',
        '1997-10-31',
        '1997-11-01',
        '1997-11-30',
        '1997-12-01',
        '1997-12-31',
        '1998-01-01',
        '1998-01-31',
        '1998-02-01',
      ],
    ],
    [
      'FREQ=MONTHLY;INTERVAL=18;COUNT=10;BYMONTHDAY=10,11,12,13,14,15',
      '1997-09-10',
      [
        '1997-09-10',
        '1997-09-11',
        '1997-09-12',
        '1997-09-13',
        '1997-09-14',
        '1997-09-15',
        '1999-03-10',
        '1999-03-11',
        '1999-03-12',
        '1999-03-13',
      ],
    ],
    [
      'FREQ=YEARLY;COUNT=10;BYMONTH=6,7',
      '1997-06-10',
      [
        '1997-06-10',
        '1997-07-10',
        '1998-06-10',
        '1998-07-10',
        '1999-06-10',
        '1999-07-10',
        '2000-06-10',
        '2000-07-10',
        '2001-06-10',
        '2001-07-10',
      ],
    ],
    [
      'FREQ=YEARLY;INTERVAL=2;COUNT=10;BYMONTH=1,2,3',
      '1997-03-10',
      [
        '1997-03-10',
        '1999-01-10',
        '1999-02-10',
        '1999-03-10',
        '2001-01-10',
        '2001-02-10',
        '2001-03-10',
        '2003-01-10',
        '2003-02-10',
        '2003-03-10',
      ],
    ],
    ['FREQ=YEARLY;BYDAY=20MO;COUNT=3', '1997-05-19', ['1997-05-19', '1998-05-18', '1999-05-17']],
    [
      'FREQ=YEARLY;BYMONTH=3;BYDAY=TH;COUNT=11',
      '1997-03-13',
      [
        '1997-03-13',
        '1997-03-20',
        '1997-03-27',
        '1998-03-05',
        '1998-03-12',
        '1998-03-19',
        '1998-03-26',
        '1999-03-04',
        '1999-03-11',
        '1999-03-18',
        '1999-03-25',
      ],
    ],
    [
      'FREQ=MONTHLY;BYDAY=FR;BYMONTHDAY=13;COUNT=5',
      '1997-09-02',
      ['1998-02-13', '1998-03-13', '1998-11-13', '1999-08-13', '2000-10-13'],
    ],
    [
      'FREQ=MONTHLY;BYDAY=SA;BYMONTHDAY=7,8,9,10,11,12,13;COUNT=10',
      '1997-09-13',
      [
        '1997-09-13',
        '1997-10-11',
        '1997-11-08',
        '1997-12-13',
        '1998-01-10',
        '1998-02-07',
        '1998-03-07',
        '1998-04-11',
        '1998-05-09',
        '1998-06-13',
      ],
    ],
    [
      'FREQ=YEARLY;INTERVAL=4;BYMONTH=11;BYDAY=TU;BYMONTHDAY=2,3,4,5,6,7,8;COUNT=3',
      '1996-11-05',
      ['1996-11-05', '2000-11-07', '2004-11-02'],
    ],
    ['FREQ=MONTHLY;COUNT=3;BYDAY=TU,WE,TH;BYSETPOS=3', '1997-09-04', ['1997-09-04', '1997-10-07', '1997-11-06']],
    [
      'FREQ=MONTHLY;BYDAY=MO,TU,WE,TH,FR;BYSETPOS=-2;COUNT=7',
      '1997-09-29',
      ['1997-09-29', '1997-10-30', '1997-11-27', '1997-12-30', '1998-01-29', '1998-02-26', '1998-03-30'],
    ],
    [
      'FREQ=WEEKLY;INTERVAL=2;COUNT=4;BYDAY=TU,SU;WKST=MO',
      '1997-08-05',
      ['1997-08-05', '1997-08-10', '1997-08-19', '1997-08-24'],
    ],
    [
      'FREQ=WEEKLY;INTERVAL=2;COUNT=4;BYDAY=TU,SU;WKST=SU',
      '1997-08-05',
      ['1997-08-05', '1997-08-17', '1997-08-19', '1997-08-31'],
    ],
    [
      'FREQ=MONTHLY;BYMONTHDAY=15,30;COUNT=5',
      '2007-01-15',
      ['2007-01-15', '2007-01-30', '2007-02-15', '2007-03-15', '2007-03-30'],
    ],
  ];
  it.each(examples)('%s from %s', (text, anchor, expected) => {
    expect(first(text, anchor, expected.length)).toEqual(expected);
  });

  it('every day in January for three years', () => {
    const yearly = dates(
      'FREQ=YEARLY;UNTIL=20000131T140000Z;BYMONTH=1;BYDAY=SU,MO,TU,WE,TH,FR,SA',
      '1998-01-01',
      '1998-01-01',
      '2001-01-01',
    );
    expect(yearly).toHaveLength(93);
    expect(dates('FREQ=DAILY;UNTIL=20000131T140000Z;BYMONTH=1', '1998-01-01', '1998-01-01', '2001-01-01')).toEqual(
      yearly,
    );
  });
});
