// Choosing one of many: typed, asked of whoever knows them, walked with the keys. Never a list of everything.
import { useEffect, useRef, useState, type ReactNode } from 'react';
import { useCombobox, type UseComboboxReturnValue } from 'downshift';
import { ChevronDown, X } from 'lucide-react';
import { Field } from './fields.tsx';

export type Choice = {
  readonly id: number;
  /** How it is called, in the field once it is chosen. */
  readonly name: string;
  /** A tag or number, written like serials. */
  readonly mark?: string;
  readonly beside?: string;
};

export type Found = {
  readonly choices: readonly Choice[];
  /** Whether there are more than these; then a part of the name finds others. */
  readonly more: boolean;
  readonly isLooking: boolean;
};

const LOOK_AFTER_MS = 150;

/** What is typed, once it stands still for a moment. */
function useSettled(text: string): string {
  const [settled, setSettled] = useState(text);
  useEffect(() => {
    const timer = setTimeout(() => setSettled(text), LOOK_AFTER_MS);
    return () => clearTimeout(timer);
  }, [text]);
  return settled;
}

const sayChoice = (choice: Choice | null): string =>
  choice === null ? '' : [choice.mark, choice.name].filter((x) => x).join(' ');

/** What is typed, found and chosen, and whether the list is open. */
function useChoosing(
  chosen: Choice | null,
  onChoose: (choice: Choice | null) => void,
  useFind: (typed: string, isOpen: boolean) => Found,
  firstIsMeant: boolean,
) {
  const [typed, setTyped] = useState<string | null>(null);
  const settled = useSettled(typed ?? '');
  const [isOpen, setOpen] = useState(false);
  const found = useFind(settled.trim(), isOpen);
  const choose = (choice: Choice | null): void => {
    setTyped(null);
    onChoose(choice);
  };
  const box = useCombobox<Choice>({
    items: [...found.choices],
    itemToString: sayChoice,
    itemToKey: (choice) => choice?.id,
    selectedItem: chosen,
    inputValue: typed ?? sayChoice(chosen),
    isOpen,
    ...(firstIsMeant && { defaultHighlightedIndex: 0 }),
    onIsOpenChange: (change) => setOpen(change.isOpen),
    onSelectedItemChange: ({ selectedItem }) => choose(selectedItem),
    // Left without choosing, the field says again what is chosen.
    onStateChange: ({ type }) => {
      if (type === useCombobox.stateChangeTypes.InputBlur || type === useCombobox.stateChangeTypes.InputKeyDownEscape)
        setTyped(null);
    },
  });
  // What is typed and entered at once, as a scanner does, is chosen when the answer is there.
  const [isEntered, setEntered] = useState(false);
  const isAnswered = typed !== null && settled === typed && !found.isLooking;
  const [first] = found.choices;
  const latest = useRef(choose);
  useEffect(() => {
    latest.current = choose;
  });
  useEffect(() => {
    if (!isEntered || !isAnswered) return;
    setEntered(false);
    if (first) latest.current(first);
  }, [isEntered, isAnswered, first]);
  /** Taken at once: what is kept of the keys by the box itself comes a moment late, and keys would be lost. */
  const type = (text: string): void => {
    setEntered(false);
    setTyped(text);
    setOpen(true);
  };
  /** Whether the box is to let it be: it would close over what is still looked for. */
  const enter = (): boolean => {
    const isEarly = firstIsMeant && typed !== null && !isAnswered;
    if (isEarly) setEntered(true);
    return isEarly;
  };
  return { box, found, settled, choose, type, enter };
}

/** What is offered, and what to do when it is nothing or not all. */
function Offered({
  box,
  chosen,
  found,
  settled,
}: {
  box: UseComboboxReturnValue<Choice>;
  chosen: Choice | null;
  found: Found;
  settled: string;
}) {
  return (
    <>
      {found.choices.map((choice, index) => (
        <li
          key={choice.id}
          {...box.getItemProps({ item: choice, index })}
          className={`flex cursor-pointer gap-2 px-2.5 py-1 ${box.highlightedIndex === index ? 'bg-base-300' : ''} ${choice.id === chosen?.id ? 'font-semibold' : ''}`}
        >
          {choice.mark && <span className="serial shrink-0">{choice.mark}</span>}
          <span className="max-w-[75%] shrink-0 truncate">{choice.name}</span>
          {choice.beside && <span className="quiet min-w-0 flex-1 truncate text-right">{choice.beside}</span>}
        </li>
      ))}
      {found.choices.length === 0 && (
        <li className="quiet px-2.5 py-1" role="presentation">
          {found.isLooking ? 'Looking…' : `Nothing answers to “${settled}”. Try another part of the name.`}
        </li>
      )}
      {found.more && (
        <li className="quiet px-2.5 py-1" role="presentation">
          There are more; type a part of the name.
        </li>
      )}
    </>
  );
}

const Clear = ({ label, onClear }: { label: string; onClear: () => void }) => (
  <button type="button" className="absolute top-0.5 right-8" aria-label={label} onClick={onClear}>
    <X size={15} aria-hidden="true" />
  </button>
);

/**
 * `useFind` is asked with what was typed, and only while the list is open. `chosen` null: nothing is chosen, and `none` says
 * what that means where it may stay so.
 */
export function Choose({
  label,
  chosen,
  onChoose,
  useFind,
  none,
  hint,
  error,
  className,
  firstIsMeant = false,
  autoFocus = false,
}: {
  label: string;
  chosen: Choice | null;
  onChoose: (choice: Choice | null) => void;
  useFind: (typed: string, isOpen: boolean) => Found;
  none?: string | undefined;
  hint?: ReactNode;
  error?: string | undefined;
  className?: string | undefined;
  /** Enter takes the first one found. */
  firstIsMeant?: boolean;
  autoFocus?: boolean;
}) {
  const { box, found, settled, choose, type, enter } = useChoosing(chosen, onChoose, useFind, firstIsMeant);
  const clears = none !== undefined && chosen !== null;
  return (
    <Field label={label} hint={hint} error={error} {...(className && { className })}>
      {(id, described) => (
        <span className="relative block">
          <input
            {...box.getInputProps({
              id,
              onFocus: (e) => e.target.select(),
              onChange: (e) => type(e.target.value),
              onKeyDown: (e) => {
                if (e.key === 'Enter' && enter()) Object.assign(e.nativeEvent, { preventDownshiftDefault: true });
              },
            })}
            aria-label={label}
            aria-labelledby={undefined}
            aria-describedby={described}
            aria-invalid={error ? true : undefined}
            className={`box-field ${clears ? 'pr-14' : 'pr-8'}`}
            placeholder={none ?? 'Type a part of the name'}
            autoComplete="off"
            autoFocus={autoFocus}
          />
          {clears && <Clear label={`${label}: ${none}`} onClear={() => choose(null)} />}
          <button
            type="button"
            {...box.getToggleButtonProps()}
            className="absolute top-1 right-1.5"
            aria-label={`${label}: show choices`}
          >
            <ChevronDown size={15} aria-hidden="true" />
          </button>
          <ul
            {...box.getMenuProps({ 'aria-label': label })}
            aria-labelledby={undefined}
            className={
              box.isOpen
                ? 'absolute z-20 mt-0.5 max-h-64 w-full min-w-72 overflow-y-auto border border-base-content bg-base-100 shadow-sm'
                : 'hidden'
            }
          >
            {box.isOpen && <Offered box={box} chosen={chosen} found={found} settled={settled} />}
          </ul>
        </span>
      )}
    </Field>
  );
}
