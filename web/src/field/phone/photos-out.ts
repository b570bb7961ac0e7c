// Photos on their way to the office: before the acts that name them, a few at once, and each once.
import type { FieldBody, sendPhoto } from '#api/field.ts';
import type { Outcome, PhoneAct } from '#core/field/index.ts';
import { refusal, type Refusal } from '#core/refusal.ts';
import type { Keep } from './keep.ts';
import type { Said } from './phone.ts';

const AT_ONCE = 3;

export class PhotosOut {
  readonly #keep: Pick<Keep, 'photo'>;
  readonly #put: (id: string, photo: Blob) => Promise<Said<typeof sendPhoto>>;
  readonly #tokenIsOld: () => void;
  /** Those that the server has: they do not go twice where an answer to their acts was lost. */
  readonly #there = new Set<string>();

  constructor(
    keep: Pick<Keep, 'photo'>,
    put: (id: string, photo: Blob) => Promise<Said<typeof sendPhoto>>,
    tokenIsOld: () => void,
  ) {
    this.#keep = keep;
    this.#put = put;
    this.#tokenIsOld = tokenIsOld;
  }

  /** Null: nothing was heard of it; else why it was refused, if it was. */
  async #sent(name: string): Promise<readonly Refusal[] | null> {
    if (this.#there.has(name)) return [];
    const photo = await this.#keep.photo(name);
    if (!photo) return [];
    const said = await this.#put(name, new Blob([photo.bytes], { type: photo.type }));
    if (said.ok) {
      this.#there.add(name);
      return [];
    }
    const { status, code, detail } = said.problem;
    if (status === 403) this.#tokenIsOld();
    const isUnheard = status < 400 || status === 403 || status >= 500 || code === 'signed-out';
    return isUnheard ? null : [refusal('invalid', detail, 'photo')];
  }

  /** Null: one was not heard of; else those that were refused. */
  async send(batch: readonly PhoneAct<FieldBody>[]): Promise<Outcome[] | null> {
    const left = batch.flatMap(({ id, body }) => (body.kind === 'photo' ? [{ id, photo: body.photo }] : []));
    const lost: Outcome[] = [];
    let isHeard = true;
    const sendOn = async (): Promise<void> => {
      for (let next = left.shift(); next && isHeard; next = left.shift()) {
        const refusals = await this.#sent(next.photo);
        if (refusals === null) isHeard = false;
        else if (refusals.length > 0) lost.push({ id: next.id, kind: 'refused', refusals });
      }
    };
    await Promise.all(Array.from({ length: AT_ONCE }, sendOn));
    return isHeard ? lost : null;
  }
}
