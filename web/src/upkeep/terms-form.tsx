// Changing how a schedule's visits are kept: window, lead, wishes; the rule itself only while the agreement is a draft.
import type { TypedTerms } from '#api/cadence.ts';
import { changeSchedule, type ScheduleSeries } from '#api/schedules.ts';
import type { Reference } from '#api/setup.ts';
import { WireTick } from '../parts/wire-fields.tsx';
import { useWireForm, WireForm } from '../parts/wire-form.tsx';
import { setupApi } from '../setup/index.ts';
import { ScheduleFields } from './editor/fields.tsx';
import { Previewed, usePreview } from './editor/preview.tsx';
import { upkeepApi } from './endpoints.ts';

type Props = { series: ScheduleSeries; onDone: () => void };

function Typing({ series, reference, onDone }: Props & { reference: Reference }) {
  const [change] = upkeepApi.useChangeScheduleMutation();
  // Lists that are read may not be written to; those that are typed may.
  const held = series.terms as TypedTerms;
  const form = useWireForm(changeSchedule, { version: series.version, wholeLine: series.ofLine !== null, ...held });
  const terms = { ...held, ...form.watch() };
  const site = reference.calendars.find((c) => c.id === (terms.calendarId ?? series.placeCalendarId));
  const preview = usePreview(terms, site, series.term, series.today);
  return (
    <WireForm
      form={form}
      name="Change the terms"
      save="Change the terms"
      send={(body, seen) =>
        change({ params: { id: String(series.id) }, body: { ...body, version: seen ?? body.version } })
      }
      onDone={onDone}
      onCancel={onDone}
      sheet
    >
      <ScheduleFields
        terms={terms}
        reference={reference}
        currency={series.currency}
        {...(!series.isDraft &&
          series.isSeries && {
            fixedRule: (
              <p>
                {series.sentence}. <span className="quiet">Another rule holds from a visit on: see below.</span>
              </p>
            ),
          })}
      />
      <Previewed preview={preview} hasCalendar={site !== undefined} today={series.today} />
      {series.ofLine !== null && series.ofLine > 1 && (
        <WireTick
          name="wholeLine"
          label={`of all ${series.ofLine} machines of its line, and of those that come later`}
          className=""
        />
      )}
      <p className="quiet">Visits that were raised keep what they have.</p>
    </WireForm>
  );
}

export function TermsForm(props: Props) {
  const { data: reference } = setupApi.useReadReferenceQuery();
  return reference ? <Typing {...props} reference={reference} /> : null;
}
