// Opening spans as people type them: "09:00-13:00, 14:00-18:00".
import type { OpeningSpan } from '#core/calendars/index.ts';

import { sayTimeOfDay } from '#core/time/index.ts';

export function saySpans(spans: readonly OpeningSpan[]): string {
  return spans.map((s) => `${sayTimeOfDay(s.from)}-${sayTimeOfDay(s.to)}`).join(', ');
}

function minutesOf(text: string): number | null {
  const found = /^(\d{1,2})(?::(\d{2}))?$/.exec(text.trim());
  if (!found) return null;
  const minutes = Number(found[1]) * 60 + Number(found[2] ?? 0);
  return minutes <= 1440 && Number(found[2] ?? 0) < 60 ? minutes : null;
}

/** Reads typed spans; an empty text is a closed day; null when it cannot be read. */
export function readSpans(text: string): OpeningSpan[] | null {
  if (text.trim() === '' || text.trim().toLowerCase() === 'closed') return [];
  const spans: OpeningSpan[] = [];
  for (const piece of text.split(',')) {
    const [from, to, more] = piece.split(/[-–]/).map(minutesOf);
    if (from === null || from === undefined || to === null || to === undefined || more !== undefined || from > 1439)
      return null;
    spans.push({ from, to });
  }
  return spans;
}
