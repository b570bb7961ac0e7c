// The head of the rota: which days, how drawn, for whom; everything in the address, so that a view can be sent to a colleague.
import { ChevronLeft, ChevronRight } from 'lucide-react';
import type { ReactNode } from 'react';
import { Link } from 'react-router';
import type { LocalDate } from '#core/time/index.ts';
import { readFigures } from '#api/rota-figures.ts';
import { ChooseCustomer, useCustomerChoice } from '../customers/index.ts';
import { ChoosePlace, usePlaceChoice } from '../places/index.ts';
import { DateField } from '../parts/date-field.tsx';
import { SelectField } from '../parts/fields.tsx';
import { sayDate } from '../parts/words.ts';
import { setupApi } from '../setup/index.ts';
import { useReader } from '../shell/reader.tsx';
import { stepOf, VIEWS, type View } from './axis.ts';

const WORDS: Readonly<Record<View, string>> = { hours: 'Hours', day: 'Day', week: 'Week', month: 'Month' };

export type HeadProps = {
  readonly view: View;
  readonly date: LocalDate;
  readonly today: LocalDate;
  readonly params: URLSearchParams;
  readonly change: (next: Readonly<Record<string, string | null>>) => void;
  readonly mayPlan: boolean;
  readonly onPlan: () => void;
  readonly children: ReactNode;
};

function Customer({ id, onChoose }: { id: string; onChoose: (id: string | null) => void }) {
  return (
    <ChooseCustomer
      none="every customer"
      chosen={useCustomerChoice(id)}
      onChoose={(c) => onChoose(c ? String(c.id) : null)}
    />
  );
}

/** A place with all that lies below it. */
function Area({ customer, id, onChoose }: { customer: string; id: string; onChoose: (id: string | null) => void }) {
  return (
    <ChoosePlace
      label="Place, with all below it"
      none="every place"
      customer={customer}
      chosen={usePlaceChoice(customer, id)}
      onChoose={(p) => onChoose(p ? String(p.id) : null)}
    />
  );
}

function Filters({ params, change }: Pick<HeadProps, 'params' | 'change'>) {
  const { data } = setupApi.useReadReferenceQuery();
  const customer = params.get('customer') ?? '';
  const options = (none: string, of: readonly { id: number; name: string }[] | undefined) => [
    ['', none] as const,
    ...(of ?? []).map((x) => [String(x.id), x.name] as const),
  ];
  return (
    <div className="my-2 grid max-w-3xl grid-cols-3 items-end gap-3">
      <SelectField
        label="Depot"
        value={params.get('depot') ?? ''}
        onChange={(v) => change({ depot: v || null })}
        options={options('every depot', data?.depots)}
      />
      <SelectField
        label="Skill"
        value={params.get('skill') ?? ''}
        onChange={(v) => change({ skill: v || null })}
        options={options('any skill', data?.skills)}
      />
      <Customer id={customer} onChoose={(id) => change({ customer: id, area: null })} />
      {customer !== '' && (
        <Area customer={customer} id={params.get('area') ?? ''} onChoose={(id) => change({ area: id })} />
      )}
    </div>
  );
}

/** The pages of the room beside the rota itself. */
function Elsewhere({ mayPlan }: Pick<HeadProps, 'mayPlan'>) {
  const mayRead = useReader().may(readFigures);
  const pages = [
    ...(mayPlan ? [['/rota/forecast', 'Forecast'] as const] : []),
    ...(mayRead ? [['/rota/figures', 'Figures'] as const] : []),
    ['/rota/absences', 'Absences'] as const,
  ];
  return pages.map(([to, word]) => (
    <Link key={to} className="link-ink" to={to}>
      {word}
    </Link>
  ));
}

export function Head({ view, date, today, params, change, mayPlan, onPlan, children }: HeadProps) {
  const filtered = ['depot', 'skill', 'customer', 'area'].some((k) => params.get(k));
  const isOpen = params.has('filters') || filtered;
  const go = (to: LocalDate) => change({ from: to === today ? null : to });
  return (
    <header>
      <div className="flex flex-wrap items-center gap-x-4 gap-y-1">
        <h1>{view === 'hours' || view === 'day' ? sayDate(date).slice(0, -5) : `From ${sayDate(date)}`}</h1>
        <span className="flex items-center">
          <button className="icon-act" aria-label="Earlier" title="Earlier" onClick={() => go(stepOf(view, date, -1))}>
            <ChevronLeft size={16} />
          </button>
          <button className="act" onClick={() => change({ from: null })}>
            Today
          </button>
          <button className="icon-act" aria-label="Later" title="Later" onClick={() => go(stepOf(view, date, 1))}>
            <ChevronRight size={16} />
          </button>
        </span>
        <div className="w-40">
          <DateField label="" value={date} onChange={(d) => d && go(d as LocalDate)} />
        </div>
        <span role="group" aria-label="How long" className="flex">
          {VIEWS.map((v) => (
            <button
              key={v}
              className={`border-b-2 px-2 ${v === view ? 'border-base-content font-semibold' : 'border-transparent hover:border-hairline'}`}
              aria-pressed={v === view}
              onClick={() => change({ view: v === 'day' ? null : v })}
            >
              {WORDS[v]}
            </button>
          ))}
        </span>
        <label className="flex items-center gap-1">
          <input
            type="checkbox"
            className="box-tick"
            checked={params.has('down')}
            onChange={(e) => change({ down: e.target.checked ? '1' : null })}
          />
          Time down
        </label>
        <label className="flex items-center gap-1">
          <input
            type="checkbox"
            className="box-tick"
            checked={params.get('by') === 'place'}
            onChange={(e) => change({ by: e.target.checked ? 'place' : null })}
          />
          By place
        </label>
        <button
          className="link-ink"
          aria-expanded={isOpen}
          onClick={() =>
            change(isOpen ? { filters: null, depot: null, skill: null, customer: null, area: null } : { filters: '1' })
          }
        >
          {isOpen ? 'No filter' : 'Filter'}
        </button>
        {mayPlan && (
          <button className="link-ink" onClick={onPlan}>
            Plan for me…
          </button>
        )}
        <Elsewhere mayPlan={mayPlan} />
      </div>
      {children}
      {isOpen && <Filters params={params} change={change} />}
    </header>
  );
}
