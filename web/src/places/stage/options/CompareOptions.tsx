// Two options of a facet as a list of differences; values are copied across, one by one or all.
import { Modal, Select } from '@mantine/core';
import type { Project } from '@variscen/contract';
import {
  type Change,
  type Compared,
  FACET_NAMES,
  type Facet,
  type SceneIndex,
  compareChanges,
} from '@variscen/core/looks';
import { IconArrowLeft, IconArrowRight } from '@tabler/icons-react';
import { useVirtualizer } from '@tanstack/react-virtual';
import { useMemo, useState } from 'react';
import { plural } from '../../../ui/format.ts';
import { facetOr } from '../../../ui/glyphs.tsx';
import { type ProjectSession } from '../../../session/projectSession.ts';
import styles from './CompareOptions.module.css';

const ROW_PX = 28;
const COLUMNS = 'minmax(0, 1.3fr) minmax(0, 1fr) 52px minmax(0, 1fr)';

export function CompareOptions({
  project,
  index,
  facet,
  first,
  session,
  onClose,
}: {
  project: Project;
  index: SceneIndex | undefined;
  facet: Facet;
  first: string;
  session: ProjectSession;
  onClose: () => void;
}) {
  const options = project.options.filter((o) => o.facet === facet);
  const [ids, setIds] = useState<readonly [string, string]>([first, options.find((o) => o.id !== first)?.id ?? first]);
  const [equal, setEqual] = useState(false);
  const [box, setBox] = useState<HTMLDivElement | null>(null);
  const [a, b] = ids.map((id) => options.find((o) => o.id === id));
  const all = useMemo(
    () => compareChanges(index, (a?.changes ?? []) as Change[], (b?.changes ?? []) as Change[]),
    [index, a, b],
  );
  const rows = equal ? all : all.filter((r) => !r.same);
  const different = all.filter((r) => !r.same);
  const list = useVirtualizer({
    count: rows.length,
    getScrollElement: () => box,
    estimateSize: () => ROW_PX,
    overscan: 8,
  });
  /** A value that the source leaves is left by the other too, so that both are the same afterwards. */
  const copy = (which: readonly Compared[], to: 0 | 1) => {
    const value = (r: Compared) => (to === 1 ? r.a : r.b);
    void session.recorded(
      `option:${ids[to]}`,
      which.flatMap((r) => {
        const v = value(r);
        return v === undefined ? [] : [{ target: r.target, property: r.property, value: v }];
      }),
      which.filter((r) => value(r) === undefined),
    );
  };
  const pick = (i: 0 | 1) => (
    <Select
      size="xs"
      aria-label={i === 0 ? 'First option' : 'Second option'}
      value={ids[i]}
      data={options.map((o) => ({ value: o.id, label: o.name }))}
      allowDeselect={false}
      onChange={(v) => {
        if (v) setIds(i === 0 ? [v, ids[1]] : [ids[0], v]);
      }}
    />
  );
  return (
    <Modal opened onClose={onClose} title={`Compare options of ${FACET_NAMES[facet]}`} size={820}>
      <div className={styles.pick} data-facet={facetOr(facet)} style={{ gridTemplateColumns: COLUMNS }}>
        <span className="dim">
          {different.length ? plural(different.length, 'difference') : 'No difference'}
          {all.length > different.length && (
            <>
              ,{' '}
              <button type="button" className={styles.all} onClick={() => setEqual(!equal)}>
                {all.length - different.length} the same{equal ? ' (shown)' : ''}
              </button>
            </>
          )}
        </span>
        {pick(0)}
        <span className={styles.row}>
          <button
            type="button"
            className="tool"
            disabled={!different.length}
            aria-label={`Make ${a?.name ?? ''} the same as ${b?.name ?? ''}`}
            title="Copy all to the left"
            onClick={() => copy(different, 0)}
          >
            <IconArrowLeft size={16} />
          </button>
          <button
            type="button"
            className="tool"
            disabled={!different.length}
            aria-label={`Make ${b?.name ?? ''} the same as ${a?.name ?? ''}`}
            title="Copy all to the right"
            onClick={() => copy(different, 1)}
          >
            <IconArrowRight size={16} />
          </button>
        </span>
        {pick(1)}
      </div>
      <div ref={setBox} role="table" aria-label="Differences" className={styles.differences}>
        <div className={styles.rows} style={{ height: list.getTotalSize() }}>
          {list.getVirtualItems().map((item) => {
            const r = rows[item.index]!;
            const name = `${r.subject}, ${r.what.toLowerCase()}`;
            return (
              <div
                role="row"
                key={item.key}
                className={styles.differenceRow}
                style={{ top: item.start, height: ROW_PX, gridTemplateColumns: COLUMNS }}
              >
                <span role="cell" className="ellipsis" title={r.target}>
                  {name}
                </span>
                <Side text={r.aText} set={r.a !== undefined} />
                <span role="cell" className={styles.row}>
                  {!r.same && (
                    <>
                      <button
                        type="button"
                        className="tool"
                        aria-label={`Copy ${name} from ${b?.name ?? ''} to ${a?.name ?? ''}`}
                        onClick={() => copy([r], 0)}
                      >
                        <IconArrowLeft size={14} />
                      </button>
                      <button
                        type="button"
                        className="tool"
                        aria-label={`Copy ${name} from ${a?.name ?? ''} to ${b?.name ?? ''}`}
                        onClick={() => copy([r], 1)}
                      >
                        <IconArrowRight size={14} />
                      </button>
                    </>
                  )}
                </span>
                <Side text={r.bText} set={r.b !== undefined} />
              </div>
            );
          })}
        </div>
        {!rows.length && (
          <p className="dim">{all.length ? 'Both record the same values.' : 'Neither records a value yet.'}</p>
        )}
      </div>
    </Modal>
  );
}
const Side = ({ text, set }: { text: string; set: boolean }) => (
  <span role="cell" className={`${`ellipsis mono ${set ? '' : 'faint'}`} ${styles.cell}`} title={text}>
    {/^#[0-9a-f]{6}$/.test(text) && <i className={styles.mark} style={{ background: text }} />}
    {text}
  </span>
);
