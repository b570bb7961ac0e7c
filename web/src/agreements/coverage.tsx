// Coverage lines of an agreement: looked at, ticked, changed and removed together; in a draft at once, in force as part of an amendment.
import { useState } from 'react';
import type { AgreementPage as Page, LineTerms } from '#api/agreements/index.ts';
import { COST_ELEMENTS } from '#core/entitlement/index.ts';
import { sayAmountOf } from '#core/money.ts';
import { plural, sayDate } from '../parts/words.ts';
import { foldAlike, useOpened } from '../parts/fold.ts';
import { Table, useTicks, type Column } from '../parts/table/index.ts';
import { agreementsApi } from './endpoints.ts';
import { AddCoverage, ChangeCoverage, type ApplyChange } from './coverage-form.tsx';
import { NEW_TERMS } from './terms-fields.tsx';

type Line = Page['lines'][number];

/** What a line gives beside shares and service level, in few words. */
export function sayExtras(terms: LineTerms): string {
  return [
    ...terms.discounts.map((d) => `${d.percent} % off ${d.element} of ${d.kinds.join(', ')}`),
    ...(terms.excludedParts.length > 0 ? [`without ${terms.excludedParts.join(', ')}`] : []),
    ...(terms.hours ? [`labour in set hours, outside ${terms.hours.shareOutside} %`] : []),
  ].join('; ');
}

function Dates({ line, agreement }: { line: Line; agreement: Page }) {
  const { from, to } = line.terms;
  const later = from !== null && from > agreement.from;
  return (
    <span className="quiet">
      {later ? `from ${sayDate(from)}` : ''} {to ? `to ${sayDate(to)}` : ''}
      {!later && !to ? 'with the agreement' : ''}
    </span>
  );
}

/** An agreement that began from a type offers the type’s terms for its lines, whenever it is opened. */
function useStartTerms({ typeId }: Page): LineTerms | undefined {
  const { data } = agreementsApi.useListAgreementTypesQuery(undefined, { skip: typeId === null });
  const type = data?.items.find((t) => t.id === typeId);
  if (!type) return undefined;
  const { shares, discounts, kinds, excludedCauses, excludedParts } = type.terms;
  return { ...NEW_TERMS, shares, discounts, kinds, excludedCauses, excludedParts };
}

/** A line, or several machines named one by one with the same terms, which stand as one row until it is opened. */
type Shown = { readonly key: string; readonly lines: readonly [Line, ...Line[]]; readonly opens: boolean };

const sum = (lines: readonly Line[]): number => lines.reduce((n, l) => n + l.assetsReached, 0);

function columnsFor(agreement: Page, isOpen: (key: string) => boolean, open: (key: string) => void): Column<Shown>[] {
  return [
    {
      id: 'covers',
      head: 'Covers',
      value: ({ lines, opens }) => (opens ? `${lines.length} machines, covered alike` : lines[0].label),
      show: ({ key, lines, opens }) =>
        opens ? (
          <button className="link-ink text-left" aria-expanded={isOpen(key)} onClick={() => open(key)}>
            {lines.length} machines, covered alike
          </button>
        ) : (
          lines[0].label
        ),
    },
    { id: 'assets', head: 'Assets', isNumber: true, value: ({ lines }) => sum(lines) },
    ...COST_ELEMENTS.map((e): Column<Shown> => ({
      id: e,
      head: `${e.charAt(0).toUpperCase()}${e.slice(1)} %`,
      isNumber: true,
      value: ({ lines: [l] }) => l.terms.shares[e],
    })),
    { id: 'level', head: 'Service level', value: ({ lines: [l] }) => l.serviceLevel?.name ?? 'none' },
    { id: 'kinds', head: 'Work included', value: ({ lines: [l] }) => l.terms.kinds.join(', '), className: 'quiet' },
    {
      id: 'excluded',
      head: 'Left out',
      value: ({ lines: [l] }) => l.terms.excludedCauses.join(', ') || 'nothing',
      className: 'quiet',
    },
    { id: 'extras', head: 'Also', value: ({ lines: [l] }) => sayExtras(l.terms), className: 'quiet' },
    {
      id: 'holds',
      head: 'Holds',
      value: ({ lines: [l] }) => `${l.terms.from ?? agreement.from} – ${l.terms.to ?? agreement.to ?? ''}`,
      show: ({ lines: [l] }) => <Dates line={l} agreement={agreement} />,
    },
    {
      id: 'price',
      head: `Price, ${agreement.currency}`,
      isNumber: true,
      value: ({ lines: [l] }) => (l.terms.priceMinor === null ? null : l.terms.priceMinor / 100),
      show: ({ lines: [l] }) =>
        l.terms.priceMinor === null ? '' : sayAmountOf(l.terms.priceMinor, agreement.currency),
    },
  ];
}

/** What is folded together stays together, so nothing is sorted here. */
const AS_WRITTEN = { can: [], sort: null, onSort: () => undefined };

function Acts({
  hasLines,
  ticked,
  begin,
  remove,
}: {
  hasLines: boolean;
  ticked: number;
  begin: (what: 'add' | 'change') => void;
  remove: () => void;
}) {
  return (
    <>
      <button className="act" onClick={() => begin('add')}>
        Add coverage…
      </button>
      {hasLines && (
        <>
          <button className="act" disabled={ticked === 0} onClick={() => begin('change')}>
            Change ticked…
          </button>
          <button className="act" disabled={ticked === 0} onClick={remove}>
            Remove ticked
          </button>
          <span className="quiet">{ticked > 0 ? plural(ticked, 'line') : 'Tick lines to act on them.'}</span>
        </>
      )}
    </>
  );
}

/** Machines named one by one with the same terms stand as one row; what is said of a place or class stays by itself. */
const rowsOf = (all: readonly Line[], isOpen: (key: string) => boolean): Shown[] =>
  foldAlike(all, (l) => (l.reach === 'asset' ? JSON.stringify([l.terms, l.serviceLevel?.id]) : String(l.id))).flatMap(
    ({ key, rows: alike }): Shown[] => {
      const lines = alike as readonly [Line, ...Line[]];
      const each = lines.map((l): Shown => ({ key: String(l.id), lines: [l], opens: false }));
      return lines.length === 1 ? each : [{ key, lines, opens: true }, ...(isOpen(key) ? each : [])];
    },
  );

export function Coverage({
  agreement,
  apply,
}: {
  agreement: Page;
  /** Without it the lines are only looked at. */
  apply: ApplyChange | null;
}) {
  const [doing, setDoing] = useState<'add' | 'change' | null>(null);
  const ticks = useTicks();
  const { ticked } = ticks;
  const [refused, setRefused] = useState<string | null>(null);
  const start = useStartTerms(agreement);
  const ids = agreement.lines.map((l) => l.id);
  const chosen = ids.filter((id) => ticked.has(id));
  const { isOpen, toggle: openFold } = useOpened();
  const finish = (): void => {
    setDoing(null);
    ticks.clear();
  };
  const remove = async (): Promise<void> => {
    const { error } = (await apply?.({ act: 'remove', lineIds: chosen as never })) ?? {};
    setRefused(error ? ((error as { detail?: string }).detail ?? 'That did not work.') : null);
    if (!error) finish();
  };
  return (
    <section className="mt-4">
      <div className="flex items-baseline gap-3">
        <h2>Coverage</h2>
        {apply && !doing && (
          <Acts
            hasLines={agreement.lines.length > 0}
            ticked={chosen.length}
            begin={setDoing}
            remove={() => void remove()}
          />
        )}
      </div>
      {refused && (
        <p role="alert" className="text-missed">
          ✕ {refused}
        </p>
      )}
      {doing === 'add' && apply && (
        <AddCoverage agreement={agreement} apply={apply} onDone={finish} {...(start && { start })} />
      )}
      {doing === 'change' && apply && (
        <ChangeCoverage agreement={agreement} lineIds={chosen} apply={apply} onDone={finish} />
      )}
      {agreement.lines.length === 0 ? (
        doing !== 'add' && <p className="quiet mt-1 border-y border-hairline py-2">Nothing is covered yet.</p>
      ) : (
        <Table
          name="coverage"
          caption="Coverage"
          columns={columnsFor(agreement, isOpen, openFold)}
          rows={rowsOf(agreement.lines, isOpen)}
          idOf={(r) => r.key}
          sorting={AS_WRITTEN}
          ticks={
            apply === null
              ? undefined
              : {
                  of: ticks,
                  idsOf: ({ lines }) => lines.map((l) => l.id),
                  nameOf: ({ lines, opens }) => (opens ? `${lines.length} lines alike` : lines[0].label),
                }
          }
        />
      )}
    </section>
  );
}
