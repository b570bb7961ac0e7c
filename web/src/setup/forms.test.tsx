// @vitest-environment jsdom
// The forms of Setup: what is typed travels as the wire reads it, and what cannot be read is said where it was typed.
import { cleanup, screen, waitFor, within } from '@testing-library/react';
import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import { addClass, addModel, changeClass, readCatalogue } from '#api/catalogue.ts';
import { changeNumbering, readNumbering, addAgreementType, listAgreementTypes } from '#api/agreements/index.ts';
import { addForm, listForms } from '#api/forms.ts';
import * as alertRules from '#api/alert-rules.ts';
import * as setup from '#api/setup.ts';
import { refusal, testHouse, type TestHouse } from '../shell/testing.tsx';
import { AgreementTypes } from './agreement-types.tsx';
import { AlertRules } from './alert-rules.tsx';
import { Calendars } from './calendars.tsx';
import { Catalogue } from './catalogue.tsx';
import { ClassForms } from './class-forms.tsx';
import { Gateways } from './gateways.tsx';
import { Numbering } from './numbering.tsx';

const NOW = Date.UTC(2026, 10, 24, 9, 20);
const DONE = { done: true };
const CALENDAR = {
  id: 3,
  version: 2,
  name: 'Ribeira service hours',
  zone: 'Europe/Lisbon',
  weekly: [1, 2, 3, 4, 5, 6, 7].map((d) => (d < 6 ? [{ from: 540, to: 1080 }] : [])),
  closed: [{ date: '2026-12-25', name: 'Christmas' }],
  extraOpen: [],
  heldUntil: [],
};
const LEVEL = {
  id: 6,
  version: 1,
  name: 'Cold storage',
  pauses: ['no access'],
  targets: { 1: { response: { measure: 'elapsed', minutes: 30 } } },
  pledge: null,
  holdsFrom: null,
  past: [],
};
const REFERENCE = {
  today: '2026-11-24',
  zone: 'Europe/Lisbon',
  calendars: [CALENDAR],
  serviceLevels: [LEVEL],
  jobPlans: [{ id: 5, name: 'Yearly care' }],
  classes: [{ id: 11, name: 'Steam steriliser' }],
  technicians: [],
  depots: [],
  skills: [],
  managers: [],
  people: [],
  priorities: ['down', 'poor', 'can wait', 'any time'],
};
const CLASS = {
  id: 11,
  version: 1,
  name: 'Steam steriliser',
  assets: 4,
  jobPlans: [],
  meters: [{ name: 'cycles', unit: '1', channel: null, wrapsAt: null }],
  words: { symptom: ['door stuck'], fault: [], cause: [], remedy: [] },
};

let house: TestHouse;
beforeEach(() => {
  house = testHouse(NOW, 'administrator');
  house.answer(setup.readReference, () => REFERENCE);
  house.answer(readCatalogue, () => ({ classes: [CLASS], models: [] }));
  house.answer(listForms, () => ({ items: [] }));
});
afterEach(cleanup);

const press = (name: string | RegExp): HTMLElement => screen.getByRole('button', { name });
const found = (name: string | RegExp): Promise<HTMLElement> => screen.findByRole('button', { name });
const field = (label: string | RegExp): HTMLElement => screen.getByLabelText(label);
const sent = async (n = 1): Promise<unknown> => {
  await waitFor(() => expect(house.told).toHaveLength(n));
  return house.told[n - 1]?.body;
};

describe('a gateway', () => {
  it('gets its key, shown once, and the form is ready for the next', async () => {
    house.answer(setup.listGateways, () => ({ items: [] }));
    house.answer(setup.addGateway, () => ({ id: 1, key: 'stavok-key-1' }));
    const { user } = house.open(<Gateways />);
    await user.click(press('Create its key'));
    expect(await screen.findByText(/This is needed\./)).toBeDefined();
    await user.type(field('Gateway that will post readings'), 'Depot');
    await user.click(press('Create its key'));
    expect(await sent()).toEqual({ name: 'Depot' });
    expect((await screen.findByRole('status')).textContent).toContain('The key of Depot, shown this once:stavok-key-1');
    expect((field('Gateway that will post readings') as HTMLInputElement).value).toBe('');
  });
});

describe('an alert rule', () => {
  const RULE = {
    id: 9,
    version: 5,
    className: 'Steam steriliser',
    ...{ name: 'Too warm', assetClassId: 11, channel: 'chamber', unit: 'Cel' },
    condition: { kind: 'limit', side: 'above', limit: -65, deadband: 2 },
    ...{ onDelaySeconds: 300, offDelaySeconds: 0, holdSeconds: 3600, priority: 1, watched: true },
    ...{ model: null, assetId: null, tag: null },
  };
  it('is added with numbers as numbers', async () => {
    house.answer(alertRules.listAlertRules, () => ({ items: [] }));
    house.answer(alertRules.addAlertRule, () => ({ id: 1 }));
    const { user } = house.open(<AlertRules />);
    await user.click(await found('Add an alert rule'));
    await user.type(await screen.findByLabelText('Name'), 'Door open');
    await user.selectOptions(field('Order priority'), '3');
    await user.clear(field('Limit'));
    await user.type(field('Limit'), '4.5');
    await user.clear(field('Deadband'));
    await user.type(field('Deadband'), '-1');
    await user.click(press('Save the alert rule'));
    expect(await screen.findByText(/A deadband is not negative\./)).toBeDefined();
    expect(document.activeElement).toBe(field('Deadband'));
    await user.clear(field('Deadband'));
    await user.type(field('Deadband'), '1');
    await user.click(press('Save the alert rule'));
    expect(await sent()).toMatchObject({
      ...{ name: 'Door open', priority: 3, assetClassId: 11, model: null, assetId: null, watched: true },
      condition: { kind: 'limit', side: 'above', limit: 4.5, deadband: 1 },
    });
  });

  it('asks for what its kind needs, and sends no more', async () => {
    house.answer(alertRules.listAlertRules, () => ({ items: [] }));
    house.answer(alertRules.addAlertRule, () => ({ id: 1 }));
    const { user } = house.open(<AlertRules />);
    await user.click(await found('Add an alert rule'));
    await user.type(await screen.findByLabelText('Name'), 'Door too often');
    await user.selectOptions(field('Abnormal when'), 'count');
    expect(screen.queryByLabelText('Limit')).toBeNull();
    await user.selectOptions(field('Watches'), 'model');
    await user.click(press('Save the alert rule'));
    expect(await screen.findByText(/Name the state, such as open/)).toBeDefined();
    expect(field('Model').getAttribute('aria-invalid')).toBe('true');
    await user.type(field('Model'), 'ULF-720');
    await user.type(field('State'), 'open');
    await user.click(press('Save the alert rule'));
    expect(await sent()).toMatchObject({
      ...{ model: 'ULF-720', assetId: null },
      condition: { kind: 'count', equals: 'open', most: 10, spanSeconds: 900 },
    });
  });

  it('is tried on the past as it is typed, beside the kept one', async () => {
    const tried = { machines: 3, readings: 1200, alerts: 2, seconds: 5400, active: 0 };
    const shown = [
      { assetId: 7, tag: 'Q0007', model: 'ULF', text: 'chamber −60 °C', from: Date.UTC(2026, 10, 24), to: null },
    ];
    house.answer(alertRules.listAlertRules, () => ({ items: [RULE] }));
    house.answer(alertRules.tryAlertRule, () => ({
      ...{ tried: { ...tried, shown }, kept: { ...tried, alerts: 0, shown: [] }, leftOut: 1 },
    }));
    const { user } = house.open(<AlertRules />);
    await user.click(await found('change'));
    await user.clear(await screen.findByLabelText('Limit'));
    await user.click(press('Try it on the past'));
    // What cannot be kept cannot be tried either.
    await waitFor(() => expect(field('Limit').getAttribute('aria-invalid')).toBe('true'));
    expect(house.told).toEqual([]);
    await user.type(field('Limit'), '-62');
    await user.click(press('Try it on the past'));
    const said = within(await screen.findByRole('region', { name: 'Try it on the past' }));
    expect(await said.findByText('2 alerts, 1 h 30 min in all')).toBeDefined();
    expect(said.getByText(/As it is kept: no alert at all\./)).toBeDefined();
    expect(said.getByText(/1 machine reported too much/)).toBeDefined();
    expect(said.getByRole('link', { name: 'Q0007' }).getAttribute('href')).toBe('/assets/7');
    // Typed on, what was found is of something else.
    await user.type(field('Limit'), '5');
    expect(said.queryByText(/2 alerts/)).toBeNull();
    expect(house.told[0]?.body).toMatchObject({ days: 14, ruleId: 9, condition: { limit: -62 } });
  });

  it('somebody else changed is saved over it only after that was said', async () => {
    house.answer(alertRules.listAlertRules, () => ({ items: [RULE] }));
    house.answer(alertRules.changeAlertRule, ({ body }) =>
      (body as { version: number }).version === 5
        ? refusal(null, 'Somebody changed this meanwhile. Compare, then save again.', {
            code: 'stale',
            status: 409,
            current: { ...RULE, version: 6 },
          })
        : DONE,
    );
    const { user } = house.open(<AlertRules />);
    await user.click(await found('change'));
    await user.type(await screen.findByLabelText('Name'), '!');
    await user.click(press('Save the alert rule'));
    expect((await screen.findByRole('alert')).textContent).toContain('Somebody changed this meanwhile.');
    expect((field('Name') as HTMLInputElement).value).toBe('Too warm!');
    await user.click(press('Save the alert rule'));
    await sent(2);
    expect(house.told.map((t) => (t.body as { version: number }).version)).toEqual([5, 6]);
  });
});

describe('the catalogue', () => {
  it('reads meters line by line and names the line it cannot read', async () => {
    house.answer(changeClass, () => DONE);
    const { user } = house.open(<Catalogue />);
    await user.click(await found('change'));
    const meters = field(/Meters, one a line/);
    await user.type(meters, '\nrun hours\n');
    await user.click(press('Save the class'));
    expect(await screen.findByText(/Line 2: write it as “run hours; h”\./)).toBeDefined();
    expect(house.told).toEqual([]);
    await user.clear(meters);
    await user.type(meters, 'cycles; 1\nrun hours; h; counter; 65536');
    await user.type(field('Causes'), 'wear\nWear');
    await user.click(field('Yearly care'));
    await user.click(press('Save the class'));
    expect(await screen.findByText(/A line stands there twice\./)).toBeDefined();
    await user.clear(field('Causes'));
    await user.type(field('Causes'), 'wear\n dust ');
    await user.click(press('Save the class'));
    expect(await sent()).toEqual({
      version: 1,
      name: 'Steam steriliser',
      jobPlanIds: [5],
      meters: [
        { name: 'cycles', unit: '1', channel: null, wrapsAt: null },
        { name: 'run hours', unit: 'h', channel: 'counter', wrapsAt: 65_536 },
      ],
      words: { symptom: ['door stuck'], fault: [], cause: ['wear', 'dust'], remedy: [] },
    });
  });

  it('takes a class and a model that are new', async () => {
    house.answer(addClass, () => ({ id: 12 }));
    house.answer(addModel, () => ({ id: 13 }));
    const { user } = house.open(<Catalogue />);
    await user.click(await found('Add a class'));
    await user.type(field('Name'), 'Incubator');
    await user.click(press('Save the class'));
    expect(await sent()).toMatchObject({ name: 'Incubator', jobPlanIds: [], meters: [] });
    await user.click(await found('Add a model'));
    await user.type(field('Maker'), 'Tarvo');
    await user.type(screen.getByRole('textbox', { name: 'Model' }), 'STC-90');
    await user.click(press('Save the model'));
    expect(await sent(2)).toMatchObject({ maker: 'Tarvo', name: 'STC-90', classId: 11, warrantyMonths: 24 });
  });
});

describe('the scheme of numbers', () => {
  it('is changed with the version that was read', async () => {
    house.answer(readNumbering, () => ({ pattern: 'AG-{number}', next: 2025, version: 8 }));
    house.answer(changeNumbering, () => refusal('pattern', 'The scheme needs {number}.'));
    const { user } = house.open(<Numbering />);
    await user.click(await found('change the scheme'));
    await user.clear(field('Scheme'));
    await user.type(field('Scheme'), 'C-{{year}');
    await user.click(press('Save the scheme'));
    expect(await sent()).toEqual({ pattern: 'C-{year}', next: 2025, version: 8 });
    expect(await screen.findByText(/The scheme needs \{number\}\./)).toBeDefined();
    expect(document.activeElement).toBe(field('Scheme'));
  });
});

describe('an agreement type', () => {
  it('has terms with their shares, discounts and counted rights', async () => {
    house.answer(listAgreementTypes, () => ({ items: [] }));
    house.answer(addAgreementType, () => ({ id: 1 }));
    const { user } = house.open(<AgreementTypes />);
    await user.click(await found('Add an agreement type'));
    await user.type(field('Name'), 'Full care');
    await user.clear(field('Term, months'));
    await user.clear(field('Labour we bear, %'));
    await user.type(field('Labour we bear, %'), '120');
    await user.click(press('Add a discount'));
    await user.click(press('Add a counted right'));
    await user.selectOptions(field('Counts'), 'hours');
    await user.clear(field('Hours'));
    await user.type(field('Hours'), '2.5');
    await user.click(press('Save the type'));
    expect(await screen.findByText(/From 0 to 100 %\./)).toBeDefined();
    await user.clear(field('Labour we bear, %'));
    await user.type(field('Labour we bear, %'), '80');
    await user.click(press('Save the type'));
    expect(await sent()).toMatchObject({
      name: 'Full care',
      terms: {
        months: null,
        shares: { labour: 80, parts: 100 },
        discounts: [{ element: 'labour', percent: 10, kinds: ['repair'] }],
        allowances: [{ unit: 'hours', amount: 150, period: 'agreement year', carriesOver: false }],
      },
    });
  });
});

describe('a calendar', () => {
  it('says at its day which hours cannot be read, and travels with spans in minutes', async () => {
    house.answer(setup.changeCalendar, () => DONE);
    const { user } = house.open(<Calendars />);
    await user.click(await found('change'));
    await user.clear(field('Wednesday'));
    await user.type(field('Wednesday'), 'nine to five');
    await user.click(press('Save the calendar'));
    expect(await screen.findAllByText(/Write it as 09:00-18:00\./)).toHaveLength(1);
    expect(document.activeElement).toBe(field('Wednesday'));
    await user.clear(field('Wednesday'));
    await user.type(field('Wednesday'), '9-13, 14:30-18');
    await user.type(field('Another closed day'), '24/12/2026');
    await user.type(field('Why'), 'Eve');
    await user.click(press('Add the day'));
    await user.click(press('Remove 2026-12-25'));
    await user.click(press('Save the calendar'));
    const body = (await sent()) as { weekly: unknown[]; closed: unknown };
    expect(body).toMatchObject({ version: 2, closed: [{ date: '2026-12-24', name: 'Eve' }] });
    expect(body.weekly[2]).toEqual([
      { from: 540, to: 780 },
      { from: 870, to: 1080 },
    ]);
    expect(body.weekly[6]).toEqual([]);
  });
});

describe('a form of a class', () => {
  it('asks what is put together, and says at the question what is wrong with it', async () => {
    house.answer(listForms, () => ({ items: [] }));
    house.answer(addForm, () => ({ id: 1 }));
    const { user } = house.open(<ClassForms />);
    await user.click(await found('Add a form'));
    await user.type(await screen.findByLabelText('Name'), 'Yearly protocol');
    await user.click(press('Add a question'));
    await user.type(field('Question 1'), 'Is the seal tight?');
    await user.selectOptions(field('Answer 2 is'), 'a number');
    await user.type(field('Unit 2'), 'bar');
    await user.type(field('Expected from 2'), '1.8');
    await user.click(press('Save the form'));
    expect(await screen.findByText(/This is needed\./)).toBeDefined();
    await user.type(field('Question 2'), 'Pressure');
    await user.click(field('Question 2 must be answered'));
    await user.click(press('Save the form'));
    expect(await sent()).toEqual({
      name: 'Yearly protocol',
      classId: 11,
      kinds: ['preventive'],
      questions: [
        { text: 'Is the seal tight?', kind: 'yes or no', mandatory: true, unit: null, from: null, to: null },
        { text: 'Pressure', kind: 'number', mandatory: false, unit: 'bar', from: 1.8, to: null },
      ],
    });
  });
});
