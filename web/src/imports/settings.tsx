// How a file is read: its columns, dates, delimiter and key.
import type { ImportPage as Page } from '#api/imports.ts';
import {
  ASSET_KEYS,
  checkMapping,
  DATE_FORMATS,
  DELIMITERS,
  IMPORT_DATES,
  IMPORT_FIELDS,
  type ImportSettings,
} from '#core/imports/index.ts';
import { SelectField } from '../parts/fields.tsx';
import { DELIMITER_NAMES } from './figures.tsx';

export function Settings({
  page,
  dateUnclear,
  set,
}: {
  page: Page;
  dateUnclear: boolean;
  set: (settings: ImportSettings) => void;
}) {
  const { settings, head, sample } = page;
  const columns: (readonly [string, string])[] = [
    ['', 'not in the file'],
    ...head.map(
      (h, i) => [String(i), `${h || `column ${i + 1}`}${sample[0]?.[i] ? `: ${sample[0][i]}` : ''}`] as const,
    ),
  ];
  const map = (field: string, at: string): void => {
    const { [field]: _, ...rest } = settings.mapping;
    set({ ...settings, mapping: at === '' ? rest : { ...rest, [field]: Number(at) } });
  };
  const dates = IMPORT_FIELDS[page.kind].some((f) => IMPORT_DATES.includes(f.name));
  // Open while something is left to say: a column nobody reads, or a field that is needed.
  const unmapped =
    head.some((_, i) => !Object.values(settings.mapping).includes(i)) ||
    checkMapping(page.kind, settings, head.length).length > 0;
  return (
    <section className="mt-4" aria-label="How the file is read">
      <div className="grid max-w-4xl grid-cols-3 gap-3">
        <SelectField
          label="Delimiter"
          value={settings.delimiter}
          onChange={(d) => set({ ...settings, delimiter: d as ImportSettings['delimiter'] })}
          options={DELIMITERS.map((d) => [d, DELIMITER_NAMES[d]])}
        />
        {dates && (
          <SelectField
            label="Dates are written"
            value={settings.dateFormat}
            onChange={(f) => set({ ...settings, dateFormat: f as ImportSettings['dateFormat'] })}
            options={DATE_FORMATS.map((f) => [f, f])}
            error={dateUnclear ? 'The file has dates that can be read two ways: choose the order.' : undefined}
          />
        )}
        {page.kind === 'assets' && (
          <SelectField
            label="A machine is known by"
            value={settings.key}
            onChange={(k) => set({ ...settings, key: k as ImportSettings['key'] })}
            options={ASSET_KEYS.map((k) => [k, k])}
            hint={
              settings.key === 'tag and serial'
                ? 'Rows whose two do not fit together are refused.'
                : `A row may change its ${settings.key === 'tag' ? 'serial' : 'tag'}.`
            }
          />
        )}
      </div>
      <details className="mt-3" open={unmapped}>
        <summary className="w-fit">
          <h2 className="inline">Columns</h2>{' '}
          <span className="quiet">
            {Object.keys(settings.mapping).length} of {IMPORT_FIELDS[page.kind].length} fields read
            {page.remembered ? ', as last time' : ''}
          </span>
        </summary>
        <div className="mt-1 grid max-w-5xl grid-cols-3 gap-x-4 gap-y-2">
          {IMPORT_FIELDS[page.kind].map((f) => (
            <SelectField
              key={f.name}
              label={`${f.label}${f.needed ? ' (needed)' : ''}`}
              value={String(settings.mapping[f.name] ?? '')}
              onChange={(at) => map(f.name, at)}
              options={columns}
            />
          ))}
        </div>
      </details>
    </section>
  );
}
