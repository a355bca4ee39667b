// Every object with its verdict and figures; only rows in sight exist. Many are pinned or left out at once.
import { Select } from '@mantine/core';
import { useVirtualizer } from '@tanstack/react-virtual';
import { type CullAsked, isLeftOut, percent as shareWords, pieceWords } from '@variscen/core/cull';
import { type KeyboardEvent, type MouseEvent, useEffect, useMemo, useRef, useState } from 'react';
import {
  CULL_SIEVES,
  type CullColumn,
  type CullOrder,
  type CullRow,
  type CullSieve,
  decidedAfter,
  inOrder,
  sifted,
} from '../../model/cullTable.ts';
import { GROUP_KINDS, type ObjectGroup } from '../../model/objectGroups.ts';
import { clicked } from '../../model/selection.ts';
import { bytes, count, plural } from '../../ui/format.ts';
import { VirtualRows } from '../../ui/VirtualRows.tsx';
import styles from './CullTable.module.css';

const ROW_PX = 30;
const HEADS: readonly { readonly by: CullColumn; readonly label: string; readonly isNumber: boolean }[] = [
  { by: 'name', label: 'Object', isNumber: false },
  { by: 'words', label: 'Verdict', isNumber: false },
  { by: 'triangles', label: 'Triangles', isNumber: true },
  { by: 'bytes', label: 'Memory', isNumber: true },
  { by: 'cost', label: 'Of the light', isNumber: true },
];
type Decision = Parameters<typeof decidedAfter>[2];

interface Props {
  readonly rows: readonly CullRow[];
  /** By which objects can be picked together. */
  readonly groups: readonly ObjectGroup[];
  readonly isWaiting: boolean;
  /** Nodes. */
  readonly selected: readonly number[];
  readonly onSelect: (nodes: readonly number[]) => void;
  readonly asked: CullAsked;
  readonly onDecide: (decided: Pick<CullAsked, 'keep' | 'leaveOut'>) => void;
}
export function CullTable({ rows, groups, isWaiting, selected, onSelect, asked, onDecide }: Props) {
  const [find, setFind] = useState('');
  const [sieve, setSieve] = useState<CullSieve>('all');
  const [order, setOrder] = useState<CullOrder>({ by: 'cost', isDown: true });
  const [groupId, setGroupId] = useState<string | null>(null);
  const group = groups.find((g) => g.id === groupId);
  const shown = useMemo(() => {
    const among = group ? rows.filter((r) => group.objects.has(r.node)) : rows;
    return inOrder(sifted(among, sieve, find), order);
  }, [rows, group, sieve, find, order]);
  const chosen = useMemo(() => {
    const isSelected = new Set(selected);
    return rows.filter((r) => isSelected.has(r.node));
  }, [rows, selected]);
  const decide = (how: Decision) => {
    if (!chosen.length) return;
    const paths = chosen.map((r) => r.path);
    onDecide(decidedAfter(asked, paths, how));
  };
  const sortBy = (by: CullColumn) => setOrder((o) => ({ by, isDown: o.by === by ? !o.isDown : by !== 'name' }));
  return (
    <section className={styles.section} aria-label="Objects">
      <div className={styles.tools}>
        <input
          value={find}
          onChange={(e) => setFind(e.currentTarget.value)}
          placeholder={`Find among ${plural(rows.length, 'object')}`}
          aria-label="Find an object or a verdict"
          className={styles.find}
        />
        <Only groups={groups} value={group?.id ?? null} onChange={setGroupId} />
        <div role="group" aria-label="Which are shown" className={styles.sieves}>
          {CULL_SIEVES.map((s) => (
            <button
              key={s}
              type="button"
              className={`quiet ${styles.sieve}`}
              aria-pressed={s === sieve}
              onClick={() => setSieve(s)}
            >
              {s}
            </button>
          ))}
        </div>
      </div>
      <div className={styles.decide}>
        <span className="dim" role="status">
          {chosen.length ? `${plural(chosen.length, 'object')} selected` : `${count(shown.length)} shown`}
        </span>
        <Decide name="Select all" keys="Ctrl A" of={shown.length} onClick={() => onSelect(shown.map((r) => r.node))} />
        <Decide name="Pin" keys="P" of={chosen.length} onClick={() => decide('pin')} />
        <Decide name="Leave out" keys="L" of={chosen.length} onClick={() => decide('leave out')} />
        <Decide
          name="Let the measurement decide"
          keys="M"
          of={chosen.filter((r) => r.decided).length}
          onClick={() => decide('neither')}
        />
      </div>
      <Rows
        shown={shown}
        selected={selected}
        order={order}
        empty={emptyWords(rows.length, isWaiting)}
        onSort={sortBy}
        onSelect={onSelect}
        onDecide={decide}
      />
    </section>
  );
}
/** Of how many groups of each kind names are offered at once; what is typed finds the others. */
const OFFERED = 60;
interface OnlyProps {
  readonly groups: readonly ObjectGroup[];
  readonly value: string | null;
  readonly onChange: (id: string | null) => void;
}
function Only({ groups, value, onChange }: OnlyProps) {
  const data = useMemo(
    () =>
      GROUP_KINDS.map((kind) => ({
        group: kind,
        items: groups.filter((g) => g.kind === kind).map((g) => ({ value: g.id, label: g.name })),
      })).filter(({ items }) => items.length > 0),
    [groups],
  );
  return (
    <Select
      size="xs"
      aria-label="Only of a selection, a material or a group"
      placeholder="Of any selection, material, group"
      className={styles.only}
      searchable
      clearable
      limit={OFFERED}
      comboboxProps={{ width: 360, position: 'bottom-start' }}
      nothingFoundMessage="None is called so"
      data={data}
      value={value}
      onChange={onChange}
    />
  );
}

function emptyWords(rows: number, isWaiting: boolean): string {
  if (isWaiting) return 'Working it out …';
  return rows ? 'Nothing passes the filter.' : 'There are no objects in this look.';
}

interface DecideProps {
  readonly name: string;
  readonly keys: string;
  readonly of: number;
  readonly onClick: () => void;
}
function Decide({ name, keys, of, onClick }: DecideProps) {
  return (
    <button type="button" className={`quiet ${styles.sieve}`} disabled={!of} onClick={onClick}>
      {name} <kbd>{keys}</kbd>
    </button>
  );
}

interface RowsProps {
  readonly shown: readonly CullRow[];
  readonly selected: readonly number[];
  readonly order: CullOrder;
  readonly empty: string;
  readonly onSort: (by: CullColumn) => void;
  readonly onSelect: (nodes: readonly number[]) => void;
  readonly onDecide: (how: Decision) => void;
}
function Rows({ shown, selected, order, empty, onSort, onSelect, onDecide }: RowsProps) {
  const box = useRef<HTMLDivElement>(null);
  const anchor = useRef<number>(undefined);
  const virtual = useVirtualizer({
    count: shown.length,
    getScrollElement: () => box.current,
    estimateSize: () => ROW_PX,
    overscan: 12,
  });
  const isSelected = useMemo(() => new Set(selected), [selected]);
  const last = selected.at(-1);
  const place = last === undefined ? -1 : shown.findIndex((r) => r.node === last);
  // what was selected elsewhere is brought into sight
  useEffect(() => {
    if (place >= 0) virtual.scrollToIndex(place);
  }, [last]);
  const pick = (node: number, how: 'alone' | 'more' | 'through') => {
    const all = shown.map((r) => r.node);
    const next = clicked(all, selected, anchor.current ?? last, node, how);
    if (how !== 'through') anchor.current = node;
    onSelect(how === 'through' ? [...next.filter((n) => n !== node), node] : next);
  };
  const onClick = (e: MouseEvent, node: number) => {
    const one = e.ctrlKey || e.metaKey ? 'more' : 'alone';
    pick(node, e.shiftKey ? 'through' : one);
  };
  const onKey = (e: KeyboardEvent) => {
    const step = (to: number) => {
      const row = shown[Math.min(shown.length - 1, Math.max(0, to))];
      if (row) pick(row.node, e.shiftKey ? 'through' : 'alone');
    };
    const page = Math.max(1, Math.floor((box.current?.clientHeight ?? 0) / ROW_PX) - 1);
    const isCommand = e.ctrlKey || e.metaKey;
    const steps: Readonly<Record<string, number>> = {
      ArrowDown: place + 1,
      ArrowUp: place - 1,
      PageDown: place + page,
      PageUp: place - page,
      Home: 0,
      End: shown.length - 1,
    };
    const to = steps[e.key];
    if (to !== undefined) step(to);
    else if (isCommand && e.key === 'a') onSelect(shown.map((r) => r.node));
    else if (isCommand) return;
    else if (e.key === 'Escape') onSelect([]);
    else if (e.key === 'p') onDecide('pin');
    else if (e.key === 'l') onDecide('leave out');
    else if (e.key === 'm') onDecide('neither');
    else return;
    e.preventDefault();
  };
  return (
    <div
      ref={box}
      role="grid"
      aria-label="Objects and verdicts"
      aria-rowcount={shown.length + 1}
      aria-multiselectable
      aria-activedescendant={place >= 0 ? rowId(last!) : undefined}
      tabIndex={0}
      className={styles.rows}
      onKeyDown={onKey}
    >
      <div role="row" aria-rowindex={1} className={`${styles.row} ${styles.head}`}>
        {HEADS.map(({ by, label, isNumber }) => (
          <button
            key={by}
            type="button"
            role="columnheader"
            aria-sort={sortOf(order, by)}
            className={isNumber ? styles.number : ''}
            onClick={() => onSort(by)}
          >
            {label}
            {order.by === by && <span aria-hidden>{order.isDown ? ' ↓' : ' ↑'}</span>}
          </button>
        ))}
      </div>
      {!shown.length && <p className={`dim ${styles.empty}`}>{empty}</p>}
      <VirtualRows heightPx={virtual.getTotalSize()}>
        {virtual.getVirtualItems().map(({ index, start }) => (
          <Row
            key={shown[index]!.node}
            row={shown[index]!}
            place={index}
            startPx={start}
            isSelected={isSelected.has(shown[index]!.node)}
            onClick={onClick}
          />
        ))}
      </VirtualRows>
    </div>
  );
}
const rowId = (node: number): string => `cull-row-${node}`;
function sortOf(order: CullOrder, by: CullColumn): 'ascending' | 'descending' | 'none' {
  if (order.by !== by) return 'none';
  return order.isDown ? 'descending' : 'ascending';
}

interface RowProps {
  readonly row: CullRow;
  readonly place: number;
  readonly startPx: number;
  readonly isSelected: boolean;
  readonly onClick: (e: MouseEvent, node: number) => void;
}
function Row({ row, place, startPx, isSelected, onClick }: RowProps) {
  return (
    <div
      role="row"
      id={rowId(row.node)}
      aria-rowindex={place + 2}
      aria-selected={isSelected}
      data-left-out={isLeftOut(row.verdict)}
      className={styles.row}
      style={{ top: startPx, height: ROW_PX }}
      onClick={(e) => onClick(e, row.node)}
    >
      <span role="gridcell" className={styles.name} title={row.path}>
        <Mark row={row} />
        <span className="ellipsis">
          {row.name} <span className="faint">{row.within}</span>
        </span>
      </span>
      <span role="gridcell" className="ellipsis" title={row.words}>
        {row.words}
      </span>
      <span role="gridcell" className={styles.number}>
        {count(row.triangles)}
      </span>
      <span role="gridcell" className={styles.number} title={wordsOfPieces(row)}>
        {row.reachedBytes !== null && <span className="faint">{bytes(row.reachedBytes)} of </span>}
        {bytes(row.bytes)}
      </span>
      <span role="gridcell" className={styles.number}>
        {row.cost === null ? '–' : shareWords(row.cost)}
      </span>
    </div>
  );
}

function wordsOfPieces({ pieces, reachedBytes, inPart }: CullRow): string | undefined {
  if (!pieces.length) return undefined;
  const left = inPart ? ` ${plural(inPart.leftOut, 'piece')} left out.` : '';
  const rest = reachedBytes === null ? '' : ' No others are loaded.';
  return `${pieceWords(pieces)}${left}${rest}`;
}

/** Loaded, left out, left out in part, or decided by hand: by shape. */
function Mark({ row }: { row: CullRow }) {
  const isOut = isLeftOut(row.verdict);
  return (
    <svg width="12" height="12" viewBox="0 0 12 12" fill="none" stroke="currentColor" strokeWidth="1.4" aria-hidden>
      <rect x="2" y="2" width="8" height="8" {...(isOut || row.inPart ? { strokeDasharray: '2 2' } : FILLED)} />
      {row.inPart && <rect x="2" y="6" width="8" height="4" stroke="none" {...FILLED} />}
      {row.decided && <path d="M6 0v12" stroke="var(--go)" strokeWidth="2" />}
    </svg>
  );
}
const FILLED = { fill: 'currentColor' } as const;
