// Choosing a model of the catalogue by a part of its maker or name.
import type { ModelOut } from '#api/catalogue.ts';
import { Choose, type Choice, type Found } from '../parts/choose.tsx';

const SHOWN = 20;
const choiceOf = ({ id, maker, name, className }: ModelOut): Choice => ({
  id,
  name: `${maker} ${name}`,
  beside: className,
});

export function ChooseModel({
  models,
  chosen,
  onChoose,
}: {
  models: readonly ModelOut[];
  chosen: ModelOut | null;
  onChoose: (model: ModelOut | null) => void;
}) {
  const useFind = (typed: string): Found => {
    const wanted = typed.toLocaleLowerCase();
    const found = models.filter((m) => `${m.maker} ${m.name} ${m.className}`.toLocaleLowerCase().includes(wanted));
    return { choices: found.slice(0, SHOWN).map(choiceOf), more: found.length > SHOWN, isLooking: false };
  };
  return (
    <Choose
      label="Model of the catalogue"
      chosen={chosen && choiceOf(chosen)}
      onChoose={(choice) => onChoose(models.find((m) => m.id === choice?.id) ?? null)}
      useFind={useFind}
      none="another"
      hint={chosen && chosen.warrantyMonths > 0 ? `Comes with ${chosen.warrantyMonths} months of warranty.` : undefined}
    />
  );
}
