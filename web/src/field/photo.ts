// Photos made small on the phone: long enough to read a type plate, short enough for a poor network.
import { decided, refusal, refused, type Decided } from '#core/refusal.ts';

/** Tried one after the other until a photo is short enough; the last is taken as it comes. */
const STEPS = [
  { longest: 1600, quality: 0.6 },
  { longest: 1280, quality: 0.5 },
  { longest: 1024, quality: 0.4 },
] as const;
/** Forty of them are on their way for less than half a minute at 1.6 Mb/s. */
const SHORT_ENOUGH = 110 * 1024;
/** A camera's own; a larger file is no photo. */
const MOST_BYTES = 40 * 1024 * 1024;

async function made(file: Blob, { longest, quality }: (typeof STEPS)[number]): Promise<Blob | null> {
  const { default: Compressor } = await import('compressorjs');
  return new Promise((done) => {
    new Compressor(file, {
      ...{ maxWidth: longest, maxHeight: longest, quality, mimeType: 'image/jpeg', convertSize: 0 },
      success: done,
      error: () => done(null),
    });
  });
}

/** The photo, at most 1600 pixels long, turned as it was held. Refused: what is no photo. */
export async function shrunk(file: File): Promise<Decided<Blob>> {
  if (!file.type.startsWith('image/')) return refused(refusal('malformed', 'This is no photo.', 'photo'));
  if (file.size > MOST_BYTES)
    return refused(refusal('too-large', 'This photo is larger than 40 MB; take it again.', 'photo'));
  let small: Blob = file;
  for (const step of STEPS) {
    // From what was made before: a camera's own is read once, which is what takes long.
    const next = await made(small, step);
    if (next === null) return refused(refusal('malformed', 'This photo cannot be read; take it again.', 'photo'));
    small = next;
    if (small.size <= SHORT_ENOUGH) break;
  }
  return decided(small);
}
