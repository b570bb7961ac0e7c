// Codes read by the camera: QR, Code 128 and Data Matrix. The reader is loaded only when somebody scans.
import { useEffect, useRef, useState } from 'react';

/** `read` gets each code once, and gives what is to be said where it is nothing; null: it was taken. */
export function Camera({ read }: { read: (code: string) => Promise<string | null> }) {
  const video = useRef<HTMLVideoElement>(null);
  const [said, setSaid] = useState('Hold the label in front of the camera.');
  const told = useRef(read);
  useEffect(() => {
    told.current = read;
  });
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
          void told.current(code.slice(0, 300)).then((nothing) => {
            if (!stopped && nothing !== null) setSaid(nothing);
          });
        },
      );
      stop = () => controls.stop();
      if (stopped) stop();
    };
    begin().catch(() =>
      setSaid('✕ The camera cannot be used here. Allow it in the browser, or type the number instead.'),
    );
    return () => {
      stopped = true;
      stop();
    };
  }, []);
  return (
    <>
      <video ref={video} className="h-64 w-full border border-hairline bg-black object-cover" muted playsInline />
      <p className="py-1.5" role="status">
        {said}
      </p>
    </>
  );
}
