// Scanning a label with the camera: QR, Code 128 and Data Matrix; what is read opens the asset, the part or its unit.
import { useEffect, useRef, useState } from 'react';
import { useNavigate } from 'react-router';
import type { Scanned } from '#api/assets.ts';
import { finderApi } from './endpoints.ts';

/** Where what was scanned is shown; null: it is nothing of ours. */
export function pathOf({ assetId, part }: Pick<Scanned, 'assetId' | 'part'>): string | null {
  if (assetId !== null) return `/assets/${assetId}`;
  if (part === null) return null;
  return part.serial === null
    ? `/stores/parts/${part.id}`
    : `/stores/parts/${part.id}/unit?serial=${encodeURIComponent(part.serial)}`;
}

/** Reads codes from the camera until one is an asset’s or a part’s. The reader is loaded only when somebody scans. */
export function Scanner({ onFound, onClose }: { onFound: () => void; onClose: () => void }) {
  const video = useRef<HTMLVideoElement>(null);
  const navigate = useNavigate();
  const [said, setSaid] = useState('Hold the label in front of the camera.');
  const [look] = finderApi.useLazyReadScanQuery();
  useEffect(() => {
    let stopped = false;
    let stop = (): void => undefined;
    const begin = async (): Promise<void> => {
      if (!('mediaDevices' in navigator)) throw new Error('no camera');
      const [{ BrowserMultiFormatReader }, { BarcodeFormat, DecodeHintType }] = await Promise.all([
        import('@zxing/browser'),
        import('@zxing/library'),
      ]);
      const formats = [BarcodeFormat.QR_CODE, BarcodeFormat.CODE_128, BarcodeFormat.DATA_MATRIX];
      const reader = new BrowserMultiFormatReader(new Map([[DecodeHintType.POSSIBLE_FORMATS, formats]]));
      let last = '';
      const controls = await reader.decodeFromConstraints(
        { video: { facingMode: 'environment' } },
        video.current ?? undefined,
        (result) => {
          const code = result?.getText() ?? '';
          if (stopped || code === '' || code === last) return;
          last = code;
          void look({ query: { code: code.slice(0, 300) } }).then(({ data }) => {
            if (stopped) return;
            const path = data && pathOf(data);
            if (!path) return setSaid(`“${data?.read ?? code}” is no asset of the register, and no part.`);
            onFound();
            void navigate(path);
          });
        },
      );
      stop = () => controls.stop();
      if (stopped) stop();
    };
    begin().catch(() => setSaid('✕ The camera cannot be used here. Allow it in the browser, or type the tag instead.'));
    return () => {
      stopped = true;
      stop();
    };
  }, [look, navigate, onFound]);
  return (
    <div className="mt-2">
      <video ref={video} className="h-64 w-full border border-hairline bg-black object-cover" muted playsInline />
      <p className="py-1.5" role="status">
        {said}
      </p>
      <button className="act" onClick={onClose}>
        Stop scanning
      </button>
    </div>
  );
}
