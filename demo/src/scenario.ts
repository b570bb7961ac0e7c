// The scenario: Marisma Lab Service, its people, customers, places, machines and agreements. All of it invented.
import type { Role } from '#core/people.ts';
import type { AllowanceUnit } from '#core/entitlement/index.ts';
import type { OrderKind } from '#core/orders/index.ts';

export const LISBON = 'Europe/Lisbon';
export const MADRID = 'Europe/Madrid';
export type DemoZone = typeof LISBON | typeof MADRID;

export const PEOPLE: readonly { name: string; role: Role; zone: DemoZone }[] = [
  { name: 'Inês Teixeira', role: 'coordinator', zone: LISBON },
  { name: 'Mateo Larrazabal', role: 'coordinator', zone: MADRID },
  { name: 'Núria Falcó', role: 'dispatcher', zone: MADRID },
  { name: 'Rui Caldeira', role: 'dispatcher', zone: LISBON },
  { name: 'Renata Valdês', role: 'technician', zone: LISBON },
  { name: 'Mikael Okonjo', role: 'technician', zone: LISBON },
  { name: 'Anouk Brandel', role: 'technician', zone: LISBON },
  { name: 'Tomás Quintela', role: 'technician', zone: MADRID },
  { name: 'Ewa Zielonka', role: 'technician', zone: LISBON },
  { name: 'Samir Haddou', role: 'technician', zone: MADRID },
  { name: 'Leire Goikoetxea', role: 'technician', zone: MADRID },
  { name: 'Duarte Moura', role: 'technician', zone: LISBON },
  { name: 'Ilse Verhagen', role: 'technician', zone: LISBON },
  { name: 'Paulo Ventim', role: 'storekeeper', zone: LISBON },
  { name: 'Carmen Rioboo', role: 'manager', zone: MADRID },
  { name: 'Oksana Lytvyn', role: 'administrator', zone: LISBON },
];

export type ClassKey = 'ulf' | 'plf' | 'vr' | 'stc' | 'wd' | 'bsc' | 'inc' | 'cf' | 'wpu' | 'cold' | 'cu' | 'ctl';
export const CLASSES: Record<ClassKey, { name: string; maker: string; models: readonly string[] }> = {
  ulf: { name: 'Ultra-low freezer', maker: 'Tindrel', models: ['ULF-720', 'ULF-540'] },
  plf: { name: 'Plasma freezer', maker: 'Tindrel', models: ['PLF-410'] },
  vr: { name: 'Vaccine refrigerator', maker: 'Halvane', models: ['VR-340', 'VR-180'] },
  stc: { name: 'Steam steriliser', maker: 'Ocarro', models: ['STC-150', 'STC-300'] },
  wd: { name: 'Washer-disinfector', maker: 'Ocarro', models: ['WD-86'] },
  bsc: { name: 'Biosafety cabinet', maker: 'Vessmark', models: ['BSC-12', 'BSC-18'] },
  inc: { name: 'Incubator', maker: 'Vessmark', models: ['INC-240'] },
  cf: { name: 'Centrifuge', maker: 'Halvane', models: ['CF-6K'] },
  wpu: { name: 'Water purification unit', maker: 'Ocarro', models: ['WPU-60'] },
  cold: { name: 'Walk-in cold room', maker: 'Tindrel', models: ['CR-20'] },
  cu: { name: 'Compressor unit', maker: 'Tindrel', models: ['CU-7'] },
  ctl: { name: 'Cold room controller', maker: 'Halvane', models: ['CTL-3'] },
};

export type SitePlan = {
  readonly site: string;
  readonly street: string;
  readonly zone: DemoZone;
  readonly at: readonly [latitude: number, longitude: number];
  readonly rooms: readonly string[];
  readonly machines: Partial<Record<ClassKey, number>>;
};
export type CustomerPlan = { readonly name: string; readonly address: string; readonly sites: readonly SitePlan[] };

const site = (
  name: string,
  street: string,
  zone: DemoZone,
  at: [number, number],
  rooms: string[],
  machines: SitePlan['machines'],
): SitePlan => ({ site: name, street, zone, at, rooms, machines });
const bloodSite = (town: string, n: number, zone: DemoZone, at: [number, number]): SitePlan =>
  site(`Costabela ${town}`, `Rua do Dador ${n}, ${town}`, zone, at, ['Donation room', 'Store 1', 'Store 2'], {
    plf: 3,
    vr: 1,
    cf: 1,
  });

export const CUSTOMERS: readonly CustomerPlan[] = [
  {
    name: 'Costabela Blood Centre',
    address: 'Avenida da Ria 4, Costabela',
    sites: [
      site(
        'Costabela Centre',
        'Avenida da Ria 4, Costabela',
        LISBON,
        [41.87, -8.84],
        ['Floor 0 > Plasma store', 'Floor 0 > Quarantine store', 'Floor 1 > Processing lab'],
        { plf: 8, ulf: 2, cf: 4, inc: 2, vr: 2 },
      ),
      bloodSite('Sobral', 11, LISBON, [41.9, -8.6]),
      bloodSite('Pinhel', 2, LISBON, [41.95, -8.5]),
      bloodSite('Tomiño Alto', 8, MADRID, [41.99, -8.74]),
      bloodSite('Areal', 30, LISBON, [41.8, -8.86]),
      bloodSite('Valdoro', 5, MADRID, [42.05, -8.64]),
    ],
  },
  {
    name: 'Fontelo Fertility Clinic',
    address: 'Rua das Camélias 17, Fontelo',
    sites: [
      site(
        'Fontelo Clinic',
        'Rua das Camélias 17, Fontelo',
        LISBON,
        [41.69, -8.83],
        ['Embryology', 'Andrology', 'Cryo store'],
        { inc: 6, bsc: 3, ulf: 1, cf: 1 },
      ),
    ],
  },
  {
    name: 'Encosta Vaccine Depot',
    address: 'Cais da Encosta 4, Encosta',
    sites: [
      site(
        'Encosta Depot',
        'Cais da Encosta 4, Encosta',
        LISBON,
        [41.71, -8.8],
        ['Hall A > Bay 1', 'Hall A > Bay 2', 'Hall A > Bay 3', 'Hall B > Bay 4', 'Hall B > Bay 5'],
        { vr: 12, ulf: 6, cold: 1 },
      ),
    ],
  },
  {
    name: 'Damiro Food Testing',
    address: 'Rúa do Muíño 21, Damiro',
    sites: [
      site(
        'Damiro Laboratory',
        'Rúa do Muíño 21, Damiro',
        MADRID,
        [42.11, -8.62],
        ['Lab 1', 'Lab 2', 'Lab 3', 'Washroom'],
        { inc: 5, stc: 2, cf: 2, wd: 2, wpu: 2, bsc: 1 },
      ),
    ],
  },
  {
    name: 'Alvaiz Pathology Group',
    address: 'Praça do Olmo 3, Alvaiz',
    sites: [
      site(
        'Alvaiz Pathology',
        'Praça do Olmo 3, Alvaiz',
        LISBON,
        [41.55, -8.42],
        ['Floor 1 > Room 11', 'Floor 1 > Room 12', 'Floor 2 > Room 21'],
        { bsc: 4, cf: 3, ulf: 2, inc: 1, wd: 1 },
      ),
      site('Alvaiz Branch Moreda', 'Rúa Nova 40, Moreda', MADRID, [42.2, -8.7], ['Room 1', 'Room 2'], {
        bsc: 2,
        cf: 2,
        vr: 1,
      }),
    ],
  },
  {
    name: 'Serra Veterinary Institute',
    address: 'Estrada da Serra 90, Cabril',
    sites: [
      site(
        'Serra Institute',
        'Estrada da Serra 90, Cabril',
        LISBON,
        [41.73, -8.1],
        ['Necropsy', 'Bacteriology', 'Virology'],
        { stc: 2, bsc: 4, ulf: 2, inc: 2, wd: 1 },
      ),
    ],
  },
  {
    name: 'Pontal Marine Station',
    address: 'Porto do Pontal 1, Pontal',
    sites: [
      site('Pontal Station', 'Porto do Pontal 1, Pontal', MADRID, [42.24, -8.87], ['Wet lab', 'Dry lab'], {
        ulf: 1,
        inc: 2,
        wpu: 1,
        cf: 1,
      }),
    ],
  },
  {
    name: 'Horta Nova Biobank',
    address: 'Rua da Horta 55, Horta Nova',
    sites: [
      site(
        'Horta Nova',
        'Rua da Horta 55, Horta Nova',
        LISBON,
        [41.6, -8.63],
        ['Vault 1', 'Vault 2', 'Vault 3', 'Plant room'],
        { ulf: 18, cu: 1, wpu: 1 },
      ),
    ],
  },
  {
    name: 'Alvorim Hospitals',
    address: 'Largo do Hospital 1, Alvorim',
    sites: [
      site(
        'São Brás Hospital',
        'Largo do Hospital 1, Alvorim',
        LISBON,
        [41.53, -8.78],
        [
          'Building A > Floor 0 > Sterile Services',
          'Building A > Floor 2 > Pharmacy',
          'Building B > Floor 1 > Laboratory',
          'Building B > Floor 1 > Blood bank',
        ],
        { stc: 6, wd: 6, vr: 4, plf: 2, cf: 3, bsc: 2, wpu: 2 },
      ),
      site(
        'Santa Eufémia Hospital',
        'Rua da Misericórdia 12, Eufémia',
        LISBON,
        [41.44, -8.29],
        ['Floor 0 > Sterile Services', 'Floor 1 > Pharmacy', 'Floor 1 > Laboratory'],
        { stc: 4, wd: 4, vr: 3, cf: 4, bsc: 1, wpu: 1, inc: 4 },
      ),
      site(
        'Hospital do Miño',
        'Avenida do Miño 7, Pedralonga',
        MADRID,
        [42.07, -8.65],
        ['Floor 0 > Sterile Services', 'Floor 3 > Pharmacy', 'Floor 3 > Laboratory'],
        { stc: 4, wd: 3, vr: 3, cf: 4, bsc: 2, wpu: 1, inc: 4 },
      ),
    ],
  },
  {
    name: 'Ribeira Pharmacies',
    address: 'Rua Direita 60, Ribeira',
    sites: [
      site(
        'Shared cold store Ribeira',
        'Travessa do Gelo 2, Ribeira',
        LISBON,
        [41.7, -8.75],
        ['North side', 'South side'],
        { vr: 4 },
      ),
    ],
  },
  {
    name: 'Salgueiro Pharmacy',
    address: 'Rua do Salgueiro 9, Ribeira',
    sites: [
      site('Shared cold store Ribeira', 'Travessa do Gelo 2, Ribeira', LISBON, [41.7, -8.75], ['South side'], {
        vr: 2,
      }),
    ],
  },
  {
    name: 'Kelvara Biotech',
    address: 'Parque Molinho, Pedralonga',
    sites: [
      site('Molinho Incubator', 'Parque Molinho 1, Pedralonga', MADRID, [42.08, -8.63], ['Room K1', 'Room K2'], {
        ulf: 2,
        bsc: 2,
        inc: 2,
      }),
    ],
  },
  {
    name: 'Nudo Genomics',
    address: 'Parque Molinho, Pedralonga',
    sites: [
      site(
        'Molinho Incubator',
        'Parque Molinho 1, Pedralonga',
        MADRID,
        [42.08, -8.63],
        ['Room N1', 'Shared cold room'],
        { ulf: 3, cf: 2, wpu: 1 },
      ),
    ],
  },
  {
    name: 'Brizal Enzymes',
    address: 'Parque Molinho, Pedralonga',
    sites: [
      site('Molinho Incubator', 'Parque Molinho 1, Pedralonga', MADRID, [42.08, -8.63], ['Room B1'], {
        inc: 2,
        cf: 1,
        wd: 1,
      }),
    ],
  },
  {
    name: 'Ostra Diagnostics',
    address: 'Parque Molinho, Pedralonga',
    sites: [
      site(
        'Molinho Incubator',
        'Parque Molinho 1, Pedralonga',
        MADRID,
        [42.08, -8.63],
        ['Room O1', 'Shared cold room'],
        { vr: 2, bsc: 1, cf: 1 },
      ),
    ],
  },
  {
    name: 'Lameira Dialysis',
    address: 'Rua da Lameira 33, Sobral',
    sites: [
      site('Lameira Centre', 'Rua da Lameira 33, Sobral', LISBON, [41.91, -8.61], ['Treatment hall', 'Water room'], {
        wpu: 4,
        stc: 1,
        vr: 1,
      }),
    ],
  },
];

export const COLD: readonly ClassKey[] = ['ulf', 'plf', 'vr', 'cold'];
export const STERILE: readonly ClassKey[] = ['stc', 'wd'];

export type Care = {
  readonly plan: string;
  readonly minutes: number;
  readonly rule: string;
  readonly tasks: readonly string[];
  readonly early: number;
  readonly late: number;
  readonly lead: number;
};
export const CARE: Partial<Record<ClassKey, Care>> = {
  ulf: {
    plan: 'Ultra-low freezer quarterly',
    minutes: 90,
    rule: 'FREQ=MONTHLY;INTERVAL=3;BYDAY=1TU',
    tasks: ['Clean condenser filter', 'Check door gasket', 'Test the alarm chain', '? Remove ice from the lid'],
    early: 7,
    late: 7,
    lead: 21,
  },
  plf: {
    plan: 'Plasma freezer quarterly',
    minutes: 75,
    rule: 'FREQ=MONTHLY;INTERVAL=3;BYDAY=2WE',
    tasks: ['Clean condenser filter', 'Check door gasket', 'Test the alarm chain'],
    early: 7,
    late: 7,
    lead: 21,
  },
  vr: {
    plan: 'Vaccine refrigerator half-year',
    minutes: 60,
    rule: 'FREQ=MONTHLY;INTERVAL=6;BYDAY=1TH',
    tasks: ['Compare with reference probe', 'Clean condenser', 'Check door closer'],
    early: 10,
    late: 10,
    lead: 28,
  },
  stc: {
    plan: 'Steriliser quarterly',
    minutes: 180,
    rule: 'FREQ=MONTHLY;INTERVAL=3;BYDAY=3MO',
    tasks: ['Vacuum leak test', 'Replace door seal grease', 'Check safety valve', 'Print a test cycle'],
    early: 5,
    late: 10,
    lead: 30,
  },
  wd: {
    plan: 'Washer-disinfector half-year',
    minutes: 120,
    rule: 'FREQ=MONTHLY;INTERVAL=6;BYMONTHDAY=15',
    tasks: ['Check spray arms', 'Calibrate dosing', 'Thermal disinfection test'],
    early: 7,
    late: 10,
    lead: 21,
  },
  bsc: {
    plan: 'Cabinet certification, yearly',
    minutes: 150,
    rule: 'FREQ=YEARLY;INTERVAL=1',
    tasks: ['Measure air speeds', 'Smoke pattern test', 'Filter leak test', 'Issue the certificate'],
    early: 30,
    late: 0,
    lead: 45,
  },
  inc: {
    plan: 'Incubator yearly',
    minutes: 60,
    rule: 'FREQ=YEARLY;BYMONTH=3;BYDAY=1MO',
    tasks: ['Map temperature', 'Check gas sensor'],
    early: 14,
    late: 14,
    lead: 30,
  },
  cf: {
    plan: 'Centrifuge half-year',
    minutes: 60,
    rule: 'FREQ=MONTHLY;INTERVAL=6;BYDAY=2TU',
    tasks: ['Check rotor and drive', 'Test the lid lock'],
    early: 10,
    late: 10,
    lead: 21,
  },
  wpu: {
    plan: 'Water unit fortnightly check',
    minutes: 40,
    rule: 'FREQ=WEEKLY;INTERVAL=2;BYDAY=WE',
    tasks: ['Measure conductivity', '? Change the cartridge'],
    early: 2,
    late: 3,
    lead: 10,
  },
  cold: {
    plan: 'Cold store deep clean',
    minutes: 240,
    rule: 'FREQ=YEARLY;BYMONTH=4,10;BYMONTHDAY=25',
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

export const FAULTS: Partial<Record<ClassKey, readonly string[]>> = {
  ulf: ['Chamber warming up', 'Compressor relay clicks', 'Door gasket torn', 'Controller shows a probe fault'],
  plf: ['Chamber warming up', 'Fan noisy', 'Alarm battery flat'],
  vr: ['Too warm in the morning', 'Door does not close', 'Display dark'],
  stc: ['Stops in the drying phase', 'Door does not lock', 'Vacuum not reached', 'Steam leak at the door'],
  wd: ['Dosing alarm', 'Drain blocked', 'Spray arm stuck'],
  bsc: ['Air speed alarm', 'Sash will not rise', 'Lamp out'],
  inc: ['Temperature drifts', 'Gas alarm'],
  cf: ['Imbalance error', 'Lid lock fails', 'Drive belt squeals'],
  wpu: ['Conductivity too high', 'Leak under the unit'],
  cold: ['Evaporator iced up'],
};
