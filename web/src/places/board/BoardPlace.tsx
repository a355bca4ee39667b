// Cameras × variants. Home.
import { Slider } from '@mantine/core';
import type { BoardCell, CellStatus, Project } from '@variscen/contract';
import { type CSSProperties, type KeyboardEvent, useEffect, useMemo, useState } from 'react';
import { Link, useNavigate } from 'react-router';
import { pathOf } from '../../api/client.ts';
import { useProgress } from '../../api/progress.ts';
import { useBoard } from '../../api/queries.ts';
import { useAddress } from '../../ui/address.ts';
import { plural, version } from '../../ui/format.ts';
import { STATUS_WORDS, StateMark } from '../../ui/glyphs.tsx';
import { CameraHead } from './CameraHead.tsx';
import { PlanPanel } from './PlanPanel.tsx';
import { VariantHead } from './VariantHead.tsx';
import { type Act, type Chosen, type Grid, NOTHING, cellKey, choose, splitKey } from '../../model/chosenCells.ts';
import { NewVariant } from './NewVariant.tsx';

/** Height of the box that a print fits, as a share of its width. */
const PRINT_BOX = 0.7;
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
  // chosen cells are part of the address, as row.column pairs, so that a link opens the same choice
  const [picked, setPicked] = useState<Chosen>(() => ({
    ...NOTHING,
    keys: new Set(
      (search.get('cells') ?? '')
        .split('_')
        .filter(Boolean)
        .map((p) => {
          const [r, c] = p.split('.').map(Number);
          return cellKey(project.cameras[r ?? 0]?.id ?? '', project.variants[c ?? 0]?.id ?? '');
        }),
    ),
  }));
  // of what was picked before the board arrived, or is left out since, only what can be chosen counts
  const chosen = useMemo(() => ({ ...picked, keys: new Set([...picked.keys].filter(grid.choosable)) }), [picked, grid]);
  const act = (a: Act) => setPicked((s) => choose(s, a, grid));
  const choice = useMemo(
    () =>
      [...chosen.keys]
        .map(splitKey)
        .map((k) => `${grid.rows.indexOf(k.cameraId)}.${grid.columns.indexOf(k.variantId)}`)
        .filter((t) => !t.includes('-'))
        .sort()
        .join('_'),
    [chosen.keys, grid],
  );
  useEffect(() => {
    if (choice !== (search.get('cells') ?? '')) put({ cells: choice || null });
  }, [choice, search, put]);
  const resize = (v: number) => {
    setSize(v);
    localStorage.setItem('variscen.prints', String(v));
  };
  const openStage = (key: string) => {
    const k = splitKey(key);
    void navigate(`/projects/${project.id}/stage?camera=${k.cameraId}&variant=${k.variantId}`);
  };
  const onKey = (e: KeyboardEvent) => {
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
          <h1>Bring a scene in first</h1>
          <p>The board shows its cameras in every look.</p>
          <Link className="go" to="/projects" style={{ textDecoration: 'none' }}>
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
      <main className="place" style={{ display: 'grid', gridTemplateColumns: 'minmax(0, 1fr) 264px' }}>
        <div style={{ display: 'grid', gridTemplateRows: 'minmax(0, 1fr) auto', minWidth: 0, minHeight: 0 }}>
          <div
            role="grid"
            aria-label="Board: arrows move, Space chooses, Enter opens the stage"
            aria-multiselectable
            tabIndex={0}
            onKeyDown={onKey}
            style={{ overflow: 'auto', padding: '0 14px 14px 20px' }}
          >
            <div
              style={{
                display: 'grid',
                gridTemplateColumns: `116px repeat(${project.variants.length}, ${size}px) 124px`,
                columnGap: 12,
                rowGap: 12,
                width: 'max-content',
              }}
            >
              <div role="row" style={{ display: 'contents' }}>
                <div style={{ position: 'sticky', top: 0, left: 0, background: 'var(--table)', zIndex: 3 }} />
                {project.variants.map((v) => (
                  <VariantHead
                    key={v.id}
                    project={project}
                    variant={v}
                    sameAs={sameAs.get(v.id) ?? []}
                    onChoose={(add) => act({ type: 'column', id: v.id, add })}
                  />
                ))}
                <NewVariant project={project} />
              </div>
              {project.cameras.map((camera) => (
                <Row
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
          <div
            style={{
              display: 'flex',
              gap: 16,
              alignItems: 'center',
              borderTop: '1px solid var(--line)',
              padding: '10px 20px',
              color: 'var(--dim)',
            }}
          >
            <button
              type="button"
              onClick={() => act({ type: 'these', keys: [...cells.keys()] })}
              style={{ color: 'var(--ink)' }}
            >
              All {cells.size}
            </button>
            {SHOWN.filter((s) => byStatus(s).length > 0).map((s) => (
              <button
                type="button"
                key={s}
                onClick={() => act({ type: 'these', keys: byStatus(s) })}
                title={`Choose these: ${STATUS_WORDS[s]}`}
                style={{ display: 'flex', gap: 6, alignItems: 'center' }}
              >
                <StateMark status={s} />
                {STATUS_WORDS[s]} {byStatus(s).length}
              </button>
            ))}
            <label style={{ marginLeft: 'auto', display: 'flex', gap: 8, alignItems: 'center' }}>
              Size of prints
              <Slider
                size={3}
                thumbSize={12}
                label={null}
                color="gray"
                min={72}
                max={320}
                value={size}
                onChange={resize}
                style={{ width: 110 }}
                thumbLabel="Size of prints"
              />
            </label>
          </div>
        </div>
        <PlanPanel project={project} cells={[...chosen.keys].map((k) => cells.get(k)).filter((c) => c !== undefined)} />
      </main>
    </>
  );
}

interface RowProps {
  project: Project;
  camera: Project['cameras'][number];
  cells: ReadonlyMap<string, BoardCell>;
  size: number;
  chosen: Chosen;
  act: (a: Act) => void;
  open: (key: string) => void;
}
function Row({ project, camera, cells, size, chosen, act, open }: RowProps) {
  return (
    <div role="row" style={{ display: 'contents' }}>
      <CameraHead project={project} camera={camera} onChoose={(add) => act({ type: 'row', id: camera.id, add })} />
      {project.variants.map((v) => {
        const key = cellKey(camera.id, v.id);
        const cell = cells.get(key);
        return (
          <Print
            key={key}
            name={`${camera.name} in ${v.name}`}
            cell={cell}
            aspect={camera.settings.widthPx / camera.settings.heightPx}
            size={size}
            chosen={chosen.keys.has(key)}
            cursor={chosen.cursor === key}
            onChoose={(type) => act({ type, key })}
            onOpen={() => open(key)}
          />
        );
      })}
      <div />
    </div>
  );
}

interface PrintProps {
  name: string;
  cell: BoardCell | undefined;
  aspect: number;
  size: number;
  chosen: boolean;
  cursor: boolean;
  onChoose: (type: 'only' | 'toggle' | 'range') => void;
  onOpen: () => void;
}
function Print({ name, cell, aspect, size, chosen, cursor, onChoose, onOpen }: PrintProps) {
  const live = useProgress((s) => (cell?.trace ? s.traces[cell.trace.id] : undefined));
  const status = cell?.status ?? 'never';
  const running = status === 'rendering';
  const fraction = live?.fraction ?? cell?.trace?.fraction ?? 0;
  const preview = Math.max(live?.previewVersion ?? 0, cell?.trace?.previewVersion ?? 0);
  // a print fits a box of one size, so that rows stay even whatever the cameras' aspects
  const width = Math.min(size, size * PRINT_BOX * aspect);
  const height = width / aspect;
  const picture =
    running && preview > 0 && cell?.trace
      ? `${pathOf('tracePreview', { traceId: cell.trace.id })}?v=${preview}`
      : cell?.render
        ? pathOf('renderFile', { renderId: cell.render.id, kind: 'thumbnail' })
        : undefined;
  const frame: CSSProperties = {
    position: 'relative',
    width,
    height,
    outline: chosen ? '2px solid var(--go)' : cursor ? '1px solid var(--ink)' : undefined,
    outlineOffset: 2,
    boxShadow: picture ? '0 1px 0 #0006, 0 2px 7px #0007' : undefined,
  };
  const note = running ? `${Math.round(fraction * 100)} %` : cell?.render ? version(cell.render.version) : '';
  return (
    <div
      role="gridcell"
      aria-selected={chosen}
      aria-label={`${name}: ${cell ? STATUS_WORDS[status] : 'not heard of yet'}${note ? `, ${note}` : ''}`}
      data-status={status}
      style={{ display: 'grid', placeItems: 'center', height: size * PRINT_BOX, cursor: 'default' }}
      onClick={(e) => onChoose(e.shiftKey ? 'range' : e.ctrlKey || e.metaKey ? 'toggle' : 'only')}
      onDoubleClick={onOpen}
      title={
        cell?.trace?.error ??
        cell?.differences
          .map((d) => `${d.subject}, ${d.what} ${d.was} → ${d.is}`)
          .slice(0, 6)
          .join('\n')
      }
    >
      <div style={frame}>
        {picture ? (
          <img
            src={picture}
            alt=""
            draggable={false}
            style={{
              width: '100%',
              height: '100%',
              objectFit: 'contain',
              display: 'block',
              opacity: status === 'excluded' ? 0.25 : 1,
            }}
          />
        ) : (
          <div
            style={{
              position: 'absolute',
              inset: 0,
              border: '1px dashed #5a5a5a',
              display: 'grid',
              placeItems: 'center',
              color: 'var(--faint)',
              fontSize: 11,
            }}
          >
            {status === 'excluded' ? 'left out' : status === 'never' ? '' : STATUS_WORDS[status].toLowerCase()}
          </div>
        )}
        <span style={{ position: 'absolute', left: 4, bottom: 3, filter: 'drop-shadow(0 0 2px #000)', lineHeight: 0 }}>
          {cell && <StateMark status={status} fraction={fraction} />}
        </span>
        {note && (
          <span
            className="mono"
            style={{
              position: 'absolute',
              right: 5,
              bottom: 2,
              fontSize: 10.5,
              color: '#fff',
              textShadow: '0 0 3px #000, 0 0 3px #000',
            }}
          >
            {note}
          </span>
        )}
        {running && (
          <div className="bar" style={{ position: 'absolute', left: 0, right: 0, bottom: 0, background: '#0008' }}>
            <i style={{ width: `${fraction * 100}%` }} />
          </div>
        )}
      </div>
    </div>
  );
}
