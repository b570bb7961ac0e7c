// The form of what has a name and nothing else.
import type { addSkill } from '#api/depots.ts';
import { WireText } from '../parts/wire-fields.tsx';
import { useWireForm, WireForm } from '../parts/wire-form.tsx';

type Named = { readonly id: number; readonly version: number; readonly name: string };
type Sent = PromiseLike<{ data?: unknown; error?: unknown }>;

export function NameForm({
  what,
  item,
  contract,
  add,
  change,
  onDone,
}: {
  /** As a word in the middle of a sentence. */
  what: string;
  /** Null: a new one. */
  item: Named | null;
  /** What adds one; changing one sends the version it was read with besides. */
  contract: Pick<typeof addSkill, 'body'>;
  add: (body: { name: string }) => Sent;
  change: (id: string, body: { name: string; version: number }) => Sent;
  onDone: () => void;
}) {
  const form = useWireForm(contract, { name: item?.name ?? '' });
  return (
    <WireForm<{ name: string }, unknown>
      form={form}
      name={what.charAt(0).toUpperCase() + what.slice(1)}
      save={`Save the ${what}`}
      send={(body, seen) => (item ? change(String(item.id), { ...body, version: seen ?? item.version }) : add(body))}
      onDone={onDone}
      onCancel={onDone}
      sheet
    >
      <WireText name="name" label="Name" />
    </WireForm>
  );
}
