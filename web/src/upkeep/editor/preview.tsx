// The next visits of what is typed, as the run would propose them: drawn on a year of days, and listed.
import { useMemo } from 'react';
import type { Reference } from '#api/setup.ts';
import type { TypedTerms } from '#api/cadence.ts';
import { workingDaysOf, type WorkingDays } from '#core/calendars/index.ts';
import { addMonths, parseLocalDate, type LocalDate, type Zone } from '#core/time/index.ts';
import {
  checkScheduleTerms,
  concernsOf,
  previewCadence,
  readCadence,
  sayCadence,
  type PreviewedVisit,
  type WrittenCadence,
} from '#core/upkeep/index.ts';
import { sayDate, sayShortDate } from '../../parts/words.ts';
import { YearSheet } from './year-sheet.tsx';

type Calendar = Reference['calendars'][number];
export type Term = { readonly from: string; readonly to: string | null };

const asCalendar = (site: Calendar) => ({
  ...site,
  zone: site.zone as Zone,
  closed: site.closed.map((c) => ({ ...c, date: c.date as LocalDate })),
  extraOpen: site.extraOpen.map((c) => ({ ...c, date: c.date as LocalDate })),
});

/** More than a year of daily visits. */
const MOST = 400;
const LISTED = 6;

export type Preview =
  | { readonly problem: string }
  | {
      readonly sentence: string;
      readonly visits: readonly PreviewedVisit[];
      readonly concerns: readonly string[];
      /** First of the month the drawing begins with. */
      readonly begin: LocalDate;
      readonly workingDays: WorkingDays;
      /** Why there is no date where the cadence is a good one. */
      readonly nothing: string | null;
    };

const laterOf = (a: LocalDate, b: LocalDate): LocalDate => (a > b ? a : b);

function previewOf(terms: TypedTerms, site: Calendar | undefined, term: Term, today: LocalDate): Preview {
  const anchor = parseLocalDate(terms.anchor);
  if (!anchor) return { problem: 'Give the date it counts from.' };
  const read = readCadence(terms.cadence as WrittenCadence, anchor);
  if (!read.ok) return { problem: read.refusals.map((r) => r.message).join(' ') };
  const cadence = read.value;
  const checked = checkScheduleTerms(cadence, terms, terms.hours);
  if (!checked.ok) return { problem: checked.refusals.map((r) => r.message).join(' ') };
  const workingDays = workingDaysOf(site ? asCalendar(site) : null);
  const from = laterOf(laterOf(cadence.kind === 'since service' ? today : anchor, term.from as LocalDate), today);
  const begin = `${from.slice(0, 7)}-01` as LocalDate;
  const behind = addMonths(begin, 12);
  const ahead = previewCadence(cadence, terms, workingDays, from, MOST);
  const visits = ahead.filter((v) => v.nominal < behind && (term.to === null || v.nominal <= term.to));
  const isByMeterAlone = cadence.kind === 'since service' && cadence.time === null;
  return {
    sentence: sayCadence(cadence),
    visits,
    concerns: concernsOf(cadence, visits, terms.absorbDays, term.to as LocalDate | null, {
      contracted: terms.hours?.visits ?? null,
      inYear: ahead.filter((v) => v.nominal < addMonths(from, 12)).length,
    }),
    begin,
    workingDays,
    nothing: isByMeterAlone
      ? 'Its days follow from the meter’s readings.'
      : visits.length === 0
        ? 'No date of the coming year lies inside the term.'
        : null,
  };
}

/** The first visits of what is typed, as the run would propose them; or what is wrong with it. */
export function usePreview(
  terms: TypedTerms,
  site: Calendar | undefined,
  { from, to }: Term,
  today: LocalDate,
): Preview {
  // The form hands on a new object with every key pressed: what it says decides.
  const typed = JSON.stringify(terms);
  return useMemo(
    () => previewOf(JSON.parse(typed) as TypedTerms, site, { from, to }, today),
    [typed, site, from, to, today],
  );
}

function NextVisits({ visits, today }: { visits: readonly PreviewedVisit[]; today: LocalDate }) {
  const moved = visits.some((v) => v.planned !== v.due);
  const short = (date: LocalDate): string => sayShortDate(date, today);
  return (
    <div>
      <table className="dense">
        <caption className="sr-only">The next visits</caption>
        <thead>
          <tr>
            <th>Due</th>
            {moved && <th>Planned</th>}
            <th>In time</th>
            <th>Raised</th>
          </tr>
        </thead>
        <tbody>
          {visits.slice(0, LISTED).map((v) => (
            <tr key={v.nominal} className="whitespace-nowrap">
              <td>{sayDate(v.due)}</td>
              {moved && <td>{v.planned === v.due ? 'the same day' : short(v.planned)}</td>}
              <td className="quiet">
                {short(v.windowFrom)} – {short(v.windowTo)}
              </td>
              <td>{v.raise <= today ? 'in the next run' : short(v.raise)}</td>
            </tr>
          ))}
        </tbody>
      </table>
      {visits.length > LISTED && (
        <p className="quiet pt-1">and {visits.length - LISTED} more in the year that is drawn.</p>
      )}
    </div>
  );
}

export function Previewed({
  preview,
  hasCalendar,
  today,
}: {
  preview: Preview;
  hasCalendar: boolean;
  today: LocalDate;
}) {
  if ('problem' in preview)
    return (
      <div aria-live="polite" className="border-y border-hairline py-2">
        <p className="text-missed">✕ {preview.problem}</p>
      </div>
    );
  const { sentence, visits, concerns, begin, workingDays, nothing } = preview;
  return (
    <div aria-live="polite" className="border-y border-hairline py-3">
      <p>
        <strong className="font-semibold">{sentence}.</strong> {nothing}
      </p>
      {concerns.map((text) => (
        <p key={text} className="text-short">
          △ {text}
        </p>
      ))}
      {visits.length > 0 && (
        <div className="mt-2 flex flex-wrap items-start gap-x-7 gap-y-3">
          <YearSheet begin={begin} visits={visits} workingDays={workingDays} />
          <div>
            <NextVisits visits={visits} today={today} />
            {!hasCalendar && (
              <p className="quiet max-w-96 pt-1">
                Drawn with every day open: the run goes by the calendar of each machine’s place.
              </p>
            )}
          </div>
        </div>
      )}
    </div>
  );
}
