// Reference data: calendars and holidays, service levels, job plans, alert rules, people.
import Holidays from 'date-holidays';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { OFFICE, openHouse, type Caller, type TestHouse } from './house.ts';

let house: TestHouse;
let call: Caller;
beforeAll(async () => {
  house = await openHouse();
  call = await house.as('coordinator');
});
afterAll(() => house.close());

/** Butcher’s method as in Meeus, Astronomical Algorithms, ch. 8 (from memory; the holiday package is the second opinion). */
function easter(year: number): string {
  const a = year % 19;
  const [b, c] = [Math.floor(year / 100), year % 100];
  const [d, e] = [Math.floor(b / 4), b % 4];
  const f = Math.floor((b + 8) / 25);
  const g = Math.floor((b - f + 1) / 3);
  const h = (19 * a + b - d - g + 15) % 30;
  const [i, k] = [Math.floor(c / 4), c % 4];
  const l = (32 + 2 * e + 2 * i - h - k) % 7;
  const m = Math.floor((a + 11 * h + 22 * l) / 451);
  const [month, day] = [Math.floor((h + l - 7 * m + 114) / 31), ((h + l - 7 * m + 114) % 31) + 1];
  return `${year}-${String(month).padStart(2, '0')}-${String(day).padStart(2, '0')}`;
}

describe('public holidays', () => {
  it('Easter of the holiday package is Butcher’s, 2020 to 2040', () => {
    const source = new Holidays('PT');
    for (let year = 2020; year <= 2040; year += 1) {
      const found = source.getHolidays(year, 'en').find((h) => h.name.startsWith('Easter Sunday'));
      expect([year, found?.date.slice(0, 10)]).toEqual([year, easter(year)]);
    }
  });

  it('are proposed for a country and region, dated, in order', async () => {
    const { body } = await call<{ days: { date: string; name: string }[]; regions: { code: string }[] }>(
      'GET',
      '/api/holidays?country=ES&region=GA&from=2026&to=2027',
    );
    expect(body.days).toContainEqual({ date: '2026-12-25', name: 'Christmas Day' });
    expect(body.days.map((d) => d.date)).toEqual([...body.days.map((d) => d.date)].sort());
    expect(body.regions.map((r) => r.code)).toContain('GA');
    expect(new Set(body.days.map((d) => d.date.slice(0, 4)))).toEqual(new Set(['2026', '2027']));
  });

  it.each([
    '/api/holidays?country=es&from=2026&to=2027',
    '/api/holidays?country=ES&from=2027&to=2026',
    '/api/holidays?country=ES&from=2010&to=2050',
  ])('%s is refused', async (url) => expect((await call('GET', url)).status).toBe(422));
});

describe('calendars', () => {
  it('are kept with every day as typed, and a changed one counts at once', async () => {
    const { id } = (
      await call<{ id: number }>('POST', '/api/calendars', {
        ...OFFICE,
        extraOpen: [{ date: '2026-11-28', name: 'Stocktaking', spans: [{ from: 600, to: 720 }] }],
      })
    ).body;
    const kept = (
      await call<{ calendars: { id: number; version: number; closed: unknown[]; extraOpen: unknown[] }[] }>(
        'GET',
        '/api/reference',
      )
    ).body.calendars.find((c) => c.id === id);
    expect(kept).toMatchObject({
      version: 1,
      closed: OFFICE.closed,
      extraOpen: [{ date: '2026-11-28', spans: [{ from: 600, to: 720 }] }],
    });
    expect((await call('PUT', `/api/calendars/${id}`, { ...OFFICE, version: 1, name: 'Longer hours' })).status).toBe(
      200,
    );
    const late = await call<{ current: { name: string } }>('PUT', `/api/calendars/${id}`, {
      ...OFFICE,
      version: 1,
      name: 'Other',
    });
    expect([late.body.code, late.body.current.name]).toEqual(['stale', 'Longer hours']);
  });

  it.each<[string, Record<string, unknown>, string]>([
    ['an unknown zone', { zone: 'Europe/Atlantis' }, 'zone'],
    ['a week that never opens', { weekly: [[], [], [], [], [], [], []] }, 'weekly'],
    ['an impossible day', { closed: [{ date: '2026-02-30', name: 'x' }] }, 'closed.0.date'],
    ['a span past 24:00', { weekly: [[{ from: 0, to: 1500 }], [], [], [], [], [], []] }, 'weekly.0'],
    ['a taken name', { name: 'Longer hours' }, 'name'],
  ])('with %s are refused at the field', async (_, over, field) => {
    const answer = await call('POST', '/api/calendars', { ...OFFICE, name: 'Another', ...over });
    expect(answer.body.errors.map((e) => e.field)).toContain(field);
  });
});

describe('service levels, job plans, alert rules', () => {
  it.each<[string, unknown, string]>([
    ['no target at all', { name: 'Empty', pauses: [], targets: {} }, 'targets'],
    [
      'a target of no minutes',
      { name: 'Zero', pauses: [], targets: { 1: { response: { measure: 'elapsed', minutes: 0 } } } },
      'targets.1.response.minutes',
    ],
    [
      'an unknown calendar',
      { name: 'Lost', pauses: [], targets: { 1: { response: { measure: 'working', minutes: 10, calendarId: 999 } } } },
      'targets',
    ],
    [
      'an invented pause',
      { name: 'Pause', pauses: ['lunch'], targets: { 1: { response: { measure: 'elapsed', minutes: 5 } } } },
      'pauses.0',
    ],
  ])('a service level with %s is refused', async (_, body, field) => {
    const answer = await call('POST', '/api/service-levels', body);
    expect(answer.body.errors[0]?.field).toBe(field);
  });

  it('a job plan keeps its tasks, and a second person sees what changed', async () => {
    const { id } = (
      await call<{ id: number }>('POST', '/api/job-plans', {
        name: 'Care',
        minutes: 60,
        tasks: [{ text: 'Clean', mandatory: true }],
      })
    ).body;
    expect(
      (await call('PUT', `/api/job-plans/${id}`, { version: 1, name: 'Care', minutes: 75, tasks: [] })).status,
    ).toBe(200);
    expect(
      (
        await call<{ current: { minutes: number } }>('PUT', `/api/job-plans/${id}`, {
          version: 1,
          name: 'Care',
          minutes: 80,
          tasks: [],
        })
      ).body.current.minutes,
    ).toBe(75);
    expect((await call('PUT', '/api/job-plans/999', { version: 1, name: 'Care', minutes: 80, tasks: [] })).status).toBe(
      404,
    );
  });

  it('job plans include smaller ones; a circle is refused with its way, also when two close it at once', async () => {
    const plan = (name: string, over: object = {}) => ({ name, minutes: 60, tasks: [], ...over });
    const add = async (name: string, over: object = {}) =>
      (await call<{ id: number }>('POST', '/api/job-plans', plan(name, over))).body.id;
    const monthly = await add('Monthly');
    const quarterly = await add('Quarterly', { includes: [monthly] });
    const yearly = await add('Yearly', { includes: [quarterly] });
    const included = async () => {
      const { jobPlans } = (await call<{ jobPlans: { id: number; includes: number[] }[] }>('GET', '/api/reference'))
        .body;
      return [monthly, quarterly, yearly].map((id) => jobPlans.find((p) => p.id === id)?.includes);
    };
    expect(await included()).toEqual([[], [monthly], [quarterly]]);
    const change = (id: number, name: string, version: number, includes: number[]) =>
      call('PUT', `/api/job-plans/${id}`, { ...plan(name), version, includes });
    const circle = await change(monthly, 'Monthly', 1, [yearly]);
    expect([circle.status, circle.body.errors[0]?.field, circle.body.errors[0]?.message]).toEqual([
      409,
      'includes',
      'Job plans would include one another in a circle: Quarterly → Monthly → Yearly → Quarterly. Leave one step out.',
    ]);
    expect((await change(monthly, 'Monthly', 1, [monthly])).status).toBe(409);
    expect((await change(monthly, 'Monthly', 1, [99_999])).status).toBe(404);
    expect(await included()).toEqual([[], [monthly], [quarterly]]);
    const [one, two] = [await add('One'), await add('Two')];
    const both = await Promise.all([change(one, 'One', 1, [two]), change(two, 'Two', 1, [one])]);
    expect(both.map((b) => b.status).sort()).toEqual([200, 409]);
    expect((await change(yearly, 'Yearly', 1, [])).status).toBe(200);
    expect(await included()).toEqual([[], [monthly], []]);
  });

  it.each<[string, Record<string, unknown>, string]>([
    ['an unknown class', {}, 'assetClassId'],
    [
      'a negative deadband',
      { condition: { kind: 'limit', side: 'above', limit: 1, deadband: -1 } },
      'condition.deadband',
    ],
    ['a channel with spaces', { channel: 'door open' }, 'channel'],
    ['no limit', { condition: { kind: 'limit', side: 'above', limit: null, deadband: 0 } }, 'condition.limit'],
  ])('an alert rule with %s is refused', async (_, over, field) => {
    const answer = await call('POST', '/api/alert-rules', {
      name: 'Warm',
      assetClassId: 99,
      channel: 'chamber',
      unit: 'Cel',
      condition: { kind: 'limit', side: 'above', limit: 1, deadband: 0 },
      ...{ onDelaySeconds: 0, offDelaySeconds: 0, holdSeconds: 3600, priority: 1 },
      ...{
        partOnly: false,
        askFirst: false,
        orderText: '',
        likelyCause: '',
        jobPlanId: null,
        watchCalendarId: null,
        suppressedBy: [],
        tells: [],
      },
      ...{ model: null, assetId: null, watched: true },
      ...over,
    });
    expect(answer.body.errors[0]?.field).toBe(field);
  });
});

describe('people', () => {
  const someone = {
    name: 'New Person',
    email: 'New.Person@Example.org',
    role: 'technician',
    zone: 'Europe/Madrid',
    password: 'long enough to keep',
  };
  it('are added by the administrator only, once for each address', async () => {
    const admin = await house.as('administrator');
    expect((await call('POST', '/api/people', someone)).status).toBe(403);
    expect((await admin('POST', '/api/people', someone)).status).toBe(200);
    const again = await admin('POST', '/api/people', { ...someone, email: 'new.person@example.org' });
    expect([again.status, again.body.errors[0]?.field]).toEqual([409, 'email']);
    const list = await admin<{ items: { email: string; passwordHash?: string }[] }>('GET', '/api/people');
    expect(list.body.items.find((p) => p.email === 'new.person@example.org')).not.toHaveProperty('passwordHash');
    expect(
      (await call<{ technicians: { name: string }[] }>('GET', '/api/reference')).body.technicians.map((t) => t.name),
    ).toContain('New Person');
  });
  it.each<[string, Record<string, unknown>, string]>([
    ['a short password', { password: 'short' }, 'password'],
    ['no address', { email: 'x' }, 'email'],
    ['an unknown zone', { zone: 'Mars/Base' }, 'zone'],
    ['an invented role', { role: 'owner' }, 'role'],
  ])('with %s are refused', async (_, over, field) => {
    expect(
      (await (await house.as('administrator'))('POST', '/api/people', { ...someone, ...over })).body.errors[0]?.field,
    ).toBe(field);
  });

  describe('once added', () => {
    type Listed = { id: number; email: string; version: number; active: boolean };
    let admin: Caller;
    const named = async (email: string): Promise<Listed> => {
      const { items } = (await admin<{ items: Listed[] }>('GET', '/api/people')).body;
      return items.find((p) => p.email === email) as Listed;
    };
    const as = (p: Listed, over: object) => ({
      version: p.version,
      name: 'Changed',
      role: 'technician',
      zone: 'Europe/Lisbon',
      active: true,
      ...over,
    });
    beforeAll(async () => {
      admin = await house.as('administrator');
    });

    it('a person who may no longer sign in is out at once, and may not come back', async () => {
      const dispatcher = await house.as('dispatcher');
      const person = await named('dispatcher@example.org');
      expect((await dispatcher('GET', '/api/reference')).status).toBe(200);
      const change = as(person, { role: 'dispatcher', active: false });
      expect((await dispatcher('PUT', `/api/people/${person.id}`, change)).status).toBe(403);
      expect((await admin('PUT', `/api/people/${person.id}`, change)).status).toBe(200);
      expect((await dispatcher('GET', '/api/reference')).status).toBe(401);
      expect((await (await house.as('dispatcher'))('GET', '/api/reference')).status).toBe(401);
    });
    it('a new password ends every session under the old one', async () => {
      const storekeeper = await house.as('storekeeper');
      const person = await named('storekeeper@example.org');
      const change = as(person, { role: 'storekeeper', password: 'a wholly new password' });
      expect((await admin('PUT', `/api/people/${person.id}`, change)).status).toBe(200);
      expect((await storekeeper('GET', '/api/reference')).status).toBe(401);
    });
    it('a stale change is refused with the row as it stands, without its password', async () => {
      const person = await named('technician@example.org');
      expect((await admin('PUT', `/api/people/${person.id}`, as(person, {}))).status).toBe(200);
      const late = await admin<{ current: object }>('PUT', `/api/people/${person.id}`, as(person, { name: 'Late' }));
      expect(late.status).toBe(409);
      expect(late.body.current).toMatchObject({ name: 'Changed', version: person.version + 1 });
      expect(late.body.current).not.toHaveProperty('passwordHash');
    });
    it.each([{ role: 'coordinator' }, { role: 'administrator', active: false }])(
      'the last administrator stays one: %o is refused',
      async (over) => {
        const person = await named('administrator@example.org');
        const answer = await admin('PUT', `/api/people/${person.id}`, as(person, over));
        expect([answer.body.code, answer.body.errors[0]?.field]).toEqual(['not-allowed', 'role']);
      },
    );
  });
});
