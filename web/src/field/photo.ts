// Photos made small on the phone: long enough to read a type plate, short enough for a poor network.
import Compressor from 'compressorjs';
import { decided, refusal, refused, type Decided } from '#core/refusal.ts';

const LONGEST = 1600;
const QUALITY = 0.72;
/** A camera's own; a larger file is no photo. */
const MOST_BYTES = 40 * 1024 * 1024;

/** The photo at most 1600 pixels long, turned as it was held. Refused: what is no photo. */
export async function shrunk(file: File): Promise<Decided<Blob>> {
  if (!file.type.startsWith('image/')) return refused(refusal('malformed', 'This is no photo.', 'photo'));
  if (file.size > MOST_BYTES)
    return refused(refusal('too-large', 'This photo is larger than 40 MB; take it again.', 'photo'));
  return new Promise((done) => {
    new Compressor(file, {
      ...{ maxWidth: LONGEST, maxHeight: LONGEST, quality: QUALITY, mimeType: 'image/jpeg', convertSize: 0 },
      success: (small) => done(decided(small)),
      error: () => done(refused(refusal('malformed', 'This photo cannot be read; take it again.', 'photo'))),
    });
  });
}
