// What was the matter with a machine: in the words of its class, each one tap, or in one's own.
import { useParams, useSearchParams } from 'react-router';
import { FINDINGS, type Finding, type Findings } from '#core/orders/index.ts';
import { Held, NotHeld, Refused, useDoing } from './doing.tsx';
import { useDraft } from './draft.ts';
import { useHeld, type OnOrder } from './held.ts';
import { Asking, Typed, Words } from './typed.tsx';

const ASKS: Readonly<Record<Finding, string>> = {
  symptom: 'What it did',
  fault: 'What is broken',
  cause: 'Why',
  remedy: 'What you did',
};

const NOTHING: Findings = { symptom: null, fault: null, cause: null, remedy: null };

/** What is typed, and what the phone held of it when that was begun: said meanwhile by the office, it is told apart. */
type Draft = { readonly was: Findings; readonly said: Findings };

/** What was said and not taken, where it is said anew. */
function useRefused(): { readonly deed: string; readonly said: Findings } | null {
  const [query] = useSearchParams();
  const { queue } = useHeld();
  const deed = query.get('again');
  const body = queue.find((w) => w.act.deed === deed)?.act.body;
  return deed !== null && body?.kind === 'order' && body.act.kind === 'found' ? { deed, said: body.act } : null;
}

function Found({ order, lineId }: { order: OnOrder; lineId: number }) {
  const { refusals, actOn } = useDoing();
  const line = order.page.lines.find((l) => l.id === lineId);
  const held = order.here.state.found.get(lineId) ?? line?.found ?? NOTHING;
  const again = useRefused();
  const key = `findings ${order.page.id} ${lineId}${again ? ` ${again.deed}` : ''}`;
  const [draft, keepDraft, forget] = useDraft<Draft>(key, { was: held, said: again?.said ?? held });
  if (!line) return <NotHeld />;
  if (draft === null) return null;
  const { was, said } = draft;
  const change = (next: Findings): void => keepDraft({ was, said: next });
  const keep = async (): Promise<void> => {
    const found = Object.fromEntries(FINDINGS.map((f) => [f, said[f]?.trim() || null])) as Findings;
    const over = { was, ...(again && { deed: again.deed }) };
    if ((await actOn(order, { kind: 'found', lineId, ...found }, over)) !== null) forget();
  };
  return (
    <Asking title="What was found" keep={{ text: 'Keep it', go: () => void keep() }}>
      {FINDINGS.map((f) => (
        <div key={f} className="mt-4">
          <Typed label={ASKS[f]} value={said[f] ?? ''} change={(t) => change({ ...said, [f]: t })}>
            {again && held[f] !== null && held[f] !== said[f] && (
              <p className="text-short mt-1">The office has “{held[f]}”</p>
            )}
          </Typed>
          <Words
            label={`Words of the class for the ${f}`}
            of={line.words[f]}
            say={(w) => w}
            isPressed={(w) => said[f] === w}
            press={(w) => change({ ...said, [f]: said[f] === w ? null : w })}
          />
        </div>
      ))}
      <Refused refusals={refusals} />
    </Asking>
  );
}

export function FoundPage() {
  const { line } = useParams();
  return <Held show={(order) => <Found order={order} lineId={Number(line)} />} />;
}
