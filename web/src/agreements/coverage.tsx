// Coverage lines of an agreement: looked at, ticked, changed and removed together; in a draft at once, in force as part of an amendment.
import { useState } from 'react';
import type { AgreementPage as Page } from '#api/agreements.ts';
import type { LineTerms } from '#api/terms.ts';
import { COST_ELEMENTS } from '#core/entitlement/index.ts';
import { sayAmountOf } from '#core/money.ts';
import { Listing } from '../parts/listing.tsx';
import { plural, sayDate } from '../parts/words.ts';
import { foldAlike, useOpened } from '../parts/fold.ts';
import { TickCell, useTicks } from '../parts/ticks.tsx';
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

/** What a line gives, as the cells of its row. */
function Terms({ line: l, agreement, assets }: { line: Line; agreement: Page; assets: number }) {
  return (
    <>
      <td className="num">{assets}</td>
      {COST_ELEMENTS.map((e) => (
        <td key={e} className="num">
          {l.terms.shares[e]}
        </td>
      ))}
      <td>{l.serviceLevel?.name ?? 'none'}</td>
      <td className="quiet">{l.terms.kinds.join(', ')}</td>
      <td className="quiet">{l.terms.excludedCauses.join(', ') || 'nothing'}</td>
      <td className="quiet">{sayExtras(l.terms)}</td>
      <td>
        <Dates line={l} agreement={agreement} />
      </td>
      <td className="num">{l.terms.priceMinor === null ? '' : sayAmountOf(l.terms.priceMinor, agreement.currency)}</td>
    </>
  );
}

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
  // Machines named one by one with the same terms stand as one row; what is said of a place or class stays by itself.
  const folds = foldAlike(agreement.lines, (l) =>
    l.reach === 'asset' ? JSON.stringify([l.terms, l.serviceLevel?.id]) : String(l.id),
  );
  const line = (l: Line) => (
    <tr key={l.id}>
      {apply && <TickCell of={ticks} ids={[l.id]} name={l.label} />}
      <td>{l.label}</td>
      <Terms line={l} agreement={agreement} assets={l.assetsReached} />
    </tr>
  );
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
          <>
            <button className="act" onClick={() => setDoing('add')}>
              Add coverage…
            </button>
            {agreement.lines.length > 0 && (
              <>
                <button className="act" disabled={chosen.length === 0} onClick={() => setDoing('change')}>
                  Change ticked…
                </button>
                <button className="act" disabled={chosen.length === 0} onClick={() => void remove()}>
                  Remove ticked
                </button>
                <span className="quiet">
                  {chosen.length > 0 ? plural(chosen.length, 'line') : 'Tick lines to act on them.'}
                </span>
              </>
            )}
          </>
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
        <Listing name="coverage">
          <table className="dense">
            <thead>
              <tr>
                {apply && (
                  <th className="w-7">
                    <input
                      type="checkbox"
                      className="box-tick"
                      aria-label="Tick every line"
                      checked={chosen.length === ids.length}
                      onChange={() => ticks.toggle(ids)}
                    />
                  </th>
                )}
                <th>Covers</th>
                <th className="num">Assets</th>
                {COST_ELEMENTS.map((e) => (
                  <th key={e} className="num first-letter:uppercase">
                    {e} %
                  </th>
                ))}
                <th>Service level</th>
                <th>Work included</th>
                <th>Left out</th>
                <th>Also</th>
                <th>Holds</th>
                <th className="num">Price, {agreement.currency}</th>
              </tr>
            </thead>
            <tbody>
              {folds.flatMap(({ key, rows }) => {
                const [first] = rows as [Line, ...Line[]];
                if (rows.length === 1) return [line(first)];
                return [
                  <tr key={key}>
                    {apply && <TickCell of={ticks} ids={rows.map((l) => l.id)} name={`${rows.length} lines alike`} />}
                    <td>
                      <button className="link-ink" aria-expanded={isOpen(key)} onClick={() => openFold(key)}>
                        {rows.length} machines, covered alike
                      </button>
                    </td>
                    <Terms line={first} agreement={agreement} assets={rows.reduce((n, l) => n + l.assetsReached, 0)} />
                  </tr>,
                  ...(isOpen(key) ? rows.map(line) : []),
                ];
              })}
            </tbody>
          </table>
        </Listing>
      )}
    </section>
  );
}
