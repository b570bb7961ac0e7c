// Dictation where the phone understands speech by itself: nothing that is said leaves it. Elsewhere one types.
import { useEffect, useRef, useState } from 'react';

/** Speech recognition as browsers have it: https://webaudio.github.io/web-speech-api/ . */
type Recognition = {
  lang: string;
  continuous: boolean;
  processLocally: boolean;
  onresult:
    | ((event: {
        readonly resultIndex: number;
        readonly results: ArrayLike<ArrayLike<{ readonly transcript: string }> & { readonly isFinal: boolean }>;
      }) => void)
    | null;
  onend: (() => void) | null;
  start(): void;
  stop(): void;
};
type Recognizing = (new () => Recognition) & {
  available?: (of: { readonly langs: readonly string[]; readonly processLocally: true }) => Promise<string>;
};

const recognizing = (): Recognizing | undefined =>
  (globalThis as { SpeechRecognition?: Recognizing }).SpeechRecognition;

async function hearsByItself(lang: string): Promise<boolean> {
  const said = await recognizing()?.available?.({ langs: [lang], processLocally: true });
  return said === 'available';
}

export function useDictation(heard: (text: string) => void) {
  const [canHear, setCanHear] = useState(false);
  const [isHearing, setHearing] = useState(false);
  const current = useRef<Recognition | null>(null);
  const tell = useRef(heard);
  useEffect(() => {
    tell.current = heard;
  });
  useEffect(() => {
    let isHere = true;
    void hearsByItself(navigator.language).then(
      (can) => isHere && setCanHear(can),
      () => undefined,
    );
    return () => {
      isHere = false;
      current.current?.stop();
    };
  }, []);
  const toggle = (): void => {
    if (current.current) return current.current.stop();
    const Recognizer = recognizing();
    if (!Recognizer) return;
    const own = new Recognizer();
    Object.assign(own, { lang: navigator.language, continuous: true, processLocally: true });
    own.onresult = ({ resultIndex, results }) => {
      for (let i = resultIndex; i < results.length; i += 1)
        if (results[i]?.isFinal) tell.current(results[i]?.[0]?.transcript.trim() ?? '');
    };
    own.onend = () => {
      current.current = null;
      setHearing(false);
    };
    current.current = own;
    own.start();
    setHearing(true);
  };
  return { canHear, isHearing, toggle };
}
