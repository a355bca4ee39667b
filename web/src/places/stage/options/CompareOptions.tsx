// Two options of a facet as a list of differences; values are copied across, one by one, by groups, or all.
import { Modal, Select } from '@mantine/core';
import type { Option, Project } from '@variscen/contract';
import {
  type Change,
  type Compared,
  FACET_NAMES,
  type Facet,
  type SceneIndex,
  compareChanges,
} from '@variscen/core/looks';
import { IconArrowLeft, IconArrowRight, IconChevronDown, IconChevronRight } from '@tabler/icons-react';
import { useVirtualizer } from '@tanstack/react-virtual';
import { useMemo, useState } from 'react';
import { type DifferenceLine, grouped, linesOf, titleOf } from '../../../model/compareGroups.ts';
import { plural } from '../../../ui/format.ts';
import { facetOr } from '../../../ui/glyphs.tsx';
import type { ProjectSession } from '../../../session/projectSession.ts';
import { VirtualRows } from '../../../ui/VirtualRows.tsx';
import styles from './CompareOptions.module.css';

const ROW_PX = 28;

interface Props {
  project: Project;
  index: SceneIndex | undefined;
  facet: Facet;
  first: string;
  session: ProjectSession;
  onClose: () => void;
}
export function CompareOptions({ project, index, facet, first, session, onClose }: Props) {
  const options = project.options.filter((o) => o.facet === facet);
  const [ids, setIds] = useState<readonly [string, string]>([first, options.find((o) => o.id !== first)?.id ?? first]);
  const [isEqualShown, setEqualShown] = useState(false);
  const [a, b] = ids.map((id) => options.find((o) => o.id === id));
  const all = useMemo(
    () => compareChanges(index, (a?.changes ?? []) as Change[], (b?.changes ?? []) as Change[]),
    [index, a, b],
  );
  const different = all.filter((r) => !r.same);
  const equal = all.length - different.length;
  /** A value that the source leaves is left by the other too, so that both are the same afterwards. */
  const copy = (which: readonly Compared[], to: 0 | 1) => {
    const valueOf = (r: Compared) => (to === 1 ? r.a : r.b);
    const set = which.flatMap((r) => {
      const value = valueOf(r);
      return value === undefined ? [] : [{ target: r.target, property: r.property, value }];
    });
    const clear = which.filter((r) => valueOf(r) === undefined);
    void session.recorded(`option:${ids[to]}`, set, clear);
  };
  const names = [a?.name ?? '', b?.name ?? ''] as const;
  return (
    <Modal opened onClose={onClose} title={`Compare options of ${FACET_NAMES[facet]}`} size={820}>
      <div className={`${styles.columns} ${styles.pick}`} data-facet={facetOr(facet)}>
        <span className="dim">
          {different.length ? plural(different.length, 'difference') : 'No difference'}
          {equal > 0 && (
            <>
              ,{' '}
              <button type="button" className={styles.all} onClick={() => setEqualShown(!isEqualShown)}>
                {equal} the same{isEqualShown ? ' (shown)' : ''}
              </button>
            </>
          )}
        </span>
        <PickOption label="First option" options={options} value={ids[0]} onPick={(id) => setIds([id, ids[1]])} />
        <CopyArrows
          disabled={!different.length}
          labels={[`Make ${names[0]} the same as ${names[1]}`, `Make ${names[1]} the same as ${names[0]}`]}
          titles={['Copy all to the left', 'Copy all to the right']}
          onCopy={(to) => copy(different, to)}
        />
        <PickOption label="Second option" options={options} value={ids[1]} onPick={(id) => setIds([ids[0], id])} />
      </div>
      <Differences
        rows={isEqualShown ? all : different}
        names={names}
        onCopy={copy}
        empty={all.length ? 'Both record the same values.' : 'Neither records a value yet.'}
      />
    </Modal>
  );
}

interface PickProps {
  label: string;
  options: readonly Option[];
  value: string;
  onPick: (id: string) => void;
}
function PickOption({ label, options, value, onPick }: PickProps) {
  return (
    <Select
      size="xs"
      aria-label={label}
      value={value}
      data={options.map((o) => ({ value: o.id, label: o.name }))}
      allowDeselect={false}
      onChange={(id) => {
        if (id) onPick(id);
      }}
    />
  );
}

interface ArrowsProps {
  disabled?: boolean;
  /** To the left, to the right. */
  labels: readonly [string, string];
  titles?: readonly [string, string];
  onCopy: (to: 0 | 1) => void;
}
function CopyArrows({ disabled = false, labels, titles, onCopy }: ArrowsProps) {
  return (
    <span role="cell" className={styles.row}>
      {([0, 1] as const).map((to) => {
        const Arrow = to === 0 ? IconArrowLeft : IconArrowRight;
        return (
          <button
            type="button"
            key={to}
            className="tool"
            disabled={disabled}
            aria-label={labels[to]}
            title={titles?.[to]}
            onClick={() => onCopy(to)}
          >
            <Arrow size={15} />
          </button>
        );
      })}
    </span>
  );
}

interface DifferencesProps {
  rows: readonly Compared[];
  names: readonly [string, string];
  onCopy: (which: readonly Compared[], to: 0 | 1) => void;
  empty: string;
}
function Differences({ rows, names, onCopy, empty }: DifferencesProps) {
  const [box, setBox] = useState<HTMLDivElement | null>(null);
  const [open, setOpen] = useState<ReadonlySet<string>>(new Set());
  const groups = useMemo(() => grouped(rows), [rows]);
  const lines = useMemo(() => linesOf(groups, open), [groups, open]);
  const list = useVirtualizer({
    count: lines.length,
    getScrollElement: () => box,
    estimateSize: () => ROW_PX,
    overscan: 8,
  });
  const flip = (key: string) =>
    setOpen((now) => {
      const next = new Set(now);
      if (!next.delete(key)) next.add(key);
      return next;
    });
  return (
    <div ref={setBox} role="table" aria-label="Differences" className={styles.differences}>
      <VirtualRows heightPx={list.getTotalSize()}>
        {list.getVirtualItems().map((item) => (
          <Line
            key={item.key}
            line={lines[item.index]!}
            topPx={item.start}
            isOpen={open.has(lines[item.index]!.group.key)}
            names={names}
            onFlip={flip}
            onCopy={onCopy}
          />
        ))}
      </VirtualRows>
      {!lines.length && <p className="dim">{empty}</p>}
    </div>
  );
}

interface LineProps {
  line: DifferenceLine;
  topPx: number;
  isOpen: boolean;
  names: readonly [string, string];
  onFlip: (key: string) => void;
  onCopy: (which: readonly Compared[], to: 0 | 1) => void;
}
function Line({ line: { group, one }, topPx, isOpen, names: [a, b], onFlip, onCopy }: LineProps) {
  const which = one ? [one] : group.all;
  const shown = which[0]!;
  const title = one ? `${one.subject}, ${one.what.toLowerCase()}` : titleOf(group);
  return (
    <div role="row" className={`${styles.columns} ${styles.differenceRow}`} style={{ top: topPx, height: ROW_PX }}>
      <span role="cell" className={`ellipsis ${styles.title}`} data-inside={one !== undefined}>
        {which.length > 1 ? (
          <button type="button" aria-expanded={isOpen} className={styles.open} onClick={() => onFlip(group.key)}>
            {isOpen ? <IconChevronDown size={13} /> : <IconChevronRight size={13} />}
            {title}
          </button>
        ) : (
          <span title={shown.target}>{title}</span>
        )}
      </span>
      <Side text={shown.aText} set={shown.a !== undefined} />
      {shown.same ? (
        <span role="cell" />
      ) : (
        <CopyArrows
          labels={[`Copy ${title} from ${b} to ${a}`, `Copy ${title} from ${a} to ${b}`]}
          onCopy={(to) => onCopy(which, to)}
        />
      )}
      <Side text={shown.bText} set={shown.b !== undefined} />
    </div>
  );
}

function Side({ text, set }: { text: string; set: boolean }) {
  return (
    <span role="cell" className={`ellipsis mono ${set ? '' : 'faint'} ${styles.cell}`} title={text}>
      {/^#[0-9a-f]{6}$/.test(text) && <i className={styles.mark} style={{ background: text }} />}
      {text}
    </span>
  );
}
