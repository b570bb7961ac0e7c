// An agreement, its customer and the reference, as the server would answer them to the forms under test.
import { NEW_TERMS } from './terms-fields.tsx';

export const NOW = Date.UTC(2026, 10, 24, 9, 20);
export const PAGE = {
  id: 4,
  version: 9,
  number: 'AG-2004',
  name: 'Full care',
  customer: { id: 2, name: 'Alvorim Hospitals' },
  stage: 'in force',
  from: '2026-01-01',
  to: '2026-12-31',
  noticeDays: 90,
  noticeBy: '2026-10-02',
  reminder: '',
  renewalMode: 'to be renegotiated',
  renewalMonths: 12,
  managerId: null,
  manager: null,
  costCentre: 'FU-101',
  signOff: false,
  currency: 'EUR',
  priceMinor: 118_000,
  billingPer: 'quarter',
  billingTiming: 'in advance',
  indexation: { fixedPercent: 20, base: 100_00, values: [] },
  suspendedCover: false,
  suspendedVisits: false,
  suspendedBilling: false,
  contacts: [{ id: 31, name: 'Marta Silva', role: null, phone: null }],
  lines: [
    { id: 51, label: 'Everything below Norvela', terms: { ...NEW_TERMS, from: '2026-02-01', to: null } },
    { id: 52, label: 'Q0104', terms: NEW_TERMS },
  ],
  assets: [{ id: 61, tag: 'Q0104', className: 'Steam steriliser' }],
  assetsTotal: 12,
  allowances: [],
  now: NOW,
} as never;
export const CALENDAR = {
  id: 3,
  version: 2,
  name: 'Ribeira service hours',
  zone: 'Europe/Lisbon',
  weekly: [1, 2, 3, 4, 5, 6, 7].map((d) => (d < 6 ? [{ from: 540, to: 1080 }] : [])),
  closed: [{ date: '2026-12-08', name: 'Holiday' }],
  extraOpen: [],
};
export const REFERENCE = {
  today: '2026-11-24',
  zone: 'Europe/Lisbon',
  calendars: [CALENDAR],
  serviceLevels: [{ id: 6, name: 'Cold storage' }],
  jobPlans: [{ id: 5, version: 4, name: 'Yearly care', minutes: 90, tasks: [] }],
  classes: [{ id: 11, name: 'Steam steriliser' }],
  technicians: [],
  depots: [],
  skills: [],
  managers: [{ id: 7, name: 'Inês Teixeira' }],
};
export const CUSTOMER = {
  id: 2,
  name: 'Alvorim Hospitals',
  contacts: [
    { id: 31, name: 'Marta Silva' },
    { id: 32, name: 'Rui Costa' },
  ],
};
