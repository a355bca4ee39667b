// Cameras × variants. Home.
import { Slider } from '@mantine/core';
import type { CellStatus, Project } from '@variscen/contract';
import { type KeyboardEvent, useEffect, useMemo, useState } from 'react';
import { Link, useNavigate } from 'react-router';
import { useBoard } from '../../api/queries.ts';
import { useAddress } from '../../ui/address.ts';
import { plural } from '../../ui/format.ts';
import { STATUS_WORDS, StateMark } from '../../ui/glyphs.tsx';
import { PlanPanel } from './PlanPanel.tsx';
import { VariantDialog, type VariantQuestion } from './VariantDialog.tsx';
import { VariantHead } from './VariantHead.tsx';
import { type Act, type Chosen, type Grid, NOTHING, cellKey, choose, splitKey } from '../../model/chosenCells.ts';
import { isOwnKey } from '../../ui/ownKeys.ts';
import { cellsFromAddress, cellsToAddress } from '../../model/cellsInAddress.ts';
import { BoardRow } from './BoardRow.tsx';
import { NewVariant } from './NewVariant.tsx';
import styles from './BoardPlace.module.css';

const SHOWN: readonly CellStatus[] = ['current', 'outdated', 'rendering', 'waiting', 'failed', 'never'];

export function BoardPlace({ project }: { project: Project }) {
  const { data: board } = useBoard(project.id);
  const navigate = useNavigate();
  const [search, put] = useAddress();
  const [size, setSize] = useState(() => Number(localStorage.getItem('variscen.prints') ?? 132));
  const cells = useMemo(() => new Map((board?.cells ?? []).map((c) => [cellKey(c.cameraId, c.variantId), c])), [board]);
  // what is not told of yet can be chosen: a click does not wait for the board to arrive
  const grid: Grid = useMemo(
    () => ({
      rows: project.cameras.map((c) => c.id),
      columns: project.variants.map((v) => v.id),
      choosable: (k) => cells.get(k)?.status !== 'excluded',
    }),
    [project, cells],
  );
  // selected cells are part of the address, so that a link opens the same selection
  const [picked, setPicked] = useState<Chosen>(() => ({
    ...NOTHING,
    keys: new Set(cellsFromAddress(search.get('cells') ?? '', grid)),
  }));
  // of what was picked before the board arrived, or is left out since, only what can be chosen counts
  const chosen = useMemo(() => ({ ...picked, keys: new Set([...picked.keys].filter(grid.choosable)) }), [picked, grid]);
  // in the board's order, however they were selected
  const planned = useMemo(
    () =>
      grid.rows
        .flatMap((row) => grid.columns.map((column) => cellKey(row, column)))
        .filter((key) => chosen.keys.has(key))
        .map((key) => cells.get(key))
        .filter((cell) => cell !== undefined),
    [grid, chosen.keys, cells],
  );
  const act = (a: Act) => setPicked((s) => choose(s, a, grid));
  const choice = useMemo(() => cellsToAddress(chosen.keys, grid), [chosen.keys, grid]);
  useEffect(() => {
    if (choice !== (search.get('cells') ?? '')) put({ cells: choice || null });
  }, [choice, search, put]);
  const [asked, setAsked] = useState<{ variantId: string; question: VariantQuestion } | null>(null);
  const askedVariant = project.variants.find((v) => v.id === asked?.variantId);
  const resize = (v: number) => {
    setSize(v);
    localStorage.setItem('variscen.prints', String(v));
  };
  const openStage = (key: string) => {
    const k = splitKey(key);
    void navigate(`/projects/${project.id}/stage?camera=${k.cameraId}&variant=${k.variantId}`);
  };
  const onKey = (e: KeyboardEvent) => {
    if (!isOwnKey(e)) return;
    const step = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] }[e.key];
    if (step) act({ type: 'move', dx: step[0]!, dy: step[1]!, extend: e.shiftKey });
    else if (e.key === ' ' && chosen.cursor) act({ type: 'toggle', key: chosen.cursor });
    else if (e.key === 'Enter' && chosen.cursor) openStage(chosen.cursor);
    else if (e.key === 'Escape') act({ type: 'none' });
    else if (e.key === 'a' && (e.ctrlKey || e.metaKey)) act({ type: 'these', keys: [...cells.keys()] });
    else return;
    e.preventDefault();
  };
  // two variants are the same where all cameras see the same in them
  const sameAs = useMemo(() => {
    const seen = new Map<string, string[]>();
    const out = new Map<string, readonly string[]>();
    for (const v of project.variants) {
      const all = project.cameras.map((c) => cells.get(cellKey(c.id, v.id))?.hash);
      const key = all.join();
      if (!all.length || all.some((h) => !h)) continue;
      const before = seen.get(key) ?? [];
      if (before.length) out.set(v.id, [...before]);
      seen.set(key, [...before, v.name]);
    }
    return out;
  }, [project.variants, project.cameras, cells]);
  const byStatus = (s: CellStatus) =>
    [...cells.values()].filter((c) => c.status === s).map((c) => cellKey(c.cameraId, c.variantId));

  if (!project.revision)
    return (
      <>
        <header className="sentence">“{project.name}” has no scene yet.</header>
        <main className="place empty">
          <h1>Import a scene first</h1>
          <p>The board shows its cameras in every look.</p>
          <Link className={`go ${styles.go}`} to="/projects">
            Go to the projects
          </Link>
        </main>
      </>
    );
  return (
    <>
      <header className="sentence">
        All <b className="pick">{plural(project.cameras.length, 'camera')}</b> in{' '}
        <b className="pick">{plural(project.variants.length, 'variant')}</b> of{' '}
        <b className="pick ellipsis">{project.name}</b>.
      </header>
      <main className={`place ${styles.place}`}>
        <div className={styles.stack}>
          <div
            role="grid"
            aria-label="Board: arrows move, Space selects, Enter opens the stage"
            aria-multiselectable
            tabIndex={0}
            onKeyDown={onKey}
            className={styles.grid}
          >
            <div
              className={styles.cameras}
              style={{ gridTemplateColumns: `136px repeat(${project.variants.length}, ${size}px) 124px` }}
            >
              <div role="row" className={styles.row}>
                <div className={styles.variants} />
                {project.variants.map((v) => (
                  <VariantHead
                    key={v.id}
                    project={project}
                    variant={v}
                    sameAs={sameAs.get(v.id) ?? []}
                    onChoose={(add) => act({ type: 'column', id: v.id, add })}
                    onAsk={(question) => setAsked({ variantId: v.id, question })}
                  />
                ))}
                <NewVariant project={project} />
              </div>
              {project.cameras.map((camera) => (
                <BoardRow
                  key={camera.id}
                  project={project}
                  camera={camera}
                  cells={cells}
                  size={size}
                  chosen={chosen}
                  act={act}
                  open={openStage}
                />
              ))}
            </div>
          </div>
          <div className={styles.byStatus}>
            <button
              type="button"
              onClick={() => act({ type: 'these', keys: [...cells.keys()] })}
              className={styles.all}
            >
              All {cells.size}
            </button>
            {SHOWN.filter((s) => byStatus(s).length > 0).map((s) => (
              <button
                type="button"
                key={s}
                onClick={() => act({ type: 'these', keys: byStatus(s) })}
                title={`Select these: ${STATUS_WORDS[s]}`}
                className={styles.statusFilter}
              >
                <StateMark status={s} />
                {STATUS_WORDS[s]} {byStatus(s).length}
              </button>
            ))}
            <label className={styles.sizeOfPictures}>
              Size of pictures
              <Slider
                size={3}
                thumbSize={12}
                label={null}
                color="gray"
                min={72}
                max={320}
                value={size}
                onChange={resize}
                className={styles.sizeSlider}
                thumbLabel="Size of pictures"
              />
            </label>
          </div>
        </div>
        {asked && askedVariant && (
          <VariantDialog
            project={project}
            variant={askedVariant}
            question={asked.question}
            onClose={() => setAsked(null)}
          />
        )}
        <PlanPanel project={project} cells={planned} />
      </main>
    </>
  );
}
