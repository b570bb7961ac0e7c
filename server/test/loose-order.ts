// An order that nobody is planned for, with its first line.
import type { Standing } from './act.ts';
import type { Caller } from './house.ts';

type Loose = { items: { orderId: number }[] };
export async function looseOrder(call: Caller): Promise<Pick<Standing, 'loose' | 'looseLine'>> {
  const { items } = (await call<Loose>('GET', '/api/rota/loose')).body;
  const loose = items[0]?.orderId ?? 0;
  const { lines } = (await call<{ lines: { id: number }[] }>('GET', `/api/orders/${loose}`)).body;
  return { loose, looseLine: lines[0]?.id ?? 0 };
}
