// What each thing of the options is found as here; what is not, or is in doubt, is told by hand.
import { Select } from '@mantine/core';
import { useVirtualizer } from '@tanstack/react-virtual';
import type { LooksMatchAnswer } from '@variscen/contract';
import { type SceneIndex, isSingle, parseTarget } from '@variscen/core/looks';
import { useMemo, useState } from 'react';
import { VirtualRows } from '../../ui/VirtualRows.tsx';
import styles from './BringLooks.module.css';

const ROW_PX = 32;
const HOW = { path: 'the same', name: 'by name', material: 'by its material', hand: 'by hand', single: '' } as const;
const LEAVE = 'leave';
/** Listed at once of those that a search finds. */
const MOST_CHOICES = 200;

type Found = LooksMatchAnswer['things'][number];
/** By target what it is here; null: nothing, it is left. */
export type ByHand = Readonly<Record<string, string | null>>;
type Kind = 'object' | 'light' | 'material';

interface Props {
  things: readonly Found[];
  /** Those that nobody has to look at, too. */
  isAllShown: boolean;
  scene: SceneIndex | undefined;
  byHand: ByHand;
  onHand: (target: string, to: string | null) => void;
}
export function FoundTable({ things, isAllShown, scene, byHand, onHand }: Props) {
  const [box, setBox] = useState<HTMLDivElement | null>(null);
  const [open, setOpen] = useState<string | null>(null);
  const shown = useMemo(() => toLookAt(things, isAllShown), [things, isAllShown]);
  const choices = useMemo(() => scene && choicesOf(scene), [scene]);
  const list = useVirtualizer({
    count: shown.length,
    getScrollElement: () => box,
    estimateSize: () => ROW_PX,
    overscan: 6,
  });
  return (
    <div ref={setBox} role="table" aria-label="What is found" className={styles.whatIsFound}>
      <VirtualRows heightPx={list.getTotalSize()}>
        {list.getVirtualItems().map((item) => {
          const thing = shown[item.index]!;
          const kind = parseTarget(thing.target)?.kind;
          const others = open === thing.target && isKind(kind) ? (choices?.[kind] ?? []) : [];
          return (
            <div role="row" key={item.key} className={styles.foundRow} style={{ top: item.start, height: ROW_PX }}>
              <Name thing={thing} kind={kind} />
              {isSingle(kind) ? (
                <span role="cell" className="dim">
                  the whole scene
                </span>
              ) : (
                <PickTarget
                  thing={thing}
                  others={others}
                  isLeft={byHand[thing.target] === null}
                  onOpen={() => setOpen(thing.target)}
                  onPick={(to) => onHand(thing.target, to)}
                />
              )}
              <span role="cell" className={`${thing.to === null ? '' : 'faint'} ${styles.cell}`}>
                {thing.to === null
                  ? lostText(byHand[thing.target] === null, thing.candidates.length)
                  : thing.how && HOW[thing.how]}
              </span>
            </div>
          );
        })}
      </VirtualRows>
      {!shown.length && <p className="dim">Everything is here under the same name.</p>}
    </div>
  );
}

/** What is not found stands first. */
function toLookAt(things: readonly Found[], isAllShown: boolean): Found[] {
  const isInDoubt = (t: Found) => t.to === null || t.how === 'name' || t.how === 'material' || t.how === 'hand';
  return things.filter((t) => isAllShown || isInDoubt(t)).sort((a, b) => Number(a.to !== null) - Number(b.to !== null));
}
const isKind = (kind: string | undefined): kind is Kind => kind === 'object' || kind === 'light' || kind === 'material';
function choicesOf({ document: { nodes, materials } }: SceneIndex): Readonly<Record<Kind, string[]>> {
  return {
    object: nodes.filter((n) => n.parts || n.light === undefined).map((n) => `object:${n.path}`),
    light: nodes.filter((n) => n.light !== undefined).map((n) => `light:${n.path}`),
    material: materials.map((x) => `material:${x.name}`),
  };
}
const nameOf = (target: string): string => target.slice(target.indexOf(':') + 1);

function Name({ thing, kind }: { thing: Found; kind: string | undefined }) {
  const isPath = kind === 'object' || kind === 'light';
  return (
    <span role="cell" className="ellipsis" title={nameOf(thing.target)}>
      {isPath ? nameOf(thing.target).split('/').slice(-2).join(' / ') : thing.label}{' '}
      <span className="faint">
        {kind} · {thing.changes}
      </span>
    </span>
  );
}

interface PickProps {
  thing: Found;
  /** Further things of its kind. */
  others: readonly string[];
  isLeft: boolean;
  onOpen: () => void;
  onPick: (to: string | null) => void;
}
function PickTarget({ thing, others, isLeft, onOpen, onPick }: PickProps) {
  const likely = [...new Set([...(thing.to ? [thing.to] : []), ...thing.candidates])];
  const all = [...likely, ...others.filter((x) => !likely.includes(x))];
  return (
    <Select
      size="xs"
      role="cell"
      aria-label={`What ${thing.label} is here`}
      placeholder="not found"
      value={isLeft ? LEAVE : thing.to}
      data={[{ value: LEAVE, label: 'Nothing: leave it' }, ...all.map((value) => ({ value, label: nameOf(value) }))]}
      searchable
      limit={MOST_CHOICES}
      onDropdownOpen={onOpen}
      allowDeselect={false}
      nothingFoundMessage="Nothing of that name"
      onChange={(v) => {
        if (v !== null) onPick(v === LEAVE ? null : v);
      }}
    />
  );
}

function lostText(isLeft: boolean, candidates: number): string {
  if (isLeft) return 'left';
  return candidates ? `${candidates} could be` : 'not found';
}
