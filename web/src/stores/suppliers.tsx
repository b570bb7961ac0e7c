// Suppliers: where parts are ordered, and how long they take.
import { addSupplier, type SupplierIn, type SupplierOut } from '#api/suppliers.ts';
import { Pager, usePages } from '../parts/pager.tsx';
import { WireNumber, WireText, WireTick } from '../parts/wire-fields.tsx';
import { useWireForm, WireForm } from '../parts/wire-form.tsx';
import { plural } from '../parts/words.ts';
import { EditableList } from '../setup/index.ts';
import { Waiting } from '../shell/waiting.tsx';
import { storesApi } from './endpoints.ts';
import { StoresParts } from './sections.tsx';

function SupplierForm({ supplier, onDone }: { supplier: SupplierOut | null; onDone: () => void }) {
  const [add] = storesApi.useAddSupplierMutation();
  const [change] = storesApi.useChangeSupplierMutation();
  const form = useWireForm<SupplierIn>(addSupplier, {
    ...{ name: supplier?.name ?? '', email: supplier?.email ?? '', phone: supplier?.phone ?? '' },
    ...{ leadDays: supplier?.leadDays ?? 5, note: supplier?.note ?? '', retired: supplier?.retired ?? false },
  });
  return (
    <WireForm<SupplierIn, unknown>
      form={form}
      name="Supplier"
      save="Keep the supplier"
      send={(body, seen) =>
        supplier
          ? change({ params: { id: String(supplier.id) }, body: { ...body, version: seen ?? supplier.version } })
          : add({ body })
      }
      onDone={onDone}
      onCancel={onDone}
      sheet
    >
      <div className="grid grid-cols-[2fr_2fr_1fr_1fr] gap-3">
        <WireText name="name" label="Name" autoFocus />
        <WireText name="email" label="E-mail for orders" />
        <WireText name="phone" label="Phone" />
        <WireNumber name="leadDays" label="Delivers in, days" min={0} />
      </div>
      <WireText name="note" label="Note" />
      <WireTick name="retired" label="Nothing is bought there any more" className="pt-1" />
    </WireForm>
  );
}

export function SuppliersRoom() {
  const pages = usePages();
  const { after } = pages;
  const query = storesApi.useListSuppliersQuery({ query: { retired: 'with', ...(after && { after }) } });
  return (
    <article className="px-7 pt-5 pb-10">
      <h1 className="mb-2">Suppliers</h1>
      <StoresParts />
      <div className="mt-3">
        <Waiting query={query}>
          {({ items, next }) => (
            <>
              <EditableList<SupplierOut>
                name="suppliers"
                items={items}
                adding={addSupplier}
                add="Add a supplier"
                empty="No supplier yet: add those that parts are bought of."
                form={(supplier, done) => <SupplierForm supplier={supplier} onDone={done} />}
                columns={[
                  {
                    ...{ id: 'name', head: 'Name' },
                    value: (s) => (s.retired ? `${s.name}, nothing is bought there any more` : s.name),
                  },
                  { id: 'email', head: 'E-mail for orders', value: (s) => s.email },
                  { id: 'phone', head: 'Phone', value: (s) => s.phone },
                  {
                    ...{ id: 'lead', head: 'Delivers in', value: (s) => s.leadDays, isNumber: true },
                    show: (s) => plural(s.leadDays, 'day'),
                  },
                  {
                    ...{ id: 'parts', head: 'Has', value: (s) => s.parts, isNumber: true },
                    show: (s) => plural(s.parts, 'part'),
                  },
                  { id: 'note', head: 'Note', value: (s) => s.note },
                ]}
              />
              <Pager pages={pages} next={next} />
            </>
          )}
        </Waiting>
      </div>
    </article>
  );
}
