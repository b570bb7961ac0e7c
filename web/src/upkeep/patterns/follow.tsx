// Letting schedules follow their changed pattern: each with its visits before and after, those ticked follow.
import { useState } from 'react';
import { Link } from 'react-router';
import type { Follower, PatternOut } from '#api/patterns.ts';
import type { Problem } from '#api/shapes.ts';
import type { LocalDate } from '#core/time/index.ts';
import { parseLocalDate } from '#core/time/index.ts';
import { DateField } from '../../parts/date-field.tsx';
import { Pager, usePages } from '../../parts/pager.tsx';
import { Table, useTicks, type Column } from '../../parts/table/index.ts';
import { plural, sayDate, sayShortDate } from '../../parts/words.ts';
import { upkeepApi } from '../endpoints.ts';

const NAMED = 3;

function sayDays(days: readonly LocalDate[], today: LocalDate): string {
  if (days.length === 0) return 'none';
  const first = days.slice(0, NAMED).map((d) => sayShortDate(d, today));
  return `${days.length} in a year: ${first.join(', ')}${days.length > NAMED ? ' …' : ''}`;
}

const columns = (today: LocalDate): readonly Column<Follower>[] => [
  {
    id: 'tag',
    head: 'Asset',
    value: (f) => f.tag,
    show: (f) => (
      <Link className="serial link-ink" to={`/schedules/${f.scheduleId}`}>
        {f.tag}
      </Link>
    ),
  },
  { id: 'customer', head: 'Customer', value: (f) => f.customer },
  { id: 'agreement', head: 'Agreement', value: (f) => f.agreement, className: 'serial' },
  { id: 'before', head: 'Visits now', value: (f) => sayDays(f.before, today), className: 'quiet' },
  { id: 'after', head: 'As the pattern says', value: (f) => sayDays(f.after, today) },
  {
    id: 'from',
    head: 'From',
    value: (f) => f.from ?? '',
    show: (f) => (f.from ? sayDate(f.from) : 'where it stands'),
    className: 'quiet whitespace-nowrap',
  },
];

export function FollowPattern({
  pattern,
  today,
  onDone,
}: {
  pattern: PatternOut;
  today: LocalDate;
  onDone: (said: string | null) => void;
}) {
  const [typed, setTyped] = useState<string>(today);
  const from = parseLocalDate(typed);
  const pages = usePages();
  const { data, error } = upkeepApi.useReadFollowersQuery(
    { params: { id: String(pattern.id) }, query: { from: from ?? today, ...(pages.after && { after: pages.after }) } },
    { skip: from === null },
  );
  const ticks = useTicks();
  const [follow, { isLoading, error: refused }] = upkeepApi.useFollowPatternMutation();
  const problem = (refused ?? error) as Problem | undefined;
  const send = async (): Promise<void> => {
    const { data: done } = await follow({
      params: { id: String(pattern.id) },
      body: { version: pattern.version, from: typed, scheduleIds: [...ticks.ticked] },
    });
    if (done)
      onDone(
        `${plural(done.followed, 'schedule')} ${done.followed === 1 ? 'follows' : 'follow'} ${pattern.pattern.name}.`,
      );
  };
  return (
    <section className="sheet mt-3 p-4">
      <h2>
        {plural(data?.total ?? 0, 'schedule')} otherwise than {pattern.pattern.name}
      </h2>
      <p className="quiet">
        Those you tick follow. Visits that are raised stay; another rule holds from behind the last raised one.
      </p>
      <DateField className="mt-2 w-56" label="Another rule from" value={typed} onChange={setTyped} />
      {data && (
        <>
          <Table
            name="pattern-followers"
            caption="Schedules made from the pattern"
            columns={columns(today)}
            rows={data.items}
            idOf={(f) => f.scheduleId}
            ticks={{ of: ticks, idsOf: (f) => [f.scheduleId], nameOf: (f) => f.tag }}
          />
          <Pager pages={pages} next={data.next} />
        </>
      )}
      {problem && (
        <p role="alert" className="mt-2 text-missed">
          ✕ {problem.detail}
        </p>
      )}
      <div className="mt-3 flex gap-2">
        <button
          className="act-main"
          disabled={isLoading || from === null || ticks.ticked.size === 0}
          onClick={() => void send()}
        >
          Let {plural(ticks.ticked.size, 'schedule')} follow
        </button>
        <button className="act" onClick={() => onDone(null)}>
          Leave them as they are
        </button>
      </div>
    </section>
  );
}
