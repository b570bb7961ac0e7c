// The coverage matrix: the customer’s machines down, what each is given across, beside their threads; gaps and double cover stand out.
import { useState } from 'react';
import { Link } from 'react-router';
import { changeLines, coverageCsv, type AgreementPage as Page, type MatrixPage } from '#api/agreements/index.ts';
import { COST_ELEMENTS } from '#core/entitlement/index.ts';
import { parseLocalDate } from '#core/time/index.ts';
import { SelectField } from '../parts/fields.tsx';
import { DateField } from '../parts/date-field.tsx';
import { foldAlike, useOpened } from '../parts/fold.ts';
import { RibbonAxis, RibbonLine, type RibbonSpan } from '../parts/ribbon.tsx';
import { TickCell, useTicks, type Ticks } from '../parts/table/index.ts';
import { plural } from '../parts/words.ts';
import { useWireForm, WireForm } from '../parts/wire-form.tsx';
import { Pager, usePages } from '../parts/pager.tsx';
import { useReader } from '../shell/reader.tsx';
import { agreementsApi } from './endpoints.ts';
import { Waiting } from '../shell/waiting.tsx';
import { WireAlongside, type ApplyChange, type OneChange } from './coverage-form.tsx';
import { NEW_TERMS, TermsFields } from './terms-fields.tsx';

type Show = 'all' | 'no cover' | 'covered twice';
type Machine = MatrixPage['items'][number];

/** What a machine's row says of its cover; those that say the same are folded into one. */
const saysOf = (m: Machine): string => JSON.stringify([m.shares, m.serviceLevel, m.reach, m.others]);

/** From so many machines on, equal rows are folded. */
const FOLDED_FROM = 3;

function OwnTerms({
  agreement,
  assetIds,
  apply,
  onDone,
}: {
  agreement: Page;
  assetIds: readonly number[];
  apply: ApplyChange;
  onDone: () => void;
}) {
  const form = useWireForm<OneChange<'add'>>(changeLines as never, {
    changes: [
      {
        act: 'add',
        reach: { kind: 'assets', assetIds: [...assetIds] as never },
        terms: { ...(agreement.lines[0]?.terms ?? NEW_TERMS), from: null, to: null },
        alongside: false,
      },
    ],
  });
  return (
    <WireForm
      form={form}
      name="Lines of their own"
      save={`Give ${plural(assetIds.length, 'machine')} a line of ${assetIds.length === 1 ? 'its' : 'their'} own`}
      send={({ changes: [change] }) => apply(change)}
      onDone={onDone}
      onCancel={onDone}
      sheet
    >
      <p>A line for a machine counts before lines for its place or class.</p>
      <TermsFields at="changes.0.terms" own={{ currency: agreement.currency, per: agreement.billingPer }} />
      <WireAlongside />
    </WireForm>
  );
}

/** The columns of a row that tell its cover. */
function Cover({ machine: m }: { machine: Machine }) {
  return (
    <>
      {m.shares ? (
        COST_ELEMENTS.map((e) => (
          <td key={e} className="num">
            {m.shares?.[e]}
          </td>
        ))
      ) : (
        <td colSpan={4} className={m.others.length === 0 ? 'font-semibold' : 'quiet'}>
          {m.others.length === 0 ? '○ no cover at all' : 'not by this agreement'}
        </td>
      )}
      <td className="quiet">
        {m.serviceLevel ?? ''}
        {m.reach && m.reach !== 'this asset' && <span className="block">by {m.reach}</span>}
      </td>
      <td className="quiet">{m.others.join('; ')}</td>
    </>
  );
}

/** What folded machines are or where they stand: named while it is at most so many, else counted. */
function said(each: readonly string[], most: number, one: string, many?: string): string {
  const parts = [...new Set(each)];
  return parts.length <= most ? parts.join(', ') : plural(parts.length, one, many);
}

/** The machines of a page as rows; those covered alike are one that opens. Without `ticks` they are only looked at. */
function Machines({ machines, span, ticks }: { machines: readonly Machine[]; span: RibbonSpan; ticks: Ticks | null }) {
  const opened = useOpened();
  const machine = (m: Machine) => (
    <tr key={m.id}>
      {ticks && <TickCell of={ticks} ids={[m.id]} name={m.tag} />}
      <td>
        <Link className="serial link-ink font-semibold" to={`/assets/${m.id}`}>
          {m.tag}
        </Link>{' '}
        <span className="quiet">{m.className}</span>
      </td>
      <td className="quiet">{m.place}</td>
      <Cover machine={m} />
      <td className="px-0!">
        <RibbonLine ribbon={m.ribbon} span={span} size="thread" />
      </td>
    </tr>
  );
  return (
    <table className="dense mt-1">
      <thead>
        <tr>
          {ticks && <th className="w-7" aria-label="Ticked" />}
          <th className="w-[17%]">Machine</th>
          <th>Place</th>
          {COST_ELEMENTS.map((e) => (
            <th key={e} className="num whitespace-nowrap first-letter:uppercase">
              {e} %
            </th>
          ))}
          <th>Promise</th>
          <th>Also covered by</th>
          <th className="w-[24%] px-0!">
            <span className="sr-only">Time line</span>
            <RibbonAxis span={span} every={3} />
          </th>
        </tr>
      </thead>
      <tbody>
        {foldAlike(machines, saysOf).flatMap(({ key, rows }) => {
          const [first] = rows as [Machine, ...Machine[]];
          if (rows.length < FOLDED_FROM) return rows.map(machine);
          const ids = rows.map((m) => m.id);
          return [
            <tr key={key}>
              {ticks && <TickCell of={ticks} ids={ids} name={`${rows.length} machines alike`} />}
              <td>
                <button
                  className="link-ink text-left"
                  aria-expanded={opened.isOpen(key)}
                  onClick={() => opened.toggle(key)}
                >
                  {rows.length} machines alike
                </button>
                <span className="quiet block">
                  {said(
                    rows.map((m) => m.className),
                    3,
                    'class',
                    'classes',
                  )}
                </span>
              </td>
              <td className="quiet">
                {said(
                  rows.map((m) => m.place),
                  1,
                  'place',
                )}
              </td>
              <Cover machine={first} />
              <td className="px-0!" />
            </tr>,
            ...(opened.isOpen(key) ? rows.map(machine) : []),
          ];
        })}
      </tbody>
    </table>
  );
}

/** How many of the machines of the customer are covered, not covered, covered twice. */
function Counted({ counts }: { counts: MatrixPage['counts'] }) {
  return (
    <p className="quiet mt-1">
      {plural(counts.all, 'machine')}, {counts.covered} covered by this agreement,{' '}
      <strong className={counts.without > 0 ? 'font-semibold text-base-content' : 'font-normal'}>
        {counts.without} without any cover
      </strong>
      , {counts.twice} covered twice
    </p>
  );
}

export function Matrix({ agreement, apply }: { agreement: Page; apply: ApplyChange | null }) {
  const [typed, setTyped] = useState<string>(agreement.on);
  const [show, setShow] = useState<Show>('all');
  const pages = usePages();
  const ticks = useTicks();
  const { ticked } = ticks;
  const mayExport = useReader().may(coverageCsv);
  const [giving, setGiving] = useState(false);
  const on = parseLocalDate(typed) ?? agreement.on;
  const { after } = pages;
  const query = agreementsApi.useReadMatrixQuery({
    params: { id: String(agreement.id) },
    query: { on, show, ...(after && { after }) },
  });
  return (
    <section className="mt-8" aria-label="Machines and their cover">
      <div className="flex flex-wrap items-end gap-4">
        <h2 className="pb-1">Machines of the customer</h2>
        <DateField label="On" value={typed} onChange={(v) => (setTyped(v), pages.begin())} className="w-44" />
        <SelectField
          label="Show"
          value={show}
          onChange={(v) => (setShow(v as Show), pages.begin())}
          options={[
            ['all', 'all machines'],
            ['no cover', 'without any cover'],
            ['covered twice', 'covered twice'],
          ]}
          className="w-44"
        />
        {apply && (
          <button className="act mb-0.5" disabled={ticked.size === 0} onClick={() => setGiving(true)}>
            Lines of their own for {ticked.size === 0 ? 'ticked machines' : plural(ticked.size, 'machine')}…
          </button>
        )}
        {mayExport && (
          <a
            className="link-ink ml-auto pb-1 text-[0.87rem]"
            href={`/api/agreements/${agreement.id}/coverage.csv?on=${on}`}
          >
            Coverage schedule (CSV)
          </a>
        )}
      </div>
      {giving && apply && (
        <OwnTerms
          agreement={agreement}
          assetIds={[...ticked]}
          apply={apply}
          onDone={() => {
            setGiving(false);
            ticks.clear();
          }}
        />
      )}
      <Waiting query={query}>
        {({ items, counts, next, from, to }) => (
          <>
            <Counted counts={counts} />
            {items.length === 0 ? (
              <p className="border-y border-hairline py-4">
                {show === 'all' ? 'The customer has no machine in service.' : 'None on that day. '}
                {show !== 'all' && (
                  <button className="link-ink" onClick={() => setShow('all')}>
                    Show all machines
                  </button>
                )}
              </p>
            ) : (
              <Machines machines={items} span={{ from, to, now: agreement.now }} ticks={apply ? ticks : null} />
            )}
            <Pager pages={pages} next={next} words={['Earlier machines', 'Further machines']} className="mt-2" />
          </>
        )}
      </Waiting>
    </section>
  );
}
