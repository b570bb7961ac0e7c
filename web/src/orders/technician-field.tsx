// Who does the work: one of our technicians, found by a part of the name, or somebody else by the name that was typed.
import { Choose, type Choice, type Found } from '../parts/choose.tsx';
import { Wire } from '../parts/wire-form.tsx';
import { useTechnicians } from '../setup/index.ts';

/** No id of ours: somebody who comes by name only. */
const BY_NAME = 0;

function useAnybody(typed: string): Found {
  const found = useTechnicians(typed);
  const other: Choice[] =
    typed === '' || found.choices.length > 0 ? [] : [{ id: BY_NAME, name: typed, beside: 'not one of ours' }];
  return { ...found, choices: [...found.choices, ...other] };
}

export function TechnicianField({ name, label }: { name: string; label: string }) {
  return (
    <Wire<string> name={name}>
      {({ value, change, error }) => (
        <Choose
          label={label}
          chosen={value === '' ? null : { id: BY_NAME, name: value }}
          onChoose={(choice) => change(choice?.name ?? '')}
          useFind={useAnybody}
          error={error}
        />
      )}
    </Wire>
  );
}
