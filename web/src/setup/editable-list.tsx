// A list of reference data with its form: one button to add, "change" in each row, one form open at a time.
import { useState, type ReactNode } from 'react';
import type { AnyContract } from '#api/contract.ts';
import { Table, type Column } from '../parts/table/index.ts';
import { useReader } from '../shell/reader.tsx';

export function EditableList<T extends { readonly id: number }>({
  items,
  add,
  empty,
  name,
  adding,
  form,
  columns,
}: {
  items: readonly T[];
  /** Names the list where its columns are kept and its file. */
  readonly name: string;
  /** What the adding button says; without it nothing is added here. */
  add?: string;
  empty: string;
  /** What adds to the list; whoever may call it may change it too. */
  adding: AnyContract;
  form: (item: T | null, done: () => void) => ReactNode;
  columns: readonly Column<T>[];
}) {
  const may = useReader().may(adding);
  const [editing, setEditing] = useState<T | 'new' | null>(null);
  const change: Column<T> = {
    id: 'change',
    head: '',
    drawnHead: <span className="sr-only">Change</span>,
    className: 'text-right',
    show: (item) => (
      <button className="link-ink" onClick={() => setEditing(item)}>
        change
      </button>
    ),
  };
  return (
    <>
      {may && add !== undefined && !editing && (
        <button className="act-main" onClick={() => setEditing('new')}>
          {add}
        </button>
      )}
      {editing && (
        <div key={editing === 'new' ? 0 : editing.id}>
          {form(editing === 'new' ? null : editing, () => setEditing(null))}
        </div>
      )}
      {items.length === 0 ? (
        <p className="quiet mt-3">{empty}</p>
      ) : (
        <Table
          name={name}
          caption={name.replaceAll('-', ' ')}
          columns={[...columns, ...(may ? [change] : [])]}
          rows={items}
          idOf={(i) => i.id}
        />
      )}
    </>
  );
}
