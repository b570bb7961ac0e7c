// Where the phone is: asked of it only when somebody did something that says so, and only where they allow it.
import type { FieldBody } from '#api/field.ts';
import { actsHere } from '../held.ts';
import type { PhoneState } from './phone.ts';

/** What they said last, told already or not. */
export function allowsPosition(state: Pick<PhoneState, 'days' | 'taken' | 'queue'>): boolean {
  const said = actsHere(state).findLast(({ body }) => body.kind === 'position allowed')?.body;
  return said?.kind === 'position allowed' ? said.allowed : (state.days?.person.allowsPosition ?? false);
}

const STAGES: readonly string[] = ['arrived', 'restored', 'done', 'paused', 'resumed'];

/** Whether somebody who does this stands where it counts. */
export const saysWhere = (body: FieldBody): boolean =>
  body.kind === 'late' || (body.kind === 'order' && STAGES.includes(body.act.kind));

const WAIT_MS = 20_000;
const OLD_MS = 60_000;

/** Null: the phone does not know, or does not tell. */
export const whereNow = (): Promise<Pick<GeolocationCoordinates, 'latitude' | 'longitude' | 'accuracy'> | null> =>
  new Promise((found) => {
    if (!('geolocation' in navigator)) return found(null);
    navigator.geolocation.getCurrentPosition(
      ({ coords: { latitude, longitude, accuracy } }) => found({ latitude, longitude, accuracy }),
      () => found(null),
      { enableHighAccuracy: true, timeout: WAIT_MS, maximumAge: OLD_MS },
    );
  });
