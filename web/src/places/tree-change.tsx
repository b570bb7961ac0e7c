// Moving a place or merging it into another: what it changes is shown before it is done.
import { useEffect, useState } from 'react';
import type { UseFormSetError } from 'react-hook-form';
import type { TreeEffect, TreeNode } from '#api/places.ts';
import type { Choice } from '../parts/choose.tsx';
import type { Problem } from '#api/shapes.ts';
import { plural, sayDate } from '../parts/words.ts';
import { useWireForm, Wire, WireForm } from '../parts/wire-form.tsx';
import { Dialog } from '../shell/dialog.tsx';
import { ChooseAmongPlaces, namedPlaces } from './choose.tsx';
import { placesApi } from './endpoints.ts';

function Effect({ effect }: { effect: TreeEffect }) {
  const more = (shown: number, total: number): string => (total > shown ? ` and ${total - shown} more` : '');
  return (
    <div className="max-h-[45vh] overflow-y-auto border-y border-hairline py-2" aria-live="polite">
      <p>
        {plural(effect.places, 'place')} and {plural(effect.assets, 'asset')} go along.
      </p>
      {effect.changesTotal + effect.coversTotal + effect.duesTotal === 0 && (
        <p className="quiet">Address, time zone, calendar, cover and due dates stay as they are.</p>
      )}
      {effect.changesTotal > 0 && (
        <table className="dense mt-2">
          <thead>
            <tr>
              <th>Place</th>
              <th>Inherits</th>
              <th>Now</th>
              <th>Then</th>
            </tr>
          </thead>
          <tbody>
            {effect.changes.map((c) => (
              <tr key={c.place + c.field}>
                <td>{c.place.replaceAll(' > ', ' · ')}</td>
                <td>{c.field}</td>
                <td>{c.before ?? 'none'}</td>
                <td className="font-semibold">{c.after ?? '✕ none'}</td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
      {effect.coversTotal > 0 && (
        <>
          <h2 className="mt-2">
            Cover changes for {plural(effect.coversTotal, 'asset')}
            {more(effect.covers.length, effect.coversTotal)}
          </h2>
          {effect.covers.map((c) => (
            <p key={c.tag}>
              <span className="serial">{c.tag}</span> {c.before} → <strong className="font-semibold">{c.after}</strong>
            </p>
          ))}
        </>
      )}
      {effect.duesTotal > 0 && (
        <>
          <h2 className="mt-2">
            Next due dates move for {plural(effect.duesTotal, 'asset')}
            {more(effect.dues.length, effect.duesTotal)}
          </h2>
          {effect.dues.map((d) => (
            <p key={d.tag}>
              <span className="serial">{d.tag}</span> {d.before ? sayDate(d.before) : 'none'} →{' '}
              <strong className="font-semibold">{d.after ? sayDate(d.after) : 'none'}</strong>{' '}
              <span className="quiet">{d.reason}</span>
            </p>
          ))}
        </>
      )}
    </div>
  );
}

const fullNameOf = (nodes: readonly TreeNode[], node: TreeNode): string => {
  const above = nodes.find((n) => n.id === node.parentId);
  return above ? `${fullNameOf(nodes, above)} · ${node.name}` : node.name;
};

/** Under no other place. */
const TOP: Choice = { id: 0, name: 'the top: a site of its own' };

type Typed = { target: number | null };

/** What would change, asked again whenever another target is chosen; a refusal is said at the target. */
function useEffectOf(
  kind: 'move' | 'merge',
  { id: nodeId, version }: TreeNode,
  target: Choice | null,
  setError: UseFormSetError<Typed>,
) {
  const [previewMove] = placesApi.usePreviewMoveMutation();
  const [previewMerge] = placesApi.usePreviewMergeMutation();
  const [effect, setEffect] = useState<TreeEffect | null>(null);
  useEffect(() => {
    let isLatest = true;
    setEffect(null);
    if (target === null || (kind === 'merge' && target.id === TOP.id)) return;
    const id = target.id === TOP.id ? null : target.id;
    const params = { id: String(nodeId) };
    const asked =
      kind === 'move'
        ? previewMove({ params, body: { parentId: id, version } })
        : previewMerge({ params, body: { into: id as number, version } });
    void asked.then(({ data, error }) => {
      if (!isLatest) return;
      if (error) setError('target', { type: 'refused', message: (error as Problem).detail });
      else setEffect(data);
    });
    return () => {
      isLatest = false;
    };
  }, [kind, nodeId, version, target, setError, previewMove, previewMerge]);
  return effect;
}

/** The places a place may go under or into: everything but itself and what is below it. */
function placesOutside(node: TreeNode, nodes: readonly TreeNode[]): Choice[] {
  const below = new Set<number>([node.id]);
  for (const n of [...nodes].sort((a, b) => fullNameOf(nodes, a).length - fullNameOf(nodes, b).length))
    if (n.parentId !== null && below.has(n.parentId)) below.add(n.id);
  return namedPlaces(nodes).filter((n) => !below.has(n.id));
}

export function TreeChange({
  kind,
  node,
  nodes,
  to,
  onClose,
}: {
  kind: 'move' | 'merge';
  node: TreeNode;
  nodes: readonly TreeNode[];
  to: number | null | undefined;
  onClose: () => void;
}) {
  const [target, setTarget] = useState<Choice | null>(() =>
    to === undefined ? null : to === null ? TOP : (namedPlaces(nodes).find((n) => n.id === to) ?? null),
  );
  const [move] = placesApi.useMoveLocationMutation();
  const [merge] = placesApi.useMergeLocationMutation();
  const form = useWireForm<Typed>({}, { target: target?.id ?? null });
  const effect = useEffectOf(kind, node, target, form.setError);
  const params = { id: String(node.id) };
  const title = kind === 'move' ? `Move ${node.name}` : `Merge ${node.name} into another place`;
  const targetName = target?.id === TOP.id ? 'the top' : nodes.find((n) => n.id === target?.id)?.name;
  return (
    <Dialog title={title} onClose={onClose} wide>
      <WireForm<Typed, unknown>
        form={form}
        name={title}
        save={kind === 'move' ? `Move to ${targetName ?? '…'}` : `Merge into ${targetName ?? '…'}`}
        send={({ target: id }, seen) => {
          const version = seen ?? node.version;
          return kind === 'move'
            ? move({ params, body: { parentId: id === TOP.id ? null : id, version } })
            : merge({ params, body: { into: id ?? NaN, version } });
        }}
        onDone={onClose}
        onCancel={onClose}
        disabled={!effect}
      >
        <h1>{title}</h1>
        <Wire<number | null> name="target">
          {({ change, error }) => (
            <ChooseAmongPlaces
              label={kind === 'move' ? 'Under' : 'Into'}
              places={[...(kind === 'move' ? [TOP] : []), ...placesOutside(node, nodes)]}
              chosen={target}
              onChoose={(place) => {
                form.clearErrors();
                setTarget(place);
                change(place?.id ?? null);
              }}
              error={error}
            />
          )}
        </Wire>
        {effect && <Effect effect={effect} />}
      </WireForm>
    </Dialog>
  );
}
