// What was the matter with a machine: in the words of its class, each one tap, or in one's own.
import { useParams } from 'react-router';
import { FINDINGS, type Finding, type Findings } from '#core/orders/index.ts';
import { Held, NotHeld, Refused, useDoing } from './doing.tsx';
import { useDraft } from './draft.ts';
import type { OnOrder } from './held.ts';
import { Asking, Typed, Words } from './typed.tsx';

const ASKS: Readonly<Record<Finding, string>> = {
  symptom: 'What it did',
  fault: 'What is broken',
  cause: 'Why',
  remedy: 'What you did',
};

function Found({ order, lineId }: { order: OnOrder; lineId: number }) {
  const { refusals, actOn } = useDoing();
  const line = order.page.lines.find((l) => l.id === lineId);
  const held = order.here.state.found.get(lineId) ?? line?.found;
  const nothing: Findings = { symptom: null, fault: null, cause: null, remedy: null };
  const [said, change, forget] = useDraft<Findings>(`found ${order.page.id} ${lineId}`, held ?? nothing);
  if (!line) return <NotHeld />;
  if (said === null) return null;
  const keep = async (): Promise<void> => {
    const found = Object.fromEntries(FINDINGS.map((f) => [f, said[f]?.trim() || null])) as Findings;
    if ((await actOn(order, { kind: 'found', lineId, ...found })) !== null) forget();
  };
  return (
    <Asking title="What was found" keep={{ text: 'Keep it', go: () => void keep() }}>
      {FINDINGS.map((f) => (
        <div key={f} className="mt-4">
          <Typed label={ASKS[f]} value={said[f] ?? ''} change={(t) => change({ ...said, [f]: t })} />
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
