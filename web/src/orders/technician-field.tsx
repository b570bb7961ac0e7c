// Who does the work: one of our technicians, found by a part of the name; where it may be, somebody else by the name that was typed.
import { useFormContext } from 'react-hook-form';
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

/** Binds `technicianId` and, beside it, `technician` of an act. */
export function TechnicianField({ label, anybody }: { label: string; anybody: boolean }) {
  const { watch, setValue } = useFormContext<{ act: { technician: string } }>();
  const name = watch('act.technician');
  return (
    <Wire<number | null> name="act.technicianId">
      {({ value, change, error }) => (
        <Choose
          label={label}
          chosen={name === '' ? null : { id: value ?? BY_NAME, name }}
          onChoose={(choice) => {
            setValue('act.technician', choice?.name ?? '');
            change(choice === null || choice.id === BY_NAME ? null : choice.id);
          }}
          useFind={anybody ? useAnybody : useTechnicians}
          error={error}
        />
      )}
    </Wire>
  );
}
