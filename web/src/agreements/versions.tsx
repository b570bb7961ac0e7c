// Versions of an agreement: its amendments, any past day as it was, and two days side by side.
import { useState } from 'react';
import type { AgreementPage as Page, Comparison } from '#api/agreements/index.ts';
import { localDateAt, parseLocalDate } from '#core/time/index.ts';
import { DateField } from '../parts/date-field.tsx';
import { sayDate } from '../parts/words.ts';
import { useReader } from '../shell/reader.tsx';
import { foldAlike, useOpened } from '../parts/fold.ts';
import { agreementsApi } from './endpoints.ts';
import { Waiting } from '../shell/waiting.tsx';

const WORDS = { added: '+ added', removed: '− removed', changed: '± changed' } as const;

type Changed = { readonly what: string; readonly change: string; readonly fields: Comparison['header'] };

export function Differences({ comparison, before, after }: { comparison: Comparison; before: string; after: string }) {
  const { isOpen, toggle } = useOpened();
  const rows: Changed[] = [
    ...comparison.header.map((f) => ({ what: 'Header', change: WORDS.changed, fields: [f] })),
    ...comparison.lines.map((l) => ({ what: l.label, change: WORDS[l.change], fields: l.fields })),
  ];
  if (rows.length === 0) return <p className="border-y border-hairline py-2">No difference.</p>;
  const folds = foldAlike(rows, (r) =>
    r.what === 'Header' ? `h${r.fields[0]?.name}` : JSON.stringify([r.change, r.fields]),
  );
  return (
    <table className="dense">
      <thead>
        <tr>
          <th>What</th>
          <th>Term</th>
          <th>{before}</th>
          <th>{after}</th>
        </tr>
      </thead>
      <tbody>
        {folds.flatMap(({ key, rows: alike }) => {
          const [r] = alike as [Changed, ...Changed[]];
          return (r.change === WORDS.changed ? r.fields : r.fields.slice(0, 1)).map((f, i) => (
            <tr key={`${key}${f.name}`}>
              <td>
                {i > 0 ? (
                  ''
                ) : alike.length === 1 ? (
                  r.what
                ) : (
                  <>
                    <button className="link-ink" aria-expanded={isOpen(key)} onClick={() => toggle(key)}>
                      {alike.length} lines, all alike
                    </button>
                    {isOpen(key) && <span className="quiet block">{alike.map((x) => x.what).join(', ')}</span>}
                  </>
                )}
              </td>
              {r.change === WORDS.changed ? (
                <>
                  <td className="quiet">{f.name}</td>
                  <td>{f.before ?? ''}</td>
                  <td className="font-semibold">{f.after ?? ''}</td>
                </>
              ) : (
                <td colSpan={3} className="font-semibold">
                  {r.change}
                </td>
              )}
            </tr>
          ));
        })}
      </tbody>
    </table>
  );
}

export function Versions({ agreement, showOn }: { agreement: Page; showOn: (on: string) => void }) {
  const reader = useReader();
  const today = localDateAt(reader.zone, agreement.now);
  const [a, setA] = useState<string>(agreement.from);
  const [b, setB] = useState<string>(today > agreement.from ? today : agreement.from);
  const dates = parseLocalDate(a) && parseLocalDate(b) ? { a, b } : null;
  const query = agreementsApi.useCompareVersionsQuery(
    { params: { id: String(agreement.id) }, query: dates ?? { a: today, b: today } },
    { skip: dates === null },
  );
  return (
    <>
      <section className="mt-5">
        <h2>Versions</h2>
        {agreement.amendments.length === 0 ? (
          <p className="quiet mt-1 border-y border-hairline py-2">
            {agreement.stage === 'draft'
              ? 'A draft has no versions yet: the first is kept when it is put in force.'
              : 'Never amended since it was put in force.'}
          </p>
        ) : (
          <table className="dense mt-1">
            <thead>
              <tr>
                <th className="num w-10">No.</th>
                <th>Holds from</th>
                <th>What and why</th>
                <th>Written</th>
                <th>By</th>
                <th aria-label="Look" />
              </tr>
            </thead>
            <tbody>
              {agreement.amendments.map((v) => (
                <tr key={v.number}>
                  <td className="num">{v.number}</td>
                  <td className="whitespace-nowrap">{sayDate(v.from)}</td>
                  <td>{v.reason}</td>
                  <td className="quiet whitespace-nowrap">{sayDate(localDateAt(reader.zone, v.at))}</td>
                  <td className="quiet">{v.who ?? 'by itself'}</td>
                  <td className="text-right">
                    <button className="link-ink" onClick={() => showOn(v.from)}>
                      as it held then
                    </button>
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
        )}
      </section>
      <section className="mt-6" aria-label="Two days side by side">
        <div className="flex items-end gap-4">
          <h2 className="pb-1">Two days side by side</h2>
          <DateField label="One day" value={a} onChange={setA} className="w-48" />
          <DateField label="The other" value={b} onChange={setB} className="w-48" />
        </div>
        <div className="mt-2">
          {dates && (
            <Waiting query={query}>
              {(comparison) => (
                <Differences comparison={comparison} before={sayDate(a as never)} after={sayDate(b as never)} />
              )}
            </Waiting>
          )}
        </div>
      </section>
    </>
  );
}
