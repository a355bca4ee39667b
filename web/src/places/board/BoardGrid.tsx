// The grid of the board. Only the rows and columns that are in sight are there, so that sixty cameras in a hundred
// variants open as fast as two in two; heads stay at its edges when it is scrolled.
import { useElementSize } from '@mantine/hooks';
import { useVirtualizer } from '@tanstack/react-virtual';
import type { Project } from '@variscen/contract';
import { type KeyboardEvent, useEffect, useRef } from 'react';
import { splitKey } from '../../model/selectedCells.ts';
import { useJudged } from '../../session/useReviews.ts';
import { isOwnKey } from '../../ui/ownKeys.ts';
import styles from './BoardGrid.module.css';
import { BoardRow, PRINT_BOX, cellElementId } from './BoardRow.tsx';
import { NewVariant } from './NewVariant.tsx';
import { VariantHead } from './VariantHead.tsx';
import type { VariantQuestion } from './VariantDialog.tsx';
import type { CellSelection } from './useCellSelection.ts';
import { useSameVariants } from './useSameVariants.ts';

const GAP_PX = 12;
/** Width of a camera's head. */
const HEAD_PX = 136;
const NEW_VARIANT_PX = 124;
/** Out of sight, and there all the same. */
const OVERSCAN = 2;
const STEPS: Readonly<Record<string, readonly [dx: number, dy: number]>> = {
  ArrowLeft: [-1, 0],
  ArrowRight: [1, 0],
  ArrowUp: [0, -1],
  ArrowDown: [0, 1],
};

interface Props {
  project: Project;
  selection: CellSelection;
  /** Width of a cell's picture. */
  size: number;
  onAsk: (variantId: string, question: VariantQuestion) => void;
  onOpen: (key: string) => void;
}
export function BoardGrid({ project, selection, size, onAsk, onOpen }: Props) {
  const { cameras, variants } = project;
  const { cells, selected, act } = selection;
  const judged = useJudged(project.id);
  const sameAs = useSameVariants(project, cells);
  const box = useRef<HTMLDivElement>(null);
  const { ref: head, height } = useElementSize<HTMLDivElement>();
  // as tall as the tallest head that was in sight: rows do not jump while the board is scrolled
  const tallest = useRef(0);
  const headHeight = (tallest.current = Math.max(tallest.current, height));
  const rows = useVirtualizer({
    count: cameras.length,
    getScrollElement: () => box.current,
    estimateSize: () => size * PRINT_BOX,
    getItemKey: (i) => cameras[i]!.id,
    gap: GAP_PX,
    overscan: OVERSCAN,
    paddingStart: headHeight + GAP_PX,
    scrollPaddingStart: headHeight + GAP_PX,
    paddingEnd: GAP_PX,
    scrollPaddingEnd: GAP_PX,
  });
  const columns = useVirtualizer({
    horizontal: true,
    count: variants.length,
    getScrollElement: () => box.current,
    estimateSize: () => size,
    getItemKey: (i) => variants[i]!.id,
    gap: GAP_PX,
    overscan: OVERSCAN,
    paddingStart: HEAD_PX + GAP_PX,
    scrollPaddingStart: HEAD_PX + GAP_PX,
    paddingEnd: NEW_VARIANT_PX + 2 * GAP_PX,
    scrollPaddingEnd: GAP_PX,
  });
  useEffect(() => {
    rows.measure();
    columns.measure();
  }, [rows, columns, size]);
  const { cursor } = selected;
  useEffect(() => {
    if (cursor === null) return;
    const { cameraId, variantId } = splitKey(cursor);
    const row = cameras.findIndex((c) => c.id === cameraId);
    const column = variants.findIndex((v) => v.id === variantId);
    if (row >= 0) rows.scrollToIndex(row);
    if (column >= 0) columns.scrollToIndex(column);
  }, [cursor]);
  const onKey = (e: KeyboardEvent) => {
    if (!isOwnKey(e)) return;
    const step = STEPS[e.key];
    if (step) act({ type: 'move', dx: step[0], dy: step[1], extend: e.shiftKey });
    else if (e.key === ' ' && cursor) act({ type: 'toggle', key: cursor });
    else if (e.key === 'Enter' && cursor) onOpen(cursor);
    else if (e.key === 'Escape') act({ type: 'none' });
    else if (e.key === 'a' && (e.ctrlKey || e.metaKey)) act({ type: 'these', keys: [...cells.keys()] });
    else return;
    e.preventDefault();
  };
  const items = columns.getVirtualItems();
  const inSight = items.map(({ index }) => ({ variant: variants[index]!, index }));
  const beforePx = (items[0]?.start ?? HEAD_PX + GAP_PX) - HEAD_PX;
  return (
    <div
      ref={box}
      role="grid"
      data-tour="board"
      aria-label="Board: arrows move, Space selects, Enter opens the stage"
      aria-multiselectable
      aria-rowcount={cameras.length + 1}
      aria-colcount={variants.length + 1}
      aria-activedescendant={cursor === null ? undefined : cellElementId(cursor)}
      tabIndex={0}
      onKeyDown={onKey}
      className={styles.grid}
    >
      <div className={styles.sheet} style={{ width: columns.getTotalSize(), height: rows.getTotalSize() }}>
        <div ref={head} role="row" aria-rowindex={1} className={styles.head} style={{ minHeight: tallest.current }}>
          <div className={styles.corner} />
          <div className={styles.columns} style={{ marginLeft: beforePx }}>
            {inSight.map(({ variant, index }) => (
              <VariantHead
                key={variant.id}
                project={project}
                variant={variant}
                columnIndex={index + 2}
                widthPx={size}
                sameAs={sameAs.get(variant.id) ?? []}
                onSelect={(add) => act({ type: 'column', id: variant.id, add })}
                onAsk={(question) => onAsk(variant.id, question)}
              />
            ))}
          </div>
          <NewVariant project={project} />
        </div>
        {rows.getVirtualItems().map(({ index, start }) => (
          <BoardRow
            key={cameras[index]!.id}
            measure={rows.measureElement}
            index={index}
            startPx={start}
            project={project}
            camera={cameras[index]!}
            columns={inSight}
            beforePx={beforePx}
            cells={cells}
            judged={judged}
            size={size}
            selected={selected}
            act={act}
            open={onOpen}
          />
        ))}
      </div>
    </div>
  );
}
