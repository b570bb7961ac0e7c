// Scanning a label with the camera: QR, Code 128 and Data Matrix; what is read opens the asset.
import { useEffect, useRef, useState } from 'react';
import { useNavigate } from 'react-router';
import { finderApi } from './endpoints.ts';

/** Reads codes from the camera until one is an asset’s. The reader is loaded only when somebody scans. */
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
            if (!data?.assetId) return setSaid(`“${data?.read ?? code}” is no asset of the register.`);
            onFound();
            void navigate(`/assets/${data.assetId}`);
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
