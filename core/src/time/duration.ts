// Durations: whole minutes, their ISO 8601 text and the words shown to people.

/** ISO 8601 duration of whole minutes, such as `PT3H10M`; zero is `PT0M`. */
export function formatDuration(minutes: number): string {
  const hours = Math.floor(minutes / 60);
  const rest = minutes % 60;
  return `PT${hours > 0 ? `${hours}H` : ''}${rest > 0 || hours === 0 ? `${rest}M` : ''}`;
}

/** Reads weeks, days (of 24 h), hours and minutes of an ISO 8601 duration; years, months and seconds give null. */
export function parseDuration(text: string): number | null {
  const found = /^P(?:(\d{1,4})W)?(?:(\d{1,5})D)?(?:T(?=\d)(?:(\d{1,5})H)?(?:(\d{1,6})M)?)?$/.exec(text);
  if (!found || text === 'P') return null;
  const [weeks, days, hours, minutes] = [1, 2, 3, 4].map((i) => Number(found[i] ?? 0)) as [
    number,
    number,
    number,
    number,
  ];
  return ((weeks * 7 + days) * 24 + hours) * 60 + minutes;
}

/** "3 h 10 min", "45 min", "2 d 4 h" for elapsed lengths from two days on. Milliseconds are cut to whole minutes. */
export function sayLength(milliseconds: number, days: 'as days' | 'as hours' = 'as days'): string {
  const minutes = Math.floor(Math.abs(milliseconds) / 60_000);
  if (days === 'as days' && minutes >= 2 * 1440) {
    const hours = Math.floor((minutes % 1440) / 60);
    return `${Math.floor(minutes / 1440)} d${hours > 0 ? ` ${hours} h` : ''}`;
  }
  const hours = Math.floor(minutes / 60);
  if (hours === 0) return `${minutes} min`;
  return minutes % 60 === 0 ? `${hours} h` : `${hours} h ${minutes % 60} min`;
}
