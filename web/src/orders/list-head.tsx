// What the list of orders shows: filters and their order, each in the address; kept under a name and shared.
import { Link } from 'react-router';
import { useState } from 'react';
import { readClocksAtWork } from '#api/clocks.ts';
import { DUES, keepView, listExceptions, ORDER_SORTS, type listOrders } from '#api/order-lists.ts';
import { ORDER_KINDS } from '#core/orders/index.ts';
import { PAUSE_REASONS } from '#core/service-levels/index.ts';
import { ChooseCustomer, useCustomerChoice } from '../customers/index.ts';
import { SelectField } from '../parts/fields.tsx';
import { WireText, WireTick } from '../parts/wire-fields.tsx';
import { useWireForm, WireForm } from '../parts/wire-form.tsx';
import { setupApi, usePriorityChoices } from '../setup/index.ts';
import { Dialog } from '../shell/dialog.tsx';
import { useReader } from '../shell/reader.tsx';
import { askedIn, type Args } from '../shell/calls.ts';
import { ordersApi } from './endpoints.ts';

const SHOWS = [
  ['', 'Open'],
  ['finished', 'Finished'],
  ['all', 'All'],
] as const;
const SORTS: Readonly<Record<(typeof ORDER_SORTS)[number], string>> = {
  newest: 'newest first',
  due: 'due first',
  oldest: 'oldest first',
};
const DUE_WORDS: Readonly<Record<(typeof DUES)[number], string>> = {
  late: 'due before today',
  today: 'due by today',
  week: 'due within a week',
};
const AGES = ['2', '7', '14', '30', '90'];
const KEYS = [
  ...['show', 'stage', 'kind', 'customer', 'depot', 'technician', 'waiting', 'priority', 'older', 'due', 'sort'],
  'exception',
] as const;

/** The filter as the address has it; what it does not know is left out. */
export const filterOf = (params: URLSearchParams): NonNullable<Args<typeof listOrders>['query']> =>
  askedIn(params, KEYS);

function Select({
  label,
  name,
  none,
  options,
  params,
  change,
}: {
  label: string;
  name: string;
  none: string;
  options: readonly (readonly [string, string])[];
  params: URLSearchParams;
  change: (key: string, value: string) => void;
}) {
  return (
    <SelectField
      label={label}
      value={params.get(name) ?? ''}
      onChange={(value) => change(name, value)}
      options={[['', none] as const, ...options]}
    />
  );
}

/** A customer named in the address is known by its id alone. */
function CustomerFilter({ id, onChoose }: { id: string; onChoose: (id: string) => void }) {
  return (
    <ChooseCustomer
      none="every customer"
      chosen={useCustomerChoice(id)}
      onChoose={(c) => onChoose(c ? String(c.id) : '')}
    />
  );
}

function MoreFilters({ params, change }: { params: URLSearchParams; change: (key: string, value: string) => void }) {
  const { data } = setupApi.useReadReferenceQuery();
  const priorities = usePriorityChoices();
  const named = (of: readonly { id: number; name: string }[] | undefined) =>
    (of ?? []).map((x) => [String(x.id), x.name] as const);
  const shared = { params, change };
  return (
    <div className="mt-2 grid grid-cols-2 gap-2">
      <Select {...shared} label="Depot" name="depot" none="every depot" options={named(data?.depots)} />
      <Select
        {...shared}
        label="Technician"
        name="technician"
        none="anybody"
        options={[['none', 'nobody yet'] as const, ...named(data?.technicians)]}
      />
      <Select
        {...shared}
        label="Waiting for"
        name="waiting"
        none="or not"
        options={[['any', 'anything'] as const, ...PAUSE_REASONS.map((r) => [r, r] as const)]}
      />
      <Select
        {...shared}
        label="Due"
        name="due"
        none="at any time"
        options={DUES.map((d) => [d, DUE_WORDS[d]] as const)}
      />
      <Select
        {...shared}
        label="Raised"
        name="older"
        none="at any time"
        options={AGES.map((n) => [n, `over ${n} days ago`] as const)}
      />
      <Select
        {...shared}
        label="Priority"
        name="priority"
        none="every priority"
        options={priorities.map(([p, word]) => [String(p), word] as const)}
      />
      <Select {...shared} label="Exceptions" name="exception" none="or not" options={[['yes', 'with one']]} />
      <div className="col-span-2">
        <CustomerFilter id={params.get('customer') ?? ''} onChoose={(id) => change('customer', id)} />
      </div>
    </div>
  );
}

function KeepView({ params, onClose }: { params: URLSearchParams; onClose: () => void }) {
  const [keep] = ordersApi.useKeepViewMutation();
  const form = useWireForm(keepView, { name: '', query: params.toString(), shared: false });
  return (
    <Dialog title="Keep this view" onClose={onClose}>
      <WireForm
        form={form}
        name="Keep this view"
        save="Keep it"
        send={(body) => keep({ body })}
        onDone={onClose}
        onCancel={onClose}
      >
        <h1>Keep this view</h1>
        <WireText name="name" label="Name" autoFocus />
        <WireTick name="shared" label="For everybody" className="pt-1" />
      </WireForm>
    </Dialog>
  );
}

function Views({ params, set }: { params: URLSearchParams; set: (next: URLSearchParams) => void }) {
  const [keeping, setKeeping] = useState(false);
  const { data } = ordersApi.useListViewsQuery();
  const [remove] = ordersApi.useRemoveViewMutation();
  const may = useReader().may(keepView);
  const items = data?.items ?? [];
  const current = items.find((view) => view.query === params.toString());
  return (
    <div className="mt-2 flex flex-wrap items-center gap-x-3">
      {items.length > 0 && (
        <select
          aria-label="View"
          className="box-select w-40"
          value={current ? String(current.id) : ''}
          onChange={(e) => {
            const view = items.find((v) => String(v.id) === e.target.value);
            set(new URLSearchParams(view?.query ?? ''));
          }}
        >
          <option value="">No view</option>
          {items.map((view) => (
            <option key={view.id} value={view.id}>
              {view.name}
              {view.own ? '' : ` (${view.who})`}
            </option>
          ))}
        </select>
      )}
      {may && params.size > 0 && !current && (
        <button className="quiet link-ink" onClick={() => setKeeping(true)}>
          keep this view…
        </button>
      )}
      {current?.own && (
        <button className="quiet link-ink" onClick={() => void remove({ params: { id: String(current.id) } })}>
          remove the view
        </button>
      )}
      {keeping && <KeepView params={params} onClose={() => setKeeping(false)} />}
    </div>
  );
}

export function ListHead({
  params,
  set,
  counted,
}: {
  params: URLSearchParams;
  set: (next: URLSearchParams) => void;
  counted: { readonly total: number; readonly more: boolean } | undefined;
}) {
  const beyond = [...params.keys()].filter((key) => !['show', 'kind', 'sort'].includes(key)).length;
  const [open, setOpen] = useState(beyond > 0);
  const reader = useReader();
  const change = (key: string, value: string): void => {
    const next = new URLSearchParams(params);
    if (value) next.set(key, value);
    else next.delete(key);
    set(next);
  };
  const select = (key: string, label: string, options: readonly (readonly [string, string])[]) => (
    <select
      aria-label={label}
      className="box-select"
      value={params.get(key) ?? ''}
      onChange={(e) => change(key, e.target.value)}
    >
      {options.map(([value, text]) => (
        <option key={value} value={value}>
          {text}
        </option>
      ))}
    </select>
  );
  const search = params.toString();
  return (
    <header className="px-3 pt-5 pb-2">
      <h1>Orders</h1>
      <div className="mt-2 flex gap-2">
        {select('show', 'Show', SHOWS)}
        {select('kind', 'Kind', [['', 'Every kind'] as const, ...ORDER_KINDS.map((k) => [k, k] as const)])}
      </div>
      <div className="mt-1.5 flex flex-wrap items-center gap-x-3">
        <button className="quiet link-ink" aria-expanded={open} onClick={() => setOpen(!open)}>
          {open ? 'fewer filters' : `more filters${beyond > 0 ? ` (${beyond} set)` : ''}`}
        </button>
        <a className="quiet link-ink" href={`/api/orders.csv${search ? `?${search}` : ''}`} download>
          CSV
        </a>
        {reader.may(readClocksAtWork) && (
          <Link className="quiet link-ink" to="/clocks">
            clocks at work
          </Link>
        )}
        {reader.may(listExceptions) && (
          <Link className="quiet link-ink" to="/orders/exceptions">
            exceptions
          </Link>
        )}
      </div>
      {open && <MoreFilters params={params} change={change} />}
      <Views params={params} set={set} />
      <p className="quiet flex items-center gap-2 pt-1.5">
        <span className="whitespace-nowrap">
          {counted ? `${counted.total}${counted.more ? '+' : ''} ${counted.total === 1 ? 'order' : 'orders'},` : ' '}
        </span>
        <select
          aria-label="Sorted"
          className="box-select"
          value={params.get('sort') ?? 'newest'}
          onChange={(e) => change('sort', e.target.value === 'newest' ? '' : e.target.value)}
        >
          {ORDER_SORTS.map((s) => (
            <option key={s} value={s}>
              {SORTS[s]}
            </option>
          ))}
        </select>
      </p>
    </header>
  );
}
