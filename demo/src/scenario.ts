// The scenario: Marisma Lab Service, its people, customers, places, machines and agreements. All of it invented.
import type { Role } from '#core/people.ts';

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
