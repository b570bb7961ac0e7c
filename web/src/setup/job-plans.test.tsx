// @vitest-environment jsdom
// Job plans in Setup: tasks line by line, parts, skills, forms, and which others each includes.
import { cleanup, screen, waitFor, within } from '@testing-library/react';
import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import { listForms } from '#api/forms.ts';
import * as setup from '#api/setup.ts';
import { refusal, testHouse, type TestHouse } from '../shell/testing.tsx';
import { JobPlans } from './job-plans.tsx';

const DONE = { done: true };
const PLANNED = { partId: 8, number: 'GS-1', name: 'Gasket', unit: 'piece', thousandths: 1000 };
const PLAN = {
  includes: [],
  id: 5,
  version: 4,
  name: 'Yearly care',
  minutes: 90,
  tasks: [{ text: 'Clean the filter', mandatory: true }],
  ...{ crew: 2, safetyNote: 'Wear gloves', parts: [PLANNED] },
  ...{ skillId: null, alsoSkillIds: [], formIds: [] },
};

let house: TestHouse;
beforeEach(() => {
  house = testHouse(Date.UTC(2026, 10, 24, 9, 20), 'administrator');
  house.answer(setup.readReference, () => ({
    jobPlans: [PLAN],
    skills: [
      { id: 21, name: 'Refrigerants' },
      { id: 22, name: 'Pressure' },
    ],
  }));
  house.answer(listForms, () => ({ items: [] }));
});
afterEach(cleanup);

const press = (name: string | RegExp): HTMLElement => screen.getByRole('button', { name });
const found = (name: string | RegExp): Promise<HTMLElement> => screen.findByRole('button', { name });
const field = (label: string | RegExp): HTMLElement => screen.getByLabelText(label);
const sent = async (): Promise<unknown> => {
  await waitFor(() => expect(house.told).toHaveLength(1));
  return house.told[0]?.body;
};

describe('a job plan', () => {
  it('has its tasks line by line, those with ? only if needed, and warns of no duration', async () => {
    house.answer(setup.changeJobPlan, () => DONE);
    const { user } = house.open(<JobPlans />);
    await user.click(await found('change'));
    expect((field(/Tasks, one a line/) as HTMLTextAreaElement).value).toBe('Clean the filter');
    await user.type(field(/Tasks, one a line/), '\n\n ? Change the seal ');
    await user.clear(field('Duration, minutes'));
    await user.type(field('Duration, minutes'), '0');
    await user.clear(field('Quantity of Gasket, piece'));
    await user.type(field('Quantity of Gasket, piece'), '2.5');
    expect(screen.getByText(/With zero no visit is raised/)).toBeDefined();
    await user.click(press('Save the job plan'));
    expect(await sent()).toEqual({
      version: 4,
      name: 'Yearly care',
      minutes: 0,
      ...{ skillId: null, alsoSkillIds: [], formIds: [] },
      ...{ crew: 2, safetyNote: 'Wear gloves', parts: [{ partId: 8, thousandths: 2500 }] },
      includes: [],
      tasks: [
        { text: 'Clean the filter', mandatory: true },
        { text: 'Change the seal', mandatory: false },
      ],
    });
  });
});

describe('what a job plan needs beside time', () => {
  it('is a skill and others, each ticked once, and forms chosen one by one; without a first skill there are no others', async () => {
    const asked = (id: number, name: string) => ({
      id,
      name,
      className: 'Steam steriliser',
      version: 1,
      classId: 11,
      kinds: [],
      questions: [],
    });
    house.answer(listForms, () => ({ items: [asked(31, 'Record'), asked(32, 'Leak rate')] }));
    house.answer(setup.changeJobPlan, () => DONE);
    const { user } = house.open(<JobPlans />);
    await user.click(await found('change'));
    expect(screen.queryByRole('checkbox', { name: 'Pressure' })).toBeNull();
    await user.selectOptions(field('Skill it needs'), 'Refrigerants');
    expect(screen.queryByRole('checkbox', { name: 'Refrigerants' })).toBeNull();
    await user.click(await screen.findByRole('checkbox', { name: 'Pressure' }));
    await user.selectOptions(await screen.findByLabelText('Another form'), 'Steam steriliser: Record');
    await user.selectOptions(field('Another form'), 'Steam steriliser: Leak rate');
    expect(screen.queryByLabelText('Another form')).toBeNull();
    await user.click(press('Take Steam steriliser: Record away'));
    await user.click(press('Save the job plan'));
    expect(await sent()).toMatchObject({ skillId: 21, alsoSkillIds: [22], formIds: [32] });
    await user.click(await found('change'));
    await user.selectOptions(field('Skill it needs'), 'Refrigerants');
    await user.click(await screen.findByRole('checkbox', { name: 'Pressure' }));
    await user.selectOptions(field('Skill it needs'), 'none in particular');
    await user.click(press('Save the job plan'));
    await waitFor(() => expect(house.told.at(-1)?.body).toMatchObject({ skillId: null, alsoSkillIds: [] }));
  });
});

describe('job plans that include others', () => {
  it('are listed with them; a circle is said where they are ticked', async () => {
    const plan = (id: number, name: string, includes: number[]) => ({
      ...{ id, name, includes, version: 1, minutes: 60, tasks: [], skillId: null, alsoSkillIds: [], formIds: [] },
      ...{ crew: 1, safetyNote: '', parts: [] },
    });
    house.answer(setup.readReference, () => ({
      skills: [],
      jobPlans: [plan(1, 'Yearly', [2]), plan(2, 'Quarterly', []), plan(3, 'Monthly', [])],
    }));
    house.answer(setup.changeJobPlan, () => refusal('includes', 'Yearly → Quarterly → Yearly. Leave one step out.'));
    const { user } = house.open(<JobPlans />);
    const row = await screen.findByRole('row', { name: /^Yearly/ });
    expect(within(row).getByText('Quarterly')).toBeDefined();
    await user.click(within(row).getByRole('button', { name: 'change' }));
    await user.click(await screen.findByRole('checkbox', { name: 'Monthly' }));
    await user.click(press('Save the job plan'));
    expect(await screen.findByText(/Leave one step out/)).toBeDefined();
    expect(house.told[0]?.body).toMatchObject({ includes: [2, 3] });
    expect(screen.queryByRole('checkbox', { name: 'Yearly' })).toBeNull();
  });
});
