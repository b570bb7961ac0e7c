// Times as the rota says them: as a clock shows them where the place or the person is.
import { sayTimeOfDay, toWallTime, type Instant, type Zone } from '#core/time/index.ts';

export const clockAt = (at: Instant, zone: Zone): string => sayTimeOfDay(toWallTime(zone, at).minutes);
