// The scenario’s agreements: how each class is cared for, what kinds of agreement there are, and which customers have them.
import type { AllowanceUnit } from '#core/entitlement/index.ts';
import type { OrderKind } from '#core/orders/index.ts';
import type { WrittenCadence, WrittenPhase } from '#core/upkeep/index.ts';
import { LISBON, MADRID, type ClassKey } from './scenario.ts';

export const COLD: readonly ClassKey[] = ['ulf', 'plf', 'vr', 'cold'];
export const STERILE: readonly ClassKey[] = ['stc', 'wd'];

const phase = (
  name: string,
  [month, day]: readonly [number, number],
  [lastMonth, lastDay]: readonly [number, number],
  rule: string,
): WrittenPhase => ({
  ...{ name, rule, from: { month, day }, to: { month: lastMonth, day: lastDay }, jobPlanId: null, factors: null },
});

/** A rule over dates, as most classes are cared for by. */
const by = (rule: string): WrittenCadence => ({ kind: 'rule', rule });

export type Care = {
  readonly plan: string;
  readonly minutes: number;
  readonly cadence: WrittenCadence;
  readonly tasks: readonly string[];
  readonly early: number;
  readonly late: number;
  readonly lead: number;
  /** Days to a larger visit that does its work. */
  readonly absorbDays?: number;
};

/** The yearly visit of the ultra-low freezers, which includes a quarterly one. */
export const YEARLY_CARE: Care = {
  plan: 'Ultra-low freezer yearly',
  minutes: 210,
  cadence: by('FREQ=MONTHLY;INTERVAL=12;BYDAY=1TU'),
  tasks: ['All of the quarterly work', 'Change the condenser fan', 'Map the chamber', 'Check the back-up cooling'],
  early: 10,
  late: 14,
  lead: 35,
};

/** Whose people go where, and the hours of upkeep they have in a week by skill. Nobody of Pedralonga certifies cabinets. */
export const DEPOTS = [
  {
    name: 'Ribeira',
    zone: LISBON,
    at: [41.71, -8.74],
    hours: { 'Refrigerant handling': 14, 'Pressure equipment': 6, 'Biosafety certification': 4, Electrical: 6 },
  },
  {
    name: 'Pedralonga',
    zone: MADRID,
    at: [42.1, -8.64],
    hours: { 'Refrigerant handling': 12, 'Pressure equipment': 5, Electrical: 6 },
  },
] as const;
export const SKILLS = ['Refrigerant handling', 'Pressure equipment', 'Biosafety certification', 'Electrical'] as const;

const SKILL_OF: Partial<Record<ClassKey, (typeof SKILLS)[number]>> = {
  ...{
    ulf: 'Refrigerant handling',
    plf: 'Refrigerant handling',
    vr: 'Refrigerant handling',
    cold: 'Refrigerant handling',
  },
  ...{ stc: 'Pressure equipment', wd: 'Pressure equipment', bsc: 'Biosafety certification' },
  ...{ inc: 'Electrical', cf: 'Electrical', wpu: 'Electrical' },
};
export const skillOf = (key: ClassKey): (typeof SKILLS)[number] | null => SKILL_OF[key] ?? null;

export const CARE: Partial<Record<ClassKey, Care>> = {
  ulf: {
    plan: 'Ultra-low freezer quarterly',
    minutes: 90,
    cadence: by('FREQ=MONTHLY;INTERVAL=3;BYDAY=1TU'),
    absorbDays: 10,
    tasks: ['Clean condenser filter', 'Check door gasket', 'Test the alarm chain', '? Remove ice from the lid'],
    early: 7,
    late: 7,
    lead: 21,
  },
  plf: {
    plan: 'Plasma freezer quarterly',
    minutes: 75,
    cadence: by('FREQ=MONTHLY;INTERVAL=3;BYDAY=2WE'),
    tasks: ['Clean condenser filter', 'Check door gasket', 'Test the alarm chain'],
    early: 7,
    late: 7,
    lead: 21,
  },
  vr: {
    plan: 'Vaccine refrigerator half-year',
    minutes: 60,
    cadence: by('FREQ=MONTHLY;INTERVAL=6;BYDAY=1TH'),
    tasks: ['Compare with reference probe', 'Clean condenser', 'Check door closer'],
    early: 10,
    late: 10,
    lead: 28,
  },
  stc: {
    plan: 'Steriliser care, by cycles',
    minutes: 180,
    // Whichever comes first.
    cadence: {
      kind: 'since service',
      time: { count: 3, unit: 'month' },
      meter: { meter: 'Sterilising cycles', every: 500, spanDays: 330 },
    },
    tasks: ['Vacuum leak test', 'Replace door seal grease', 'Check safety valve', 'Print a test cycle'],
    early: 5,
    late: 10,
    lead: 30,
  },
  wd: {
    plan: 'Washer-disinfector half-year',
    minutes: 120,
    cadence: by('FREQ=MONTHLY;INTERVAL=6;BYMONTHDAY=15'),
    tasks: ['Check spray arms', 'Calibrate dosing', 'Thermal disinfection test'],
    early: 7,
    late: 10,
    lead: 21,
  },
  bsc: {
    plan: 'Cabinet certification, yearly',
    minutes: 150,
    cadence: by('FREQ=YEARLY;INTERVAL=1'),
    tasks: ['Measure air speeds', 'Smoke pattern test', 'Filter leak test', 'Issue the certificate'],
    early: 30,
    late: 0,
    lead: 45,
  },
  inc: {
    plan: 'Incubator yearly',
    minutes: 60,
    // A year after the last one was done.
    cadence: { kind: 'since service', time: { count: 12, unit: 'month' }, meter: null },
    tasks: ['Map temperature', 'Check gas sensor'],
    early: 14,
    late: 14,
    lead: 30,
  },
  cf: {
    plan: 'Centrifuge care, by runs',
    minutes: 60,
    cadence: {
      kind: 'since service',
      time: null,
      meter: { meter: 'Rotor runs', every: 2000, spanDays: 330 },
    },
    tasks: ['Check rotor and drive', 'Test the lid lock'],
    early: 10,
    late: 10,
    lead: 21,
  },
  wpu: {
    plan: 'Water unit check',
    minutes: 40,
    // Alternate Wednesdays while there is teaching, monthly in the summer.
    cadence: {
      kind: 'phases',
      phases: [
        phase('Teaching', [9, 15], [6, 30], 'FREQ=WEEKLY;INTERVAL=2;BYDAY=WE'),
        phase('Summer', [7, 1], [9, 14], 'FREQ=MONTHLY;BYDAY=1WE'),
      ],
    },
    tasks: ['Measure conductivity', '? Change the cartridge'],
    early: 2,
    late: 3,
    lead: 10,
  },
  cold: {
    plan: 'Cold store deep clean',
    minutes: 240,
    cadence: by('FREQ=YEARLY;BYMONTH=4,10;BYMONTHDAY=25'),
    tasks: ['Empty the store with the customer', 'Clean evaporators and drains', 'Log the temperatures'],
    early: 5,
    late: 10,
    lead: 30,
  },
};

export type AgreementPlan = {
  readonly customer: string;
  readonly name: string;
  readonly type: 'full' | 'shared' | 'checks' | 'uptime';
  readonly stage: 'draft' | 'in force' | 'suspended' | 'ended';
  /** Months before now at which the term starts, and its length in months (null: open-ended). */
  readonly startedMonthsAgo: number;
  readonly months: number | null;
  readonly noticeDays: number;
  readonly site?: string;
  readonly classes?: readonly ClassKey[];
  readonly reminder?: string;
  /** A counted right: hours in minutes. */
  readonly right?: { readonly unit: AllowanceUnit; readonly amount: number; readonly carriesOver: boolean };
  /** Follows an index from its start. */
  readonly indexed?: boolean;
  readonly renews?: boolean;
};
/** What a kind of agreement gives; checks pay for visits and inspections, and take something off the labour of repairs. */
export const SHARES: Record<
  AgreementPlan['type'],
  { labour: number; parts: number; travel: number; kinds: readonly OrderKind[] }
> = {
  full: { labour: 100, parts: 100, travel: 100, kinds: ['preventive', 'repair', 'inspection'] },
  shared: { labour: 100, parts: 50, travel: 100, kinds: ['preventive', 'repair'] },
  checks: { labour: 100, parts: 0, travel: 100, kinds: ['preventive', 'inspection'] },
  uptime: { labour: 100, parts: 100, travel: 100, kinds: ['preventive', 'repair', 'inspection', 'installation'] },
};
export const REPAIR_DISCOUNT = 10;

const plan = (
  customer: string,
  name: string,
  type: AgreementPlan['type'],
  startedMonthsAgo: number,
  months: number | null,
  noticeDays: number,
  more: Partial<AgreementPlan> = {},
): AgreementPlan => ({ customer, name, type, stage: 'in force', startedMonthsAgo, months, noticeDays, ...more });
export const AGREEMENTS: readonly AgreementPlan[] = [
  plan('Costabela Blood Centre', 'Full care', 'full', 20, 36, 90, { indexed: true }),
  plan('Costabela Blood Centre', 'Checks only, donation sites before 2025', 'checks', 40, 20, 60, {
    stage: 'ended',
    site: 'Costabela Sobral',
  }),
  plan('Fontelo Fertility Clinic', 'Full care', 'full', 15, 24, 90, {
    reminder: 'Embryology may be entered before 08:00 only; ring the clinic first.',
  }),
  plan('Encosta Vaccine Depot', 'Uptime promise', 'uptime', 14, 24, 120),
  plan('Encosta Vaccine Depot', 'Checks only, cold room', 'checks', 18, null, 60, { classes: ['cold'] }),
  plan('Damiro Food Testing', 'Parts shared', 'shared', 2, 12, 60, {
    stage: 'draft',
    reminder: 'Signed copy still with the customer’s legal office.',
  }),
  plan('Damiro Food Testing', 'Checks only, water', 'checks', 16, 18, 30, { classes: ['wpu'] }),
  plan('Alvaiz Pathology Group', 'Parts shared', 'shared', 17, 24, 90, { site: 'Alvaiz Pathology' }),
  plan('Alvaiz Pathology Group', 'Checks only', 'checks', 10, 12, 30, {
    site: 'Alvaiz Branch Moreda',
    right: { unit: 'hours', amount: 720, carriesOver: true },
  }),
  plan('Serra Veterinary Institute', 'Full care', 'full', 13, 24, 60, {
    stage: 'suspended',
    reminder: 'Suspended: invoices of the spring are unpaid.',
  }),
  plan('Horta Nova Biobank', 'Uptime promise', 'uptime', 22, 24, 30),
  plan('Horta Nova Biobank', 'Checks only, water', 'checks', 12, null, 0, { classes: ['wpu'] }),
  plan('Alvorim Hospitals', 'Full care, sterile services', 'full', 18, 36, 120, { classes: ['stc', 'wd'] }),
  plan('Alvorim Hospitals', 'Parts shared, pharmacies', 'shared', 11, 13, 30, { classes: ['vr', 'plf'] }),
  plan('Alvorim Hospitals', 'Checks only, laboratories', 'checks', 16, 24, 60, { classes: ['bsc', 'cf', 'wpu'] }),
  plan('Ribeira Pharmacies', 'Full care', 'full', 9, 12, 60, { renews: true }),
  plan('Salgueiro Pharmacy', 'Checks only', 'checks', 9, 12, 60),
  plan('Kelvara Biotech', 'Full care', 'full', 8, 24, 60, { renews: true }),
  plan('Nudo Genomics', 'Parts shared', 'shared', 7, 24, 60),
  plan('Brizal Enzymes', 'Checks only', 'checks', 13, 15, 30),
  plan('Ostra Diagnostics', 'Full care', 'full', 10, 12, 45, {
    right: { unit: 'call-outs', amount: 5, carriesOver: false },
  }),
  plan('Lameira Dialysis', 'Uptime promise, water', 'uptime', 19, 36, 90, { classes: ['wpu'] }),
  plan('Lameira Dialysis', 'Parts shared', 'shared', 19, 24, 90, { classes: ['stc', 'vr'] }),
  plan('Kelvara Biotech', 'Checks only, first year', 'checks', 22, 12, 30, { stage: 'ended' }),
];
