// Hours and minutes as figures in a column: 7:50.
export function sayClock(minutes: number): string {
  const all = Math.abs(minutes);
  return minutes === 0 ? '' : `${minutes < 0 ? '−' : ''}${Math.floor(all / 60)}:${String(all % 60).padStart(2, '0')}`;
}
