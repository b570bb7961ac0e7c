// What is typed or chosen on the phone: large fields with their label above, and words as buttons of which some are pressed.
import { useId, useState, type ReactNode } from 'react';
import { useDictation } from './dictation.ts';

/** A field with its label above it; of several rows, it takes dictation where the phone understands speech by itself. */
export function Typed({
  label,
  value,
  change,
  rows,
  isNumber = false,
  isDate = false,
  className = '',
  children,
}: {
  label: ReactNode;
  value: string;
  change: (typed: string) => void;
  rows?: number;
  isNumber?: boolean;
  isDate?: boolean;
  className?: string;
  children?: ReactNode;
}) {
  const id = useId();
  const shared = {
    ...{ id, value, className: 'big-field mt-1', autoComplete: 'off' },
    onChange: (e: { readonly target: { readonly value: string } }) => change(e.target.value),
  };
  return (
    <div className={className}>
      <label className="over" htmlFor={id}>
        {label}
      </label>
      {rows === undefined ? (
        <input {...shared} type={isDate ? 'date' : 'text'} inputMode={isNumber ? 'decimal' : 'text'} />
      ) : (
        <>
          <textarea {...shared} rows={rows} />
          <Dictate value={value} change={change} />
        </>
      )}
      {children}
    </div>
  );
}

function Dictate({ value, change }: { value: string; change: (typed: string) => void }) {
  const { canHear, isHearing, toggle } = useDictation((heard) => change(value === '' ? heard : `${value} ${heard}`));
  if (!canHear) return null;
  return (
    <button type="button" className="plain mt-1" aria-pressed={isHearing} onClick={toggle}>
      {isHearing ? 'Stop listening' : 'Say it'}
    </button>
  );
}

/** Words of which those that hold are pressed. */
export function Words<T>({
  label,
  of,
  say,
  isPressed,
  press,
  isWide = false,
}: {
  label: string;
  of: readonly T[];
  say: (one: T) => string;
  isPressed: (one: T) => boolean;
  press: (one: T) => void;
  /** Each as wide as the others; else as wide as its word. */
  isWide?: boolean;
}) {
  return (
    <div className="mt-2 flex flex-wrap gap-2" role="group" aria-label={label}>
      {of.map((one) => (
        <button
          key={say(one)}
          type="button"
          className={isWide ? 'plain basis-[30%]!' : 'plain flex-none!'}
          aria-pressed={isPressed(one)}
          onClick={() => press(one)}
        >
          {say(one)}
        </button>
      ))}
    </div>
  );
}

/** Which machine of an order it is about; of one there is nothing to choose. */
export const WhichMachine = <L extends { readonly id: number; readonly tag: string }>({
  lines,
  chosen,
  choose,
}: {
  lines: readonly L[];
  chosen: number;
  choose: (lineId: number) => void;
}): ReactNode =>
  lines.length > 1 && (
    <Words
      label="Machine"
      of={lines}
      say={(l) => l.tag}
      isPressed={(l) => l.id === chosen}
      press={(l) => choose(l.id)}
    />
  );

/** A page that asks for something, and the wide button at its foot that keeps it. */
export function Asking({
  title,
  keep,
  children,
}: {
  title: ReactNode;
  keep: { readonly text: string; readonly isOff?: boolean; readonly go: () => void };
  children: ReactNode;
}) {
  const [isGoing, setGoing] = useState(false);
  const go = (): void => {
    // Pressed twice, it is done once.
    setGoing(true);
    setTimeout(() => setGoing(false), 400);
    keep.go();
  };
  return (
    <>
      <main>
        <h1>{title}</h1>
        {children}
      </main>
      <footer className="field-foot">
        <button className="wide" disabled={(keep.isOff ?? false) || isGoing} onClick={go}>
          {keep.text}
        </button>
      </footer>
    </>
  );
}

/** Thousandths of what was typed, with a comma or a point; NaN where it is no number. */
export const thousandthsOf = (typed: string): number => Math.round(Number(typed.trim().replace(',', '.')) * 1000);
