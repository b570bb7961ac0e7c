// Before something is let go that speaks against somebody's word: what it breaks, who must be told, and a reason where two are at once.
import { useState } from 'react';
import { Dialog } from '../shell/dialog.tsx';
import { TextField } from '../parts/fields.tsx';
import type { Looked } from './days.ts';

type Props = {
  readonly title: string;
  readonly looked: Looked;
  readonly onYes: (overlapReason: string) => void;
  readonly onClose: () => void;
};

export const asks = ({ against, told, late }: Looked): boolean =>
  against.length > 0 || told.length > 0 || late.length > 0;
/** What no yes helps against. */
export const binds = ({ against }: Looked): readonly Looked['against'][number][] => {
  const overlapping = new Set(against.filter((r) => r.what === 'overlap').map((r) => r.name));
  return against.filter((r) => r.binds && r.what !== 'overlap' && !(r.what === 'travel' && overlapping.has(r.name)));
};

export function AskDialog({ title, looked, onYes, onClose }: Props) {
  const [reason, setReason] = useState('');
  const [isMissing, setMissing] = useState(false);
  const overlaps = looked.against.some((r) => r.what === 'overlap');
  const yes = (): void => {
    if (overlaps && reason.trim() === '') setMissing(true);
    else onYes(reason.trim());
  };
  return (
    <Dialog title={title} onClose={onClose}>
      <h1>{title}</h1>
      <ul className="mt-3 space-y-1">
        {looked.against.map((r) => (
          <li key={`${r.name}${r.text}`}>
            {r.name}: {r.text}
          </li>
        ))}
        {looked.late.map((text) => (
          <li key={text} className="text-missed">
            {text}
          </li>
        ))}
        {looked.told.map((customer) => (
          <li key={customer}>{customer} was told another time and must hear of it: send the day again.</li>
        ))}
      </ul>
      {overlaps && (
        <TextField
          className="mt-3"
          label="Why they are to be in two places"
          value={reason}
          onChange={setReason}
          error={isMissing ? 'Say why, or choose another time.' : undefined}
        />
      )}
      <div className="form-acts mt-4">
        <button className="act-main" onClick={yes}>
          Plan it anyway
        </button>
        <button className="act" onClick={onClose}>
          Leave it as it was
        </button>
      </div>
    </Dialog>
  );
}
