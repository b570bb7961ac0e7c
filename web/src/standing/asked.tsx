// The period that standing is asked for: in the address, typed or chosen.
import { useSearchParams } from 'react-router';
import { addDays, addMonths, localDateAt, parseLocalDate, type LocalDate } from '#core/time/index.ts';
import { PeriodField } from '../parts/period-field.tsx';
import { useReader } from '../shell/reader.tsx';
import { server } from '../shell/store.ts';

export type Period = { readonly from: LocalDate; readonly to: LocalDate };
export type Asked = {
  /** As it is typed; what cannot be read yet is not asked for. */
  readonly typed: { readonly from: string; readonly to: string };
  readonly period: Period | null;
  readonly today: LocalDate;
  readonly param: (name: string) => string | null;
  readonly set: (changes: Readonly<Record<string, string | null>>) => void;
};

/** Null until it is known what day it is. */
export function useAsked(months: number): Asked | null {
  const reader = useReader();
  const [params, setParams] = useSearchParams();
  const { data: session } = server.useReadSessionQuery();
  if (!session) return null;
  const today = localDateAt(reader.zone, session.now);
  const typed = {
    from: params.get('from') ?? addMonths(today, -months),
    to: params.get('to') ?? addDays(today, -1),
  };
  const [from, to] = [parseLocalDate(typed.from), parseLocalDate(typed.to)];
  return {
    ...{ typed, today },
    period: from !== null && to !== null ? { from, to } : null,
    param: (name) => params.get(name),
    set(changes) {
      const next = new URLSearchParams(params);
      for (const [name, value] of Object.entries({ ...typed, ...changes }))
        if (value === null) next.delete(name);
        else next.set(name, value);
      setParams(next, { replace: true });
    },
  };
}

export function AskedPeriod({ asked: { typed, set } }: { asked: Asked }) {
  return (
    <PeriodField
      from={{ label: 'From', value: typed.from }}
      to={{ label: 'To, this day included', value: typed.to }}
      onChange={set}
    />
  );
}

/** The periods that are asked for most. */
export function UsualPeriods({ asked: { today, set } }: { asked: Asked }) {
  const yesterday = addDays(today, -1);
  const month = `${today.slice(0, 7)}-01` as LocalDate;
  return (
    <>
      <button className="act" onClick={() => set({ from: addMonths(month, -1), to: addDays(month, -1) })}>
        last month
      </button>
      <button className="act" onClick={() => set({ from: month, to: addDays(addMonths(month, 1), -1) })}>
        this month
      </button>
      <button className="act" onClick={() => set({ from: addMonths(today, -3), to: yesterday })}>
        last 3 months
      </button>
      <button
        className="act"
        onClick={() => set({ from: `${today.slice(0, 4)}-01-01`, to: `${today.slice(0, 4)}-12-31` })}
      >
        this year
      </button>
      <button className="act" onClick={() => set({ from: addMonths(today, -12), to: yesterday })}>
        last 12 months
      </button>
    </>
  );
}
