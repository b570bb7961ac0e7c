// Visit patterns: written once, applied to many agreements, and changed with a choice of which schedules follow.
import { useState } from 'react';
import { addPattern, removePattern, type PatternIn, type PatternOut } from '#api/patterns.ts';
import type { Problem } from '#api/shapes.ts';
import type { Reference } from '#api/setup.ts';
import { addMonths } from '#core/time/index.ts';
import { Table, type Column } from '../../parts/table/index.ts';
import { plural } from '../../parts/words.ts';
import { WireSelect, WireText } from '../../parts/wire-fields.tsx';
import { useWireForm, WireForm } from '../../parts/wire-form.tsx';
import { setupApi } from '../../setup/index.ts';
import { useReader } from '../../shell/reader.tsx';
import { Waiting } from '../../shell/waiting.tsx';
import { upkeepApi } from '../endpoints.ts';
import { firstTerms, ScheduleFields } from '../editor/fields.tsx';
import { Previewed, usePreview } from '../editor/preview.tsx';
import { ApplyPattern } from './apply.tsx';
import { FollowPattern } from './follow.tsx';

/** A pattern has no end of its own: its visits end with the agreements. */
const DRAWN_MONTHS = 13;

type Open = { readonly kind: 'write' | 'apply' | 'follow'; readonly pattern: PatternOut | null };

function PatternForm({
  pattern,
  reference,
  onDone,
}: {
  pattern: PatternOut | null;
  reference: Reference;
  onDone: () => void;
}) {
  const [add] = upkeepApi.useAddPatternMutation();
  const [change] = upkeepApi.useChangePatternMutation();
  const anchor = reference.today;
  const { anchor: _, ...blank } = firstTerms(reference.jobPlans[0]?.id ?? NaN, anchor);
  // Lists that are read may not be written to; those that are typed may.
  const held = (pattern?.pattern ?? { name: '', classId: null, ...blank }) as PatternIn;
  const form = useWireForm<PatternIn>(addPattern, held);
  const terms = { ...blank, ...form.watch(), anchor };
  const site = reference.calendars.find((c) => c.id === terms.calendarId);
  const preview = usePreview(terms, site, { from: anchor, to: addMonths(anchor, DRAWN_MONTHS) }, anchor);
  return (
    <WireForm<PatternIn, unknown>
      form={form}
      name="Visit pattern"
      save="Save the pattern"
      send={(body, seen) =>
        pattern
          ? change({ params: { id: String(pattern.id) }, body: { ...body, version: seen ?? pattern.version } })
          : add({ body })
      }
      onDone={onDone}
      onCancel={onDone}
      sheet
    >
      <ScheduleFields
        terms={terms}
        reference={reference}
        isPattern
        forWhom={
          <>
            <WireText name="name" label="Name" autoFocus />
            <WireSelect
              name="classId"
              label="For machines of"
              options={[[null, 'every class'] as const, ...reference.classes.map((c) => [c.id, c.name] as const)]}
            />
          </>
        }
      />
      <Previewed preview={preview} hasCalendar={site !== undefined} today={reference.today} />
      {pattern !== null && pattern.schedules > 0 && (
        <p className="quiet">
          {plural(pattern.schedules, 'schedule')} made from it {pattern.schedules === 1 ? 'stays' : 'stay'} as{' '}
          {pattern.schedules === 1 ? 'it is' : 'they are'} until you choose which follow.
        </p>
      )}
    </WireForm>
  );
}

const sayFollowing = ({ schedules, following }: PatternOut): string =>
  schedules === 0
    ? 'none yet'
    : following === schedules
      ? `${schedules}, all as it says`
      : `${following} of ${schedules} as it says`;

function acts(pattern: PatternOut, open: (kind: Open['kind']) => void, remove: () => void) {
  const list: readonly (readonly [string, () => void])[] = [
    ['change…', () => open('write')],
    ['apply…', () => open('apply')],
    ...(pattern.following < pattern.schedules ? [['let follow…', () => open('follow')] as const] : []),
    ...(pattern.schedules === 0 ? [['remove', remove] as const] : []),
  ];
  return (
    <span className="flex justify-end gap-3 whitespace-nowrap">
      {list.map(([words, act]) => (
        <button key={words} className="quiet link-ink" onClick={act}>
          {words}
        </button>
      ))}
    </span>
  );
}

function Opened({
  open,
  reference,
  onDone,
}: {
  open: Open;
  reference: Reference;
  onDone: (said: string | null) => void;
}) {
  const { kind, pattern } = open;
  if (kind === 'write') return <PatternForm pattern={pattern} reference={reference} onDone={() => onDone(null)} />;
  if (pattern === null) return null;
  return kind === 'apply' ? (
    <ApplyPattern pattern={pattern} onDone={onDone} />
  ) : (
    <FollowPattern pattern={pattern} today={reference.today} onDone={onDone} />
  );
}

function List({ items, reference }: { items: readonly PatternOut[]; reference: Reference }) {
  const may = useReader().may(addPattern);
  const [open, setOpen] = useState<Open | null>(null);
  const [said, setSaid] = useState<string | null>(null);
  const [remove, { error }] = upkeepApi.useRemovePatternMutation();
  const mayRemove = useReader().may(removePattern);
  const columns: Column<PatternOut>[] = [
    { id: 'name', head: 'Pattern', value: (p) => p.pattern.name },
    { id: 'class', head: 'For', value: (p) => p.class?.name ?? 'every class' },
    { id: 'plan', head: 'Job plan', value: (p) => p.jobPlan },
    { id: 'when', head: 'When', value: (p) => p.sentence },
    { id: 'schedules', head: 'Schedules', value: sayFollowing, className: 'quiet' },
  ];
  if (may && mayRemove)
    columns.push({
      id: 'acts',
      head: '',
      drawnHead: <span className="sr-only">Acts</span>,
      show: (p) =>
        acts(
          p,
          (kind) => setOpen({ kind, pattern: p }),
          () => void remove({ params: { id: String(p.id) } }),
        ),
    });
  return (
    <>
      {may && open === null && (
        <button className="act-main" onClick={() => setOpen({ kind: 'write', pattern: null })}>
          Add a pattern
        </button>
      )}
      {said && (
        <p role="status" className="mt-3 border border-base-content bg-base-100 px-3 py-1.5">
          {said}
        </p>
      )}
      {error && (
        <p role="alert" className="mt-3 text-missed">
          ✕ {(error as Problem).detail}
        </p>
      )}
      {open && (
        <Opened
          key={`${open.kind} ${open.pattern?.id ?? 'new'}`}
          open={open}
          reference={reference}
          onDone={(text) => {
            setSaid(text);
            setOpen(null);
          }}
        />
      )}
      {items.length === 0 ? (
        <p className="quiet mt-3">
          No pattern yet. It is written once and applied to all agreements of a type; where it changes, you choose which
          schedules follow.
        </p>
      ) : (
        <Table name="patterns" caption="Visit patterns" columns={columns} rows={items} idOf={(p) => p.id} />
      )}
    </>
  );
}

export function Patterns() {
  const query = upkeepApi.useListPatternsQuery();
  const { data: reference } = setupApi.useReadReferenceQuery();
  return (
    <Waiting query={query}>{({ items }) => (reference ? <List items={items} reference={reference} /> : null)}</Waiting>
  );
}
