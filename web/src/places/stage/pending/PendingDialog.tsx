// All that is pending in the project, wherever it would go: selected ones are kept, moved or discarded.
import { Checkbox, Modal, Select } from '@mantine/core';
import type { Project } from '@variscen/contract';
import { type Change, FACET_NAMES, type SceneIndex, changeText, keyOf, propertyOf } from '@variscen/core/looks';
import { useVirtualizer } from '@tanstack/react-virtual';
import { useMemo, useState } from 'react';
import { plural } from '../../../ui/format.ts';
import { FacetGlyph, facetOr } from '../../../ui/glyphs.tsx';
import { PendingValue } from './PendingValue.tsx';
import { type Destination, destinationLabel, fits } from '../../../model/destinations.ts';
import { type ProjectSession } from '../../../session/projectSession.ts';
import { VirtualRows } from '../../../ui/VirtualRows.tsx';
import styles from './PendingDialog.module.css';

const ROW_PX = 26;
type Line =
  | { readonly kind: 'head'; readonly destination: string; readonly changes: readonly Change[] }
  | { readonly kind: 'change'; readonly destination: string; readonly change: Change };
const idOf = (destination: string, c: Change): string => `${destination} ${keyOf(c.target, c.property)}`;

export function PendingDialog({
  project,
  index,
  session,
  onClose,
}: {
  project: Project;
  index: SceneIndex | undefined;
  session: ProjectSession;
  onClose: () => void;
}) {
  const [selected, setSelected] = useState<ReadonlySet<string>>(new Set());
  const [box, setBox] = useState<HTMLDivElement | null>(null);
  const lines = useMemo(
    (): Line[] =>
      project.pending.flatMap(({ destination, changes }): Line[] => [
        { kind: 'head', destination, changes: changes as Change[] },
        ...(changes as Change[]).map((change) => ({ kind: 'change' as const, destination, change })),
      ]),
    [project.pending],
  );
  const list = useVirtualizer({
    count: lines.length,
    getScrollElement: () => box,
    estimateSize: () => ROW_PX,
    overscan: 8,
  });
  const picked = project.pending
    .map((p) => ({
      destination: p.destination,
      changes: (p.changes as Change[]).filter((c) => selected.has(idOf(p.destination, c))),
    }))
    .filter((p) => p.changes.length);
  const count = picked.reduce((n, p) => n + p.changes.length, 0);
  const facets = new Set(picked.flatMap((p) => p.changes.map((c) => propertyOf(c.property)?.facet)));
  const targets: Destination[] = [
    { id: 'base', label: 'the base', facet: undefined },
    ...project.options.map((o) => ({
      id: `option:${o.id}`,
      label: `${FACET_NAMES[o.facet]}: ${o.name}`,
      facet: o.facet,
    })),
    ...project.cameras.map((c) => ({ id: `camera:${c.id}`, label: `${c.name} only`, facet: undefined })),
  ].filter((d) => picked.every((p) => p.changes.every((c) => fits(c, d))));
  const each = async (work: (destination: string, changes: readonly Change[]) => Promise<unknown>) => {
    for (const p of picked) await work(p.destination, p.changes);
    setSelected(new Set());
  };
  const set = (ids: readonly string[], on: boolean) =>
    setSelected((s) => {
      const n = new Set(s);
      for (const id of ids)
        if (on) n.add(id);
        else n.delete(id);
      return n;
    });
  return (
    <Modal opened onClose={onClose} title="Pending edits of the project" size={640}>
      {lines.length === 0 && <p className="dim">Nothing is pending any more.</p>}
      <div ref={setBox} className={styles.box}>
        <VirtualRows heightPx={list.getTotalSize()}>
          {list.getVirtualItems().map((item) => {
            const line = lines[item.index]!;
            if (line.kind === 'head') {
              const ids = line.changes.map((c) => idOf(line.destination, c));
              const on = ids.filter((x) => selected.has(x)).length;
              const o = project.options.find((x) => `option:${x.id}` === line.destination);
              return (
                <div
                  key={item.key}
                  className={styles.checkboxFrame}
                  data-facet={facetOr(o?.facet ?? null)}
                  style={{ top: item.start, height: ROW_PX }}
                >
                  <Checkbox
                    size="xs"
                    aria-label={`All in ${destinationLabel(project, line.destination)}`}
                    checked={on === ids.length}
                    indeterminate={on > 0 && on < ids.length}
                    onChange={(e) => set(ids, e.currentTarget.checked)}
                  />
                  <b className={`ellipsis ${styles.destinationLabel}`}>{destinationLabel(project, line.destination)}</b>
                  <span className="dim">{plural(ids.length, 'edit')}</span>
                </div>
              );
            }
            const { change: c } = line;
            const id = idOf(line.destination, c);
            const facet = propertyOf(c.property)?.facet;
            return (
              <div key={item.key} className={styles.checkboxFrame2} style={{ top: item.start, height: ROW_PX }}>
                <Checkbox
                  size="xs"
                  aria-label={`${changeText(c, index)} in ${destinationLabel(project, line.destination)}`}
                  checked={selected.has(id)}
                  onChange={(e) => set([id], e.currentTarget.checked)}
                />
                <span className={styles.facet} data-facet={facetOr(facet ?? null)}>
                  {facet && <FacetGlyph facet={facet} size={11} />}
                </span>
                <span className="ellipsis" title={c.target}>
                  {changeText(c, index)}
                </span>
                <PendingValue project={project} index={index} destination={line.destination} change={c} />
              </div>
            );
          })}
        </VirtualRows>
      </div>
      <div className={styles.selectFrame}>
        <button
          type="button"
          className={`go ${styles.go}`}
          disabled={!count}
          onClick={() => void each((d, only) => session.keep(d, { only }))}
        >
          Keep {plural(count, 'change')}
        </button>
        <Select
          size="xs"
          className={styles.moveTo}
          aria-label="Move to"
          placeholder={movePlaceholder(count, targets.length, [...facets].length)}
          disabled={!count}
          searchable
          value={null}
          data={targets.map((t) => ({ value: t.id, label: t.label }))}
          onChange={(to) => {
            if (to) void each((d, only) => (d === to ? Promise.resolve() : session.move(d, to, only)));
          }}
        />
        <button
          type="button"
          className={`quiet ${styles.go}`}
          disabled={!count}
          onClick={() =>
            void each((d, only) => {
              session.discard(d, only);
              return session.settled();
            })
          }
        >
          Discard
        </button>
      </div>
    </Modal>
  );
}

function movePlaceholder(count: number, targets: number, facets: number): string {
  if (!count) return 'Select edits first';
  return targets
    ? `Move ${plural(count, 'change')} to …`
    : `No destination holds ${facets} facets but the base and cameras`;
}
