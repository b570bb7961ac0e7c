import { describe, expect, it } from 'vitest';
import { actsOnOrderOf, mayCall, OFFICE, removesFile, ROLES, scraps, seesMoney } from './people.ts';

describe('who may do what', () => {
  it('lets a role call what names it, what anybody signed in may call, and nothing else', () => {
    expect(ROLES.filter((r) => mayCall(OFFICE, r))).toEqual(['coordinator', 'dispatcher', 'manager', 'administrator']);
    expect(ROLES.filter((r) => mayCall({ gatewayOr: ['manager'] }, r))).toEqual(['manager']);
    expect(ROLES.every((r) => mayCall('signed in', r) && mayCall('anybody', r))).toBe(true);
    expect(ROLES.some((r) => mayCall([], r))).toBe(false);
  });

  it('keeps money from those who go out and from the stores', () => {
    expect(ROLES.filter((r) => !seesMoney(r))).toEqual(['technician', 'storekeeper']);
  });

  it('lets a technician act on own orders and on those of nobody, and read the rest', () => {
    const tomas = { role: 'technician', name: 'Tomás Reis', id: 4 } as const;
    const mine = { technicianId: 4, technician: 'Tomás Reis' };
    expect(actsOnOrderOf<number>(tomas, mine)).toBe(true);
    expect(actsOnOrderOf<number>(tomas, { technicianId: null, technician: null })).toBe(true);
    expect(actsOnOrderOf<number>(tomas, { technicianId: 5, technician: 'Tomás Reis' })).toBe(false);
    // Somebody from outside has the name only.
    expect(actsOnOrderOf<number>(tomas, { technicianId: null, technician: 'Tomás Reis' })).toBe(false);
    expect(actsOnOrderOf<number>({ role: 'dispatcher', id: 1 }, mine)).toBe(true);
    expect(scraps('technician')).toBe(false);
    expect(removesFile(tomas, 4)).toBe(true);
    expect([removesFile(tomas, 5), removesFile(tomas, null)]).toEqual([false, false]);
    expect(removesFile({ role: 'manager', id: 1 }, 5)).toBe(true);
  });
});
