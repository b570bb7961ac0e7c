// When the world of measurements stands.
import { asInstant, type Instant } from '#core/time/index.ts';

export const NOW: Instant = asInstant('2026-11-24T09:20:00Z');
