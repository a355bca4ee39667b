// A row of the tree.
import { IconChevronDown, IconChevronRight } from '@tabler/icons-react';
import { type Facet, type ResolvedState, copyPlaces, objectTarget, stands } from '@variscen/core/looks';
import type { SceneNode } from '@variscen/core/scene';
import type { DragEvent, MouseEvent } from 'react';
import { MATERIAL_DRAG } from '../../../model/materialDrag.ts';
import type { TreeRow } from '../../../model/treeRows.ts';
import { count, plural } from '../../../ui/format.ts';
import { facetOr } from '../../../ui/glyphs.tsx';
import styles from './Tree.module.css';

export const ROW_PX = 26;
const INDENT_PX = 13;
export const rowId = (node: number): string => `part-${node}`;

interface Props {
  row: TreeRow;
  node: SceneNode;
  state: ResolvedState | undefined;
  /** The facet in which this variant changes it. */
  facet: Facet | undefined;
  /** Objects and lights below it. */
  below: number;
  topPx: number;
  isSelected: boolean;
  /** The last that was selected. */
  isCurrent: boolean;
  onClick: (e: MouseEvent) => void;
  onToggle: () => void;
  onMaterial: (material: string) => void;
}
export function TreeRowView(p: Props) {
  const { row, node, state, facet, below, topPx, isSelected, isCurrent, onClick, onToggle, onMaterial } = p;
  const isElsewhere = state !== undefined && node.added === true && !stands(state, node.path);
  const isHidden = isElsewhere || state?.get(objectTarget(node.path), 'object.shown') === false;
  const dropped = (e: DragEvent) => {
    const material = e.dataTransfer.getData(MATERIAL_DRAG);
    if (!material) return;
    e.preventDefault();
    onMaterial(material);
  };
  return (
    <div
      role="treeitem"
      id={rowId(row.node)}
      aria-selected={isSelected}
      aria-expanded={row.children ? row.open : undefined}
      aria-level={row.depth + 1}
      onClick={onClick}
      onDoubleClick={() => {
        if (row.children) onToggle();
      }}
      onDragOver={(e) => {
        if (e.dataTransfer.types.includes(MATERIAL_DRAG)) e.preventDefault();
      }}
      onDrop={dropped}
      className={styles.treeitem}
      data-current={isCurrent}
      data-hidden={isHidden}
      style={{ top: topPx, height: ROW_PX, paddingLeft: 8 + row.depth * INDENT_PX }}
    >
      <button
        type="button"
        tabIndex={-1}
        aria-label={row.open ? 'Fold' : 'Unfold'}
        onClick={(e) => {
          e.stopPropagation();
          onToggle();
        }}
        className={styles.open}
        disabled={!row.children}
      >
        {row.open ? <IconChevronDown size={13} /> : <IconChevronRight size={13} />}
      </button>
      <span className="ellipsis" title={node.added ? `${node.name}, added by looks` : (node.filePath ?? node.path)}>
        {node.name}
      </span>
      {facet && <i title={`Changed in this variant: ${facet}`} className={styles.mark} data-facet={facetOr(facet)} />}
      <span className={`faint ${styles.copies}`}>
        <Copies state={state} path={node.path} />
        {node.layer && <span title={`Layer “${node.layer}” of the file`}>{node.layer} </span>}
        {isElsewhere && <span title="Nothing of this variant adds it">other look </span>}
        {kindWord(node)}
        {row.children > 0 && <span className="mono"> {count(below)}</span>}
      </span>
    </div>
  );
}

function kindWord(node: SceneNode): string {
  if (node.light !== undefined) return 'light';
  return node.camera === undefined ? '' : 'camera';
}

function Copies({ state, path }: { state: ResolvedState | undefined; path: string }) {
  const copies = state ? copyPlaces(state, path).length : 0;
  if (!copies) return null;
  return (
    <span title={`${plural(copies, 'copy', 'copies')} in this variant, listed with the object`}>
      and {count(copies)} {copies === 1 ? 'copy' : 'copies'}{' '}
    </span>
  );
}
