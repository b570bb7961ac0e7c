// Some of what there is, ticked by name; the form holds their ids.
import { Ticks } from '../parts/fields.tsx';
import { Wire } from '../parts/wire-form.tsx';

export function NamedTicks({
  name,
  label,
  items,
}: {
  name: string;
  label: string;
  items: readonly { readonly id: number; readonly name: string }[];
}) {
  return (
    <Wire<number[]> name={name}>
      {({ value, change, error }) => (
        <>
          <Ticks
            label={label}
            values={items.map((p) => p.name)}
            chosen={items.filter((p) => value.includes(p.id)).map((p) => p.name)}
            onChange={(names) => change(items.filter((p) => names.includes(p.name)).map((p) => p.id))}
          />
          {error && <p className="text-missed">✕ {error}</p>}
        </>
      )}
    </Wire>
  );
}
