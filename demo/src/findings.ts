// The demo's words for what is found: symptoms of each class, and what was behind them and done about it.
import type { Findings, Finding } from '#core/orders/index.ts';
import { FAULTS, type ClassKey } from './scenario.ts';

/** What is behind a symptom, and what puts it right: fault, cause, remedy. */
const BEHIND: Readonly<Record<string, readonly [fault: string, cause: string, remedy: string]>> = {
  'Chamber warming up': ['condenser blocked', 'dust', 'condenser cleaned'],
  'Compressor relay clicks': ['start relay worn', 'wear', 'start relay replaced'],
  'Door gasket torn': ['gasket torn', 'door forced open', 'gasket replaced'],
  'Controller shows a probe fault': ['probe broken', 'moisture in the plug', 'probe replaced'],
  'Fan noisy': ['fan bearing worn', 'wear', 'fan replaced'],
  'Alarm battery flat': ['battery flat', 'wear', 'battery replaced'],
  'Too warm in the morning': ['evaporator iced up', 'door left open', 'defrosted and set anew'],
  'Door does not close': ['hinge bent', 'overloaded', 'hinge set anew'],
  'Display dark': ['power supply failed', 'power cut', 'power supply replaced'],
  'Stops in the drying phase': ['air filter blocked', 'dust', 'air filter replaced'],
  'Door does not lock': ['lock motor worn', 'wear', 'lock motor replaced'],
  'Vacuum not reached': ['pump valve leaks', 'scale', 'valve descaled'],
  'Steam leak at the door': ['door seal worn', 'wear', 'door seal replaced'],
  'Dosing alarm': ['dosing hose worn', 'wear', 'dosing hose replaced'],
  'Drain blocked': ['drain blocked', 'residues', 'drain cleared'],
  'Spray arm stuck': ['spray arm bearing worn', 'residues', 'spray arm cleaned'],
  'Air speed alarm': ['filter loaded', 'wear', 'filter replaced'],
  'Sash will not rise': ['sash cable worn', 'wear', 'sash cable replaced'],
  'Lamp out': ['lamp failed', 'wear', 'lamp replaced'],
  'Temperature drifts': ['sensor drifted', 'wear', 'sensor set anew'],
  'Gas alarm': ['gas hose leaks', 'hose kinked', 'gas hose replaced'],
  'Imbalance error': ['rotor feet worn', 'loaded unevenly', 'feet replaced, users shown'],
  'Lid lock fails': ['lid lock worn', 'wear', 'lid lock replaced'],
  'Drive belt squeals': ['drive belt worn', 'wear', 'drive belt replaced'],
  'Conductivity too high': ['membrane exhausted', 'wear', 'membrane replaced'],
  'Leak under the unit': ['hose clamp loose', 'vibration', 'clamp tightened'],
  'Evaporator iced up': ['defrost heater failed', 'wear', 'defrost heater replaced'],
};
const COMMON = { cause: ['wear', 'power cut', 'misuse'], remedy: ['restarted', 'users shown'] } as const;

/** The words of a class, by what they say; a class without known symptoms has none. */
export function wordsOf(key: ClassKey): [kind: Finding, text: string][] {
  const symptoms = FAULTS[key] ?? [];
  if (symptoms.length === 0) return [];
  const behind = symptoms.flatMap((s) => (BEHIND[s] ? [BEHIND[s]] : []));
  const words = (kind: Finding, texts: readonly string[]): [Finding, string][] =>
    [...new Set(texts)].map((text) => [kind, text]);
  return [
    ...words(
      'symptom',
      symptoms.map((s) => s.toLowerCase()),
    ),
    ...words(
      'fault',
      behind.map(([fault]) => fault),
    ),
    ...words('cause', [...behind.map(([, cause]) => cause), ...COMMON.cause]),
    ...words('remedy', [...behind.map(([, , remedy]) => remedy), ...COMMON.remedy]),
  ];
}

/** What a repair of this title turned out to be. */
export function findingsOf(title: string): Findings {
  const [fault, cause, remedy] = BEHIND[title] ?? [null, null, null];
  return { symptom: title.toLowerCase(), fault, cause, remedy };
}
