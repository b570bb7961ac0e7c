// Scanning on site: what a label is of, looked for in what the phone holds.
import { lazy, Suspense, useState } from 'react';
import type { VanPart } from '#api/field.ts';
import { plainSerial, readLabel } from '#core/assets/index.ts';
import type { OnOrder } from './held.ts';

const Camera = lazy(async () => ({ default: (await import('../parts/camera.tsx')).Camera }));

/** The line of an order whose machine has this label or this serial on its plate. */
export function lineScanned(
  order: Pick<OnOrder, 'page'>,
  text: string,
): { readonly code: string; readonly lineId: number | null } {
  const { of, code } = readLabel(text);
  const line = order.page.lines.find(
    (l) =>
      !l.off && of !== 'part' && (l.tag === code || (l.serial !== '' && plainSerial(l.serial) === plainSerial(code))),
  );
  return { code, lineId: line?.id ?? null };
}

/** The part whose number was scanned, or whose unit; the serial where it is one. */
export function partScanned<P extends Pick<VanPart, 'number' | 'serials'>>(
  parts: readonly P[],
  text: string,
): { readonly code: string; readonly part: P | null; readonly serial: string } {
  const { of, code } = readLabel(text);
  if (of === 'asset') return { code, part: null, serial: '' };
  const part = parts.find((p) => p.number === code);
  if (part) return { code, part, serial: '' };
  return { code, part: parts.find((p) => p.serials.includes(code)) ?? null, serial: code };
}

/** A button that opens the camera until something is scanned that `read` takes; else it gives what to say. */
export function ScanButton({ text, read }: { text: string; read: (code: string) => string | null }) {
  const [isOpen, setOpen] = useState(false);
  const readOnce = (code: string): Promise<string | null> => {
    const nothing = read(code);
    if (nothing === null) setOpen(false);
    return Promise.resolve(nothing);
  };
  return (
    <>
      <button type="button" className="plain mt-2 w-full" aria-expanded={isOpen} onClick={() => setOpen(!isOpen)}>
        {isOpen ? 'Stop scanning' : text}
      </button>
      {isOpen && (
        <Suspense fallback={<p className="mt-2">Opening the camera …</p>}>
          <div className="mt-2">
            <Camera read={readOnce} />
          </div>
        </Suspense>
      )}
    </>
  );
}
