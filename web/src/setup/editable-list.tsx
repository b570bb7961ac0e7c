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
  copying = false,
}: {
  items: readonly T[];
  /** Names the list where its columns are kept and its file. */
  readonly name: string;
  /** What the adding button says; without it nothing is added here. */
  add?: string;
  empty: string;
  /** What adds to the list; whoever may call it may change it too. */
  adding: AnyContract;
  form: (item: T | null, done: () => void, isCopy: boolean) => ReactNode;
  columns: readonly Column<T>[];
  /** Another may begin with what one has. */
  copying?: boolean;
}) {
  const may = useReader().may(adding);
  const [editing, setEditing] = useState<{ readonly item: T | null; readonly isCopy: boolean } | null>(null);
  const change: Column<T> = {
    id: 'change',
    head: '',
    drawnHead: <span className="sr-only">Change</span>,
    className: 'text-right whitespace-nowrap',
    show: (item) => (
      <>
        {copying && (
          <button className="link-ink mr-3" onClick={() => setEditing({ item, isCopy: true })}>
            copy
          </button>
        )}
        <button className="link-ink" onClick={() => setEditing({ item, isCopy: false })}>
          change
        </button>
      </>
    ),
  };
  return (
    <>
      {may && add !== undefined && !editing && (
        <button className="act-main" onClick={() => setEditing({ item: null, isCopy: false })}>
          {add}
        </button>
      )}
      {editing && (
        <div key={`${editing.item?.id ?? 0} ${editing.isCopy}`}>
          {form(editing.item, () => setEditing(null), editing.isCopy)}
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
