// Taking a photo: made small, kept on the phone, and sent with its order.
import { useRef, useState } from 'react';
import { orderNumber } from '#api/shapes.ts';
import { Refused, useDoing } from './doing.tsx';
import { usePhone } from './held.ts';
import { shrunk } from './photo.ts';

/** `about`: what it shows, for its name. `took` gets the photo’s own id and the deed by which others need it. */
export function PhotoButton({
  orderId,
  text,
  about = '',
  took,
}: {
  orderId: number;
  text: string;
  about?: string;
  took?: (photo: { readonly id: string; readonly deed: string }) => void;
}) {
  const phone = usePhone();
  const { refusals, setRefusals } = useDoing();
  const input = useRef<HTMLInputElement>(null);
  const [taken, setTaken] = useState(0);
  const take = async (file: File): Promise<void> => {
    const small = await shrunk(file);
    if (!small.ok) return setRefusals(small.refusals);
    const name = [orderNumber(orderId), about, phone.now()].filter((w) => w !== '').join(' ');
    const kept = await phone.addPhoto(orderId, small.value, `${name}.jpg`);
    setRefusals(kept.ok ? [] : kept.refusals);
    if (!kept.ok) return;
    setTaken((n) => n + 1);
    took?.(kept.value);
  };
  return (
    <>
      <input
        ref={input}
        className="sr-only"
        type="file"
        accept="image/*"
        capture="environment"
        aria-label={`${text}: photo`}
        onChange={(e) => {
          const [file] = e.target.files ?? [];
          e.target.value = '';
          if (file) void take(file);
        }}
      />
      <button type="button" className="plain mt-2 w-full" onClick={() => input.current?.click()}>
        {taken === 0 ? text : `${text} · ${taken} taken`}
      </button>
      <Refused refusals={refusals} />
    </>
  );
}
