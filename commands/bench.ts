// ./stavok bench NAME: one measurement with its reference, as JSON.
export const BENCHES: Readonly<Record<string, () => Promise<{ measure(): Promise<unknown> }>>> = {
  recurrence: () => import('../bench/recurrence.ts'),
  'working-time': () => import('../bench/working-time.ts'),
  upkeep: () => import('../bench/upkeep.ts'),
  level: () => import('../bench/level.ts'),
  entitlement: () => import('../bench/entitlement.ts'),
  register: () => import('../bench/register.ts'),
  orders: () => import('../bench/orders.ts'),
  standing: () => import('../bench/standing.ts'),
  stores: () => import('../bench/stores.ts'),
  settle: () => import('../bench/settle.ts'),
  rota: () => import('../bench/rota.ts'),
  'rota-served': () => import('../bench/rota-served.ts'),
  'rota-screen': () => import('../bench/rota-screen.ts'),
  field: () => import('../bench/field.ts'),
  'first-screen': () => import('../bench/first-screen.ts'),
  signals: () => import('../bench/signals.ts'),
};

export async function run(args: string[]): Promise<void> {
  const load = BENCHES[args[0] ?? ''];
  if (!load) throw new Error(`Name a measurement: ${Object.keys(BENCHES).join(', ')}.`);
  process.stdout.write(`${JSON.stringify(await (await load()).measure(), null, 2)}\n`);
}
