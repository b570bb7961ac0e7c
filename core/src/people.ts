// People: the roles, and who may do what by common sense of the trade (domain-work.md). Server and screens ask here.

export const ROLES = ['coordinator', 'dispatcher', 'technician', 'storekeeper', 'manager', 'administrator'] as const;
export type Role = (typeof ROLES)[number];

/** Who sees prices, credit terms and agreement documents: whoever works at a desk. Technicians and storekeepers do not. */
export const OFFICE = ['coordinator', 'dispatcher', 'manager', 'administrator'] as const satisfies readonly Role[];
/** Who writes the register, agreements, runs and reference data. */
export const WRITERS = ['coordinator', 'manager', 'administrator'] as const satisfies readonly Role[];
/** Who answers alerts: whoever watches over machines from a desk. */
export const ALERT_ANSWERERS = OFFICE;
/** Who tells what happened at a machine: everybody but the stores. */
export const RECORDERS = [
  'coordinator',
  'dispatcher',
  'technician',
  'manager',
  'administrator',
] as const satisfies readonly Role[];
/** Who receives, moves and counts stock. */
export const STOCKERS = [
  'coordinator',
  'dispatcher',
  'storekeeper',
  'manager',
  'administrator',
] as const satisfies readonly Role[];
/** Who keeps the house's own order: its people and numbers. */
export const MANAGERS = ['manager', 'administrator'] as const satisfies readonly Role[];
export const ADMINISTRATORS = ['administrator'] as const satisfies readonly Role[];

/** Who may call a route: some roles, anybody signed in, a gateway or some roles, or anybody at all. */
export type May = readonly Role[] | 'signed in' | 'anybody' | { readonly gatewayOr: readonly Role[] };

/** The roles that a route names; null where any role will do. */
export function rolesOf(may: May): readonly Role[] | null {
  if (may === 'anybody' || may === 'signed in') return null;
  return 'gatewayOr' in may ? may.gatewayOr : may;
}

/** Whether somebody signed in with this role may call a route. */
export const mayCall = (may: May, role: Role): boolean => rolesOf(may)?.includes(role) ?? true;

export const isOffice = (role: Role): boolean => (OFFICE as readonly Role[]).includes(role);
export const seesMoney = (role: Role): boolean => (OFFICE as readonly Role[]).includes(role);

/** Technicians act on orders planned for them, or for nobody yet; on others' they read. Somebody from outside has a name only. */
export const actsOnOrderOf = <Id>(
  who: { role: Role; id: Id },
  planned: { readonly technicianId: Id | null; readonly technician: string | null },
): boolean => who.role !== 'technician' || planned.technician === null || planned.technicianId === who.id;

/** Time is entered for oneself, or for others by the office. */
export const entersTimeFor = <Id>(who: { role: Role; id: Id }, of: Id): boolean =>
  who.id === of || (OFFICE as readonly Role[]).includes(who.role);

/** A time sheet is approved by the office, never by whose it is. */
export const approvesTimeOf = <Id>(who: { role: Role; id: Id }, of: Id): boolean =>
  who.id !== of && (OFFICE as readonly Role[]).includes(who.role);

/** A machine is scrapped by the office, never on site. */
export const scraps = (role: Role): boolean => role !== 'technician';

/** Files are removed by the office, or by the technician who attached them. */
export const removesFile = <Id>(who: { role: Role; id: Id }, attachedBy: Id | null): boolean =>
  who.role !== 'technician' || attachedBy === who.id;

/** An order is planned for, and wishes name, technicians only. */
export const goesOut = (role: Role): boolean => role === 'technician';

/** An absence is asked for by whose it is; the office enters it for others, and agrees to it, never to its own. */
export const agreesToAbsenceOf = <Id>(who: { role: Role; id: Id }, of: Id): boolean =>
  who.id !== of && (OFFICE as readonly Role[]).includes(who.role);
