// The keys of the house and of its rooms.
import { Dialog } from './dialog.tsx';
import type { Room } from './room.ts';

export function KeysDialog({ rooms, onClose }: { rooms: readonly Room[]; onClose: () => void }) {
  const keys = [
    ...rooms.flatMap(({ floats }) => (floats ? [[floats.key, `${floats.word} anything`] as const] : [])),
    ...rooms.flatMap(({ keys }) => (keys ?? []).map(({ key, word }) => [key, word] as const)),
    ...rooms.flatMap(({ rail }) => (rail ? [[`g ${rail.key}`, rail.word] as const] : [])),
    ['j  k', 'next and previous row'],
    ['Enter', 'open the row'],
    ['Esc', 'close what floats; from a record, back to where it was opened'],
  ];
  return (
    <Dialog title="Keys" onClose={onClose}>
      <h1>Keys</h1>
      <dl className="mt-3 grid grid-cols-[6rem_1fr] gap-y-1">
        {keys.map(([key, text]) => (
          <div key={key} className="contents">
            <dt className="serial whitespace-pre">{key}</dt>
            <dd>{text}</dd>
          </div>
        ))}
      </dl>
      <button className="act mt-4" onClick={onClose}>
        Close
      </button>
    </Dialog>
  );
}
