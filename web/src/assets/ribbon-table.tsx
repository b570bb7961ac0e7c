// The ribbon of an asset as a table, for whoever reads rather than looks.
import type { AssetPage as Page } from '#api/register.ts';
import { sayDate } from '../parts/words.ts';

export function RibbonTable({ asset }: { asset: Page }) {
  const { cover, care, trouble } = asset.ribbon;
  return (
    <details className="quiet mt-1">
      <summary className="w-fit link-ink">The same as a table</summary>
      <table className="dense mt-1 text-base-content">
        <thead>
          <tr>
            <th>Lane</th>
            <th>What</th>
            <th>From</th>
            <th>To</th>
          </tr>
        </thead>
        <tbody>
          {cover.map((c) => (
            <tr key={`c${c.label}${c.from}`}>
              <td>cover</td>
              <td>
                {c.label} ({c.kind})
              </td>
              <td>{sayDate(c.from)}</td>
              <td>{c.to ? sayDate(c.to) : 'open end'}</td>
            </tr>
          ))}
          {care.map((c) => (
            <tr key={`v${c.due}${c.label}`}>
              <td>care</td>
              <td>
                {c.label}, due {sayDate(c.due)}
                {c.planned !== c.due && `, planned for ${sayDate(c.planned)}`}
                {c.changed && ', changed by hand'}: {c.state}
              </td>
              <td>{sayDate(c.windowFrom)}</td>
              <td>{sayDate(c.windowTo)}</td>
            </tr>
          ))}
          {trouble.map((t) => (
            <tr key={`t${t.orderId}`}>
              <td>trouble</td>
              <td>
                {t.label}
                {t.missed ? ', promise missed' : ''}
              </td>
              <td>{new Date(t.from).toISOString().slice(0, 10)}</td>
              <td>{t.to ? new Date(t.to).toISOString().slice(0, 10) : 'open'}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </details>
  );
}
