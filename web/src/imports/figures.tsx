// What a file would bring or brought, and the rows that need a word.
import type { ImportPage as Page } from '#api/imports.ts';
import { type ImportKind } from '#core/imports/index.ts';
import { plural } from '../parts/words.ts';

export const KIND_NAMES: Record<ImportKind, string> = {
  assets: 'assets, with their customers and places',
  customers: 'customers',
  contacts: 'contacts',
  locations: 'places',
  meters: 'meters',
  readings: 'meter readings',
  agreements: 'agreements and their coverage',
  absences: 'absences of people',
  'travel times': 'known times of travel',
};
export const DELIMITER_NAMES = { ',': 'comma', ';': 'semicolon', '\t': 'tab' } as const;

export function Remarks({ title, remarks, total }: { title: string; remarks: Page['bad']; total: number }) {
  if (remarks.length === 0) return null;
  return (
    <section className="mt-6">
      <h2>{title}</h2>
      <table className="dense mt-1">
        <thead>
          <tr>
            <th className="num w-16">Line</th>
            <th className="w-36">Column</th>
            <th>What would be right</th>
          </tr>
        </thead>
        <tbody>
          {remarks.map((r, i) => (
            <tr key={i}>
              <td className="num">{r.rows === 1 ? r.line : ''}</td>
              <td className="serial">{r.column}</td>
              <td>
                {r.message}
                {r.rows > 1 && (
                  <span className="quiet block">
                    {plural(r.rows, 'row')}: lines {r.lines.join(', ')}
                    {r.rows > r.lines.length ? ', …' : ''}
                  </span>
                )}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      {total > remarks.length && <p className="quiet">and {total - remarks.length} more</p>}
    </section>
  );
}

export function Figures({ page }: { page: Page }) {
  const loaded = page.state !== 'read';
  const { created, updated, unchanged, refused } = page.tally;
  const figures: [number, string][] = [
    ...Object.entries(created).map(([what, n]): [number, string] => [n, `${what}${loaded ? '' : ' to create'}`]),
    ...(updated > 0 ? ([[updated, loaded ? 'changed' : 'to change']] as [number, string][]) : []),
    [unchanged, 'held already, unchanged'],
    [refused, 'rows that do not load'],
  ];
  return (
    <dl className="mt-4 flex flex-wrap gap-x-10 gap-y-2 border-y border-hairline py-3">
      {figures.map(([n, what]) => (
        <div key={what}>
          <dd className={`figure ${what.startsWith('rows') && n > 0 ? 'text-missed' : ''}`}>
            {n.toLocaleString('en-GB')}
          </dd>
          <dt className="quiet">{what}</dt>
        </div>
      ))}
    </dl>
  );
}
