// Travel as this house reckons it: its own speeds, and times somebody measured.
import type { Roads } from '#core/rota/index.ts';
import { PLAIN_ROADS } from '#core/rota/index.ts';
import type { Db } from '../platform/database.ts';

export async function roadsOf(_db: Db): Promise<Roads> {
  return PLAIN_ROADS;
}
