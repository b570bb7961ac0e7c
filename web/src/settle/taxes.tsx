// Taxes: their rates by category, and the one that holds where nothing else is said.
import { addTax, type TaxIn, type TaxOut } from '#api/settle.ts';
import { TAX_CATEGORIES } from '#core/settle/index.ts';
import { WireNumber, WireSelect, WireText, WireTick } from '../parts/wire-fields.tsx';
import { useWireForm, WireForm } from '../parts/wire-form.tsx';
import { EditableList } from '../setup/index.ts';
import { Waiting } from '../shell/waiting.tsx';
import { settleApi } from './endpoints.ts';

const CATEGORIES: Readonly<Record<TaxIn['category'], string>> = {
  S: 'S: standard rate',
  Z: 'Z: zero rated',
  E: 'E: exempt',
  AE: 'AE: reverse charge',
};

function TaxForm({ item, onDone }: { item: TaxOut | null; onDone: () => void }) {
  const [add] = settleApi.useAddTaxMutation();
  const [change] = settleApi.useChangeTaxMutation();
  const form = useWireForm<TaxIn>(addTax, {
    name: item?.name ?? '',
    category: item?.category ?? 'S',
    hundredths: item?.hundredths ?? 2300,
    isStandard: item?.isStandard ?? false,
  });
  return (
    <WireForm<TaxIn, unknown>
      form={form}
      name="Tax"
      save="Save the tax"
      send={(body, seen) =>
        item
          ? change({ params: { id: String(item.id) }, body: { ...body, version: seen ?? item.version } })
          : add({ body })
      }
      onDone={onDone}
      onCancel={onDone}
      sheet
    >
      <div className="grid grid-cols-3 gap-3">
        <WireText name="name" label="Name" />
        <WireSelect
          name="category"
          label="Category"
          options={TAX_CATEGORIES.map((c) => [c, CATEGORIES[c]] as const)}
          onChosen={(c) => {
            if (c !== 'S') form.setValue('hundredths', 0);
          }}
        />
        <WireNumber name="hundredths" label="Percent" per={100} min={0} step="any" />
      </div>
      <WireTick name="isStandard" label="Holds where nothing else is said" className="pt-1" />
    </WireForm>
  );
}

export function Taxes() {
  const query = settleApi.useReadTaxesQuery();
  return (
    <Waiting query={query}>
      {({ items }) => (
        <EditableList
          name="taxes"
          items={items}
          add="Add a tax"
          adding={addTax}
          empty="No tax yet. Until one is the standard, orders show amounts without tax."
          form={(item, done) => <TaxForm item={item} onDone={done} />}
          columns={[
            { id: 'tax', head: 'Tax', value: (t) => t.name },
            { id: 'category', head: 'Category', value: (t) => CATEGORIES[t.category] },
            { id: 'percent', head: 'Percent', value: (t) => t.hundredths / 100, isNumber: true },
            {
              id: 'standard',
              head: 'Standard',
              value: (t) => (t.isStandard ? 'holds where nothing else is said' : ''),
            },
          ]}
        />
      )}
    </Waiting>
  );
}
