// @vitest-environment jsdom
// A clock line by line: what was counted and who recorded what; what else it could have been is asked beside it.
import { cleanup, screen, within } from '@testing-library/react';
import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import { readDerivations, type DerivationLineOut, type DerivationOut } from '#api/derivations.ts';
import { instant } from '#core/time/index.ts';
import { testHouse, type TestHouse } from '../shell/testing.tsx';
import { DerivationsOf } from './derivations.tsx';

const at = (time: string) => instant(Date.parse(`2026-11-24T${time}:00Z`));
const MINUTE = 60_000;
const line = (
  kind: DerivationLineOut['kind'],
  from: string,
  over: Partial<DerivationLineOut> = {},
): DerivationLineOut => ({
  ...{ kind, from: at(from), to: null, ms: 0, sum: 0, reason: null, notes: [], by: null },
  ...over,
});
const AS_IT_IS: DerivationOut = {
  ...{ state: 'missed', dueAt: at('09:00'), used: 30 * MINUTE, over: 15 * MINUTE, minutes: 30 },
  ...{ measure: 'Ribeira service hours', pauses: ['no access'] },
  lines: [
    line('started', '08:00', { by: { who: 'Inês', text: 'raised: call', recordedAt: at('08:05') } }),
    line('closed', '08:00', { to: at('08:30'), notes: ['Town holiday'] }),
    line('counted', '08:30', { to: at('09:00'), ms: 30 * MINUTE, sum: 30 * MINUTE }),
    line('due', '09:00'),
    line('late', '09:00', { to: at('09:15'), ms: 15 * MINUTE, sum: 15 * MINUTE }),
    line('paused', '09:15', { reason: 'no access' }),
  ],
};

let house: TestHouse;
let asked: string[];
beforeEach(() => {
  house = testHouse(at('09:20'));
  asked = [];
  house.answer(readDerivations, ({ query }) => {
    asked.push(query.toString());
    const isAsked = query.size > 0;
    return {
      ...{ now: at('09:20'), zone: 'Europe/Lisbon', title: 'Too warm', customer: 'Horta Nova', priority: 1 },
      calendars: [{ id: 4, name: 'Pedralonga service hours' }],
      items: [
        {
          ...{ target: 'response', assetId: 3, tag: 'Q003', serviceLevel: 'Cold storage', asIs: AS_IT_IS },
          whatIf: isAsked ? { ...AS_IT_IS, state: 'running', over: 0, measure: 'elapsed', pauses: [] } : null,
        },
        {
          ...{ target: 'arrival', assetId: 3, tag: 'Q003', serviceLevel: 'Cold storage', asIs: AS_IT_IS },
          whatIf: null,
        },
      ],
    };
  });
});
afterEach(() => cleanup());

describe('the clocks of an order', () => {
  it('say line by line what was counted, what was not and why, and who recorded it', async () => {
    house.open(<DerivationsOf id="7" />);
    const own = within(await screen.findByRole('region', { name: 'response, Q003' }));
    const rows = own
      .getAllByRole('row')
      .slice(1)
      .map((r) => r.textContent);
    expect(rows).toEqual([
      '08:00the clock starts · raised: callInês, recorded 08:05',
      '08:0008:30closed, not counted · Town holiday',
      '08:3009:00counted30 min30 min',
      '09:00due',
      '09:0009:15late15 min15 min',
      '09:15goes onpaused · no access',
    ]);
    expect(own.getByText(/missed by 15 min, due 09:00/)).toBeDefined();
    expect(own.getByText(/working time of Ribeira service hours; pauses: no access/)).toBeDefined();
    expect(screen.queryByText(/As it would be/)).toBeNull();
  });

  it('are asked what else they could have been, and say where that would promise nothing', async () => {
    const { user } = house.open(<DerivationsOf id="7" />);
    await user.selectOptions(await screen.findByLabelText('What if it had priority'), '2');
    await user.selectOptions(await screen.findByLabelText('counted by'), 'Pedralonga service hours');
    await user.selectOptions(await screen.findByLabelText('with pauses'), 'none');
    expect((await screen.findAllByText(/As it would be/)).length).toBe(1);
    expect(screen.getByText('At that priority the service level promises nothing here.')).toBeDefined();
    expect(asked.at(-1)).toBe('priority=2&calendar=4&pauses=none');
  });
});
