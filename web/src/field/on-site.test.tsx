// @vitest-environment jsdom
// What is done on site by phone, page by page: what each sends is what the server reads, and what is wrong is said where it is.
import { cleanup, screen, waitFor, within } from '@testing-library/react';
import { describe, expect, it } from 'vitest';
import { lineScanned, partScanned } from './scan.tsx';
import { go, ME, onOnePhone, openPhone, press, ready, repair, sent, vanPart, vanWith, write } from './testing.tsx';

onOnePhone();

describe('on site', () => {
  it('a form refuses at its question, says what is expected, and keeps the answers', async () => {
    const house = await openPhone('/order/7');
    await press(house, 'I am there');
    await go(house, /Pressure/);
    await press(house, 'Keep the answers');
    expect(await screen.findByText(/✕/)).toBeTruthy();
    await ready('Keep the answers');
    await write(house, /Shown/, '4,5');
    expect(await screen.findByText('▲ expected 1 to 3 bar')).toBeTruthy();
    await press(house, 'Keep the answers');
    await waitFor(() =>
      expect(house.bodies().at(-1)).toMatchObject({ kind: 'order', act: { kind: 'form', formId: 90, answers: [4.5] } }),
    );
  });

  it('another cost is an amount above nothing, and what it was for', async () => {
    const house = await openPhone('/order/7/cost');
    await press(house, 'Parking');
    await write(house, /^Paid/, '0');
    await press(house, 'Keep the cost');
    expect(await screen.findByText(/Write what was paid/)).toBeTruthy();
    await write(house, /^Paid/, '4,50');
    await ready('Keep the cost');
    await press(house, 'Keep the cost');
    await waitFor(() =>
      expect(house.bodies()).toMatchObject([
        {
          kind: 'cost',
          orderId: 7,
          lineId: 11,
          text: 'Parking',
          cost: 450,
          price: 450,
          day: '2026-11-24',
          receipt: null,
        },
      ]),
    );
    // Opened by its address there is no page to go back to: its order is.
    await waitFor(() => expect(window.location.pathname).toBe('/field/order/7'));
    await sent(house);
  });

  it('a part is used out of the van with what is left; more than there is, is refused', async () => {
    const house = await openPhone('/order/7');
    await press(house, 'I am there');
    await go(house, 'Part');
    await press(house, /Door gasket/);
    await write(house, /^How many/, '5');
    await press(house, 'Used here');
    expect(await screen.findByText(/Only 4 pieces in your van/)).toBeTruthy();
    await write(house, /^How many/, '1');
    expect(screen.getByText('3 pieces left in your van')).toBeTruthy();
    await press(house, 'Used here');
    await waitFor(() => expect(house.bodies().at(-1)).toMatchObject({ kind: 'part', thousandths: 1000, storeId: 40 }));
    await go(house, 'Van');
    expect(within(await screen.findByRole('link', { name: /Door gasket/ })).getByText('3 pieces')).toBeTruthy();
    await sent(house);
  });

  it('a scanned code is found by its label, number or serial, or is nothing here', () => {
    const order = repair() as never;
    expect(lineScanned(order, 'https://x.example/assets/tag/Q0119').lineId).toBe(11);
    expect(lineScanned(order, 'plf410 q1119').lineId).toBe(11);
    expect(lineScanned(order, 'https://x.example/stores/scan/Q0119').lineId).toBeNull();
    const parts = [vanPart(), vanPart({ partId: 32, number: 'CR-DH-15', serialTracked: true, serials: ['S-9'] })];
    expect(partScanned(parts, 'https://x.example/stores/scan/TN-GS-540').part?.partId).toBe(31);
    expect(partScanned(parts, 'S-9')).toMatchObject({ serial: 'S-9', part: { partId: 32 } });
    expect(partScanned(parts, 'https://x.example/assets/tag/S-9').part).toBeNull();
    expect(partScanned(parts, 'nothing').part).toBeNull();
  });
});

describe('the van and the week', () => {
  it('parts are handed over as far as they are free, and only where somebody said where to', async () => {
    const house = await openPhone('/van/31/hand-over');
    await write(house, /^How many/, '4');
    await press(house, 'It is handed over');
    expect(await screen.findByText(/3 pieces are free/)).toBeTruthy();
    await write(house, /^How many/, '2');
    await ready('It is handed over');
    await press(house, 'It is handed over');
    expect(await screen.findByText(/Choose where it goes/)).toBeTruthy();
    await write(house, /To whose van/, 'pedra');
    expect(screen.queryByRole('button', { name: 'Van 2' })).toBeNull();
    await press(house, 'Pedralonga');
    await ready('It is handed over');
    await press(house, 'It is handed over');
    await waitFor(() =>
      expect(house.bodies()).toMatchObject([
        { kind: 'handed over', toId: 41, lines: [{ partId: 31, thousandths: 2000 }] },
      ]),
    );
    await sent(house);
  });

  it('a count says what differs, and of what is kept by serial which are there', async () => {
    const tracked = vanPart({
      partId: 32,
      name: 'Heater',
      serialTracked: true,
      serials: ['S-1', 'S-2'],
      onHand: 2000,
      free: 2000,
    });
    const van = vanWith([vanPart(), tracked]);
    const house = await openPhone('/van/31/count', { days: { van } });
    await press(house, 'So many are there');
    expect(await screen.findByText(/Write how many there are/)).toBeTruthy();
    await write(house, /^How many/, '3');
    expect(screen.getByText(/1 piece less/)).toBeTruthy();
    await ready('So many are there');
    await press(house, 'So many are there');
    await waitFor(() => expect(house.bodies()).toMatchObject([{ kind: 'counted', partId: 31, thousandths: 3000 }]));
    cleanup();
    const other = await openPhone('/van/32/count', { days: { van } });
    await press(other, 'S-2');
    await press(other, 'So many are there');
    await waitFor(() =>
      expect(other.bodies()).toMatchObject([{ kind: 'counted', partId: 32, thousandths: 1000, serials: ['S-2'] }]),
    );
    await sent(other);
  });

  it('a week is handed in after the hours that wait for it', async () => {
    const house = await openPhone('/order/7/hours');
    await write(house, 'From', '08:00');
    await write(house, 'To', '9.10');
    await press(house, 'Keep the hours');
    await waitFor(() => expect(house.bodies()).toHaveLength(1));
    await go(house, 'Week');
    expect(await screen.findByText('more hours wait to be sent')).toBeTruthy();
    await press(house, 'Hand the week in');
    expect(await screen.findByText('handed in')).toBeTruthy();
    const [hours, week] = house.phone.state().queue;
    expect(week?.act.needs).toEqual([hours?.act.deed]);
    await sent(house);
  });

  it('an absence ends after it begins, and is asked for as whole days', async () => {
    const house = await openPhone('/absence');
    await press(house, 'leave');
    await write(house, 'First day', '2026-12-15');
    await write(house, 'Last day', '2026-12-14');
    await press(house, 'Ask for it');
    expect(await screen.findByText(/ends before it begins/)).toBeTruthy();
    await write(house, 'Last day', '2026-12-16');
    await ready('Ask for it');
    await press(house, 'Ask for it');
    await waitFor(() =>
      expect(house.bodies()).toEqual([
        {
          kind: 'absent',
          absence: { kind: 'leave', from: '2026-12-15T00:00:00.000Z', to: '2026-12-17T00:00:00.000Z', text: '' },
        },
      ]),
    );
    await sent(house);
  });
});

describe('before and after the work', () => {
  it('an appointment is accepted, or said to be late with what the customer hears', async () => {
    const house = await openPhone('/order/7');
    await go(house, 'Accept?');
    await press(house, 'I take it');
    await waitFor(() =>
      expect(house.bodies()).toMatchObject([{ kind: 'answer', appointmentId: 100, version: 1, accepted: true }]),
    );
    await go(house, 'Running late');
    await press(house, '45 min');
    // Planned for 09:50; Lisbon’s time is that of Greenwich in November.
    expect(await screen.findByText('The customer is told: at about 10:35.')).toBeTruthy();
    await write(house, 'Why', 'traffic');
    await press(house, 'Tell them');
    await waitFor(() =>
      expect(house.bodies().at(-1)).toMatchObject({ kind: 'late', appointmentId: 100, minutes: 45, text: 'traffic' }),
    );
    await sent(house);
  });

  it('work that waits pauses the order for a reason, and goes on', async () => {
    const house = await openPhone('/order/7');
    await press(house, 'I am there');
    await go(house, 'Pause');
    expect((await screen.findByRole('button', { name: 'Pause' })).hasAttribute('disabled')).toBe(true);
    await press(house, /^parts/);
    await press(house, 'Pause');
    await press(house, 'Go on with it');
    await screen.findByRole('button', { name: 'Back in use' });
    expect(house.bodies().map((b) => (b.kind === 'order' ? b.act.kind : b.kind))).toEqual([
      'arrived',
      'paused',
      'resumed',
    ]);
    await sent(house);
  });

  it('what cannot be finished goes on as another order, with its reason', async () => {
    const house = await openPhone('/order/7');
    await press(house, 'I am there');
    await go(house, 'Rest');
    await write(house, /What is left/, 'needs a new fan');
    await press(house, 'Leave it for another visit');
    await waitFor(() =>
      expect(house.bodies().at(-1)).toMatchObject({
        kind: 'rest',
        orderId: 7,
        lineIds: [11],
        reason: 'needs a new fan',
      }),
    );
    await sent(house);
  });

  it('meters are read as numbers, and one that is none is named', async () => {
    const house = await openPhone('/order/7/reading/11');
    await write(house, /Run hours/, 'many');
    await press(house, 'Keep the readings');
    expect(await screen.findByText(/Run hours: write a number/)).toBeTruthy();
    await ready('Keep the readings');
    await write(house, /Run hours/, '6580,5');
    await press(house, 'Keep the readings');
    await waitFor(() => expect(house.bodies()).toMatchObject([{ kind: 'reading', meterId: 51, value: 6580.5 }]));
    await sent(house);
  });

  it('what was found is said in the words of the class or in one’s own', async () => {
    const house = await openPhone('/order/7');
    await press(house, 'I am there');
    await go(house, /What was found/);
    await press(house, 'wear');
    await press(house, 'fan replaced');
    await press(house, 'fan replaced');
    await write(house, 'What you did', 'bearing greased');
    await press(house, 'Keep it');
    await waitFor(() =>
      expect(house.bodies().at(-1)).toMatchObject({
        kind: 'order',
        act: { kind: 'found', lineId: 11, symptom: null, fault: null, cause: 'wear', remedy: 'bearing greased' },
      }),
    );
  });

  it('done is offered when nothing is missing, and nobody signing has a reason', async () => {
    const house = await openPhone('/order/7');
    await press(house, 'I am there');
    await press(house, /look for leaks/);
    await go(house, /Pressure/);
    await write(house, /Shown/, '2');
    await press(house, 'Keep the answers');
    await go(house, /What was found/);
    await press(house, 'wear');
    await press(house, 'fan replaced');
    await press(house, 'Keep it');
    await press(house, 'Back in use');
    await press(house, 'Finish');
    await write(house, /Or why nobody does/, 'nobody was there');
    await press(house, 'Keep it');
    expect(await screen.findByText('Nobody signed: nobody was there')).toBeTruthy();
    await write(house, /What was done/, 'new fan');
    await press(house, 'Done');
    expect(await screen.findByRole('group', { name: 'Day' })).toBeTruthy();
    await sent(house);
    expect(house.office.taken.at(-1)?.body).toMatchObject({ kind: 'order', act: { kind: 'done', text: 'new fan' } });
  });
});

describe('what only the office knows', () => {
  it('without a network is said to be so; with one, parts of the list are found and where they are', async () => {
    const house = await openPhone('/order/7/part');
    await write(house, /Number, name/, 'heater');
    expect(await screen.findByText(/can be searched when there is a signal/)).toBeTruthy();
    house.office.listed = [{ id: 77, number: 'CR-DH-15', name: 'Defrost heater', unit: 'piece' }];
    house.office.elsewhere = {
      stores: [
        { store: { id: 41, name: 'Pedralonga' }, person: null, free: 2000 },
        { store: { id: 40, name: 'Van 8' }, person: { id: 5, name: ME.name }, free: 1000 },
      ],
      ordered: [
        {
          ...{ purchaseId: 9, store: { id: 41, name: 'Pedralonga' }, supplier: { id: 1, name: 'Tindrel' } },
          ...{ thousandths: 5000, promisedOn: '2026-11-28', sent: true },
        },
      ],
    };
    house.office.net = 'there';
    house.phone.look();
    await write(house, /Number, name/, 'defrost');
    await press(house, /Defrost heater/);
    const elsewhere = within(await screen.findByRole('region', { name: 'Elsewhere' }));
    expect(elsewhere.getByText('Pedralonga')).toBeTruthy();
    expect(elsewhere.getByText('2 pieces free')).toBeTruthy();
    expect(elsewhere.getByText('28 Nov 2026')).toBeTruthy();
    // The own van is no elsewhere, and what is not in it is asked for.
    expect(elsewhere.queryByText(/Van 8/)).toBeNull();
    expect(screen.queryByRole('button', { name: 'Used here' })).toBeNull();
    await press(house, 'Needed, to be brought');
    await waitFor(() =>
      expect(house.office.taken.at(-1)?.body).toMatchObject({ kind: 'need', partId: 77, thousandths: 1000 }),
    );
  });
});
