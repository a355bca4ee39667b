// The real-time view with the camera's frame in it: its guides, its plate, and the live render over it.
import { IconArrowBarToDown, IconArrowsMove, IconFocusCentered, IconResize, IconRotate } from '@tabler/icons-react';
import type { Camera } from '@variscen/contract';
import type { Placement, ResolvedState, SceneIndex } from '@variscen/core/looks';
import { type CameraHandling, type CameraSettings, halfHeightOf } from '@variscen/core/scene';
import { type RefObject, useEffect, useImperativeHandle, useRef, useState } from 'react';
import { pathOf } from '../../api/client.ts';
import { count } from '../../ui/format.ts';
import type { HandleMode } from '../../view3d/handles.ts';
import { LivePane } from './live/LivePane.tsx';
import { MATERIAL_DRAG } from '../../model/materialDrag.ts';
import { type FrameRect, type Pick, Viewport, type ViewReport } from '../../view3d/viewport.ts';
import styles from './View.module.css';

/** The view is still when nothing has moved for so long. */
const STILL_MS = 250;
/** A camera's figure is as long as this share of the way to what it focuses on, and of the scene. */
const FIGURE_SHARE = 0.35;

const HANDLES = [
  ['move', 'Move', IconArrowsMove],
  ['turn', 'Rotate', IconRotate],
  ['scale', 'Scale', IconResize],
] as const;

export interface ViewHandle {
  bringIntoView(): void;
  viewed(): CameraSettings | undefined;
  depth(camera: CameraSettings, widthPx: number, heightPx: number): Float32Array | undefined;
}
interface Props {
  handle: RefObject<ViewHandle | null>;
  sceneHash: string;
  index: SceneIndex | undefined;
  state: ResolvedState | undefined;
  cameras: readonly Camera[];
  camera: Camera | undefined;
  frame: number | null;
  nodes: readonly number[];
  picking: boolean;
  onPick: (hit: Pick | null, more: boolean) => void;
  onBox: (nodes: number[], more: boolean) => void;
  onCameraMoved: (matrix: number[]) => void;
  onCameraRested: () => void;
  onPlaced: (nodes: readonly number[], placements: readonly Placement[]) => void;
  onUnlock: () => void;
  onLookAround: () => void;
  /** Lets what is selected down until it touches. */
  onDrop: () => void;
  /** A material was let go over a thing. */
  onMaterial: (material: string, hit: Extract<Pick, { kind: 'node' }>) => void;
  tools?: React.ReactNode;
}

export function View({
  handle,
  sceneHash,
  index,
  state,
  cameras,
  camera,
  frame: shownFrame,
  nodes,
  picking,
  onPick,
  onBox,
  onCameraMoved,
  onCameraRested,
  onPlaced,
  onUnlock,
  onLookAround,
  onDrop,
  onMaterial,
  tools,
}: Props) {
  const host = useRef<HTMLDivElement>(null);
  const view = useRef<Viewport | null>(null);
  const latest = useRef({ onPick, onBox, onCameraMoved, onCameraRested, onPlaced });
  const [live, setLive] = useState(false);
  const [around, setAround] = useState<{ camera: CameraSettings; rect: FrameRect } | null>(null);
  const still = useRef<ReturnType<typeof setTimeout>>(undefined);
  const [nudged, setNudged] = useState(false);
  const [handles, setHandles] = useState<HandleMode | null>(null);
  const [frame, setFrame] = useState<FrameRect | null>(null);
  const [report, setReport] = useState<ViewReport | null>(null);
  const [fault, setFault] = useState<string | null>(null);
  useEffect(() => {
    latest.current = { onPick, onBox, onCameraMoved, onCameraRested, onPlaced };
  });
  useEffect(() => {
    if (!index || !host.current) return;
    setFault(null);
    try {
      const v = new Viewport(host.current, index.document, {
        report: setReport,
        frame: setFrame,
        failed: setFault,
        nudged: () => setNudged(true),
        cameraMoved: (m) => latest.current.onCameraMoved(m),
        cameraRested: () => latest.current.onCameraRested(),
        placed: (n, p) => latest.current.onPlaced(n, p),
        pick: (hit, more) => latest.current.onPick(hit, more),
        box: (n, more) => latest.current.onBox(n, more),
        moved: () => {
          setAround(null);
          clearTimeout(still.current);
          still.current = setTimeout(look, STILL_MS);
        },
      });
      const look = () => {
        const c = v.freeCamera();
        setAround({ camera: c, rect: { left: 0, top: 0, width: c.widthPx, height: c.heightPx } });
      };
      view.current = v;
      return () => {
        clearTimeout(still.current);
        v.close();
        view.current = null;
      };
    } catch (e) {
      setFault(
        `The view needs WebGL 2, which this browser does not offer: ${e instanceof Error ? e.message : String(e)}`,
      );
      return undefined;
    }
  }, [index]);
  useImperativeHandle(
    handle,
    () => ({
      bringIntoView: () => view.current?.bringIntoView(),
      viewed: () => view.current?.freeCamera(),
      depth: (c, w, h) => view.current?.depthPicture(c, w, h),
    }),
    [],
  );
  useEffect(() => {
    if (state) view.current?.setState(state);
  }, [state, index]);
  const settings = camera?.settings as CameraSettings | undefined;
  const locked = (camera?.handling.locked ?? false) || settings?.follows !== undefined;
  useEffect(() => {
    view.current?.lookThrough(settings ?? null, locked);
  }, [settings, locked, index]);
  useEffect(() => {
    if (shownFrame !== null) view.current?.showFrame(shownFrame);
  }, [shownFrame, settings, index]);
  useEffect(() => {
    view.current?.select(nodes);
  }, [nodes, index]);
  useEffect(() => {
    view.current?.showHandles(handles);
  }, [handles, index]);
  useEffect(() => {
    // through a camera the picture is judged: figures would lie in it
    view.current?.showCameras(
      (camera ? [] : cameras).map((c) => {
        const s = c.settings as CameraSettings;
        const half = halfHeightOf(s);
        return {
          id: c.id,
          matrix: s.matrix,
          halfHeight: half,
          halfWidth: (half * s.widthPx) / s.heightPx,
          orthographic: s.projection === 'orthographic',
        };
      }),
      cameras.length ? Math.min(...cameras.map((c) => c.settings.focusDistanceM)) * FIGURE_SHARE : 1,
    );
  }, [cameras, camera?.id, index]);
  useEffect(() => setNudged(false), [camera?.id, locked]);
  useEffect(() => {
    if (!nudged) return;
    const t = setTimeout(() => setNudged(false), 6000);
    return () => clearTimeout(t);
  }, [nudged]);
  return (
    <section
      aria-label="View"
      onDragOver={(e) => {
        if (e.dataTransfer.types.includes(MATERIAL_DRAG)) {
          e.preventDefault();
          e.dataTransfer.dropEffect = 'copy';
        }
      }}
      onDrop={(e) => {
        const material = e.dataTransfer.getData(MATERIAL_DRAG);
        const box = host.current?.getBoundingClientRect();
        const hit = material && box ? view.current?.pick(e.clientX - box.left, e.clientY - box.top) : undefined;
        if (hit?.kind === 'node') {
          e.preventDefault();
          onMaterial(material, hit);
        }
      }}
      className={styles.view}
      style={{ cursor: picking ? 'crosshair' : undefined }}
    >
      <div ref={host} className={styles.live} />
      {live &&
        state &&
        (settings
          ? frame && <LivePane key="live" sceneHash={sceneHash} state={state} camera={settings} rect={frame} />
          : around && (
              <LivePane key="live" sceneHash={sceneHash} state={state} camera={around.camera} rect={around.rect} />
            ))}
      {frame && settings && camera && (
        <div className={styles.plate} style={frame}>
          {camera.handling.plate && <Plate plate={camera.handling.plate} />}
          <Guides guides={camera.handling.guides} width={frame.width} height={frame.height} />
          {settings.crop && (
            <i
              className={styles.mark}
              style={{
                left: `${settings.crop.left}%`,
                top: `${settings.crop.top}%`,
                right: `${100 - settings.crop.right}%`,
                bottom: `${100 - settings.crop.bottom}%`,
              }}
            />
          )}
          <span className={`mono dim ${styles.projection}`}>
            {settings.projection === 'perspective'
              ? `${Number(settings.focalLengthMm.toPrecision(3))} mm`
              : `${Number((settings.orthoHalfHeightM * 2).toPrecision(3))} m high`}
            {settings.fStop !== null && ` · f/${settings.fStop}`} · {settings.focusDistanceM.toFixed(2)} m to focus
            {locked && ' · locked'}
          </span>
          <span className={`mono dim ${styles.widthPx}`} style={frame.width < 430 ? { bottom: -22 } : { top: -22 }}>
            {settings.widthPx} × {settings.heightPx}
          </span>
        </div>
      )}
      {nudged && camera && (
        <div role="status" className={styles.status}>
          {settings?.follows !== undefined ? `“${camera.name}” moves with the scene.` : `“${camera.name}” is locked.`}
          <button
            type="button"
            className={`quiet ${styles.quiet}`}
            onClick={() => {
              setNudged(false);
              onLookAround();
            }}
          >
            Look around instead
          </button>
          {settings?.follows === undefined && (
            <button
              type="button"
              className={`quiet ${styles.quiet}`}
              onClick={() => {
                setNudged(false);
                onUnlock();
              }}
            >
              Unlock it
            </button>
          )}
        </div>
      )}
      <div className={styles.tools}>
        <button
          type="button"
          className={`quiet ${styles.bringIntoView}`}
          disabled={!nodes.length}
          title="Bring what is selected into view (Enter in the tree)"
          aria-label="Bring into view"
          onClick={() => view.current?.bringIntoView()}
        >
          <IconFocusCentered size={16} stroke={1.6} />
        </button>
        <div role="group" aria-label="Handles" className={styles.handles}>
          {HANDLES.map(([mode, word, Icon]) => (
            <button
              type="button"
              key={mode}
              className={`tool ${styles.tool}`}
              disabled={!nodes.length}
              aria-pressed={handles === mode}
              aria-label={`${word} what is selected`}
              title={`${word} what is selected: Placement`}
              style={{
                background: handles === mode ? 'var(--ink)' : undefined,
                color: handles === mode ? 'var(--deep)' : undefined,
              }}
              onClick={() => setHandles(handles === mode ? null : mode)}
            >
              <Icon size={15} stroke={1.6} />
            </button>
          ))}
          <button
            type="button"
            className={`tool ${styles.tool}`}
            disabled={!nodes.length}
            aria-label="Drop what is selected"
            title="Drop onto what lies below: Placement"
            onClick={onDrop}
          >
            <IconArrowBarToDown size={15} stroke={1.6} />
          </button>
        </div>
        {tools}
        <button
          type="button"
          className={`quiet ${styles.quiet2}`}
          aria-pressed={live}
          title="Render what the view shows with the engine of the batch, in this browser"
          onClick={() => setLive(!live)}
        >
          Live render
        </button>
      </div>
      <div
        className={`mono faint ellipsis ${styles.loadReport}`}
        title={reportTitle(report)}
        role="status"
        data-loaded={report && report.loaded === report.meshes ? 'yes' : 'no'}
      >
        {fault ?? reportText(report)}
      </div>
    </section>
  );
}

function Plate({ plate }: { plate: NonNullable<CameraHandling['plate']> }) {
  return (
    <img
      alt=""
      src={pathOf('asset', { hash: plate.hash })}
      className={styles.picture}
      style={{ opacity: plate.opacity, objectFit: PLATE_FIT[plate.fit] }}
    />
  );
}
function Guides({ guides, width, height }: { guides: CameraHandling['guides']; width: number; height: number }) {
  const at = (x1: number, y1: number, x2: number, y2: number) => (
    <line key={`${x1} ${y1} ${x2} ${y2}`} x1={x1 * width} y1={y1 * height} x2={x2 * width} y2={y2 * height} />
  );
  const inset = (k: number) => (
    <rect key={k} x={width * k} y={height * k} width={width * (1 - 2 * k)} height={height * (1 - 2 * k)} />
  );
  return (
    <svg width={width} height={height} className={styles.includes} fill="none" stroke="#ffffff40" aria-hidden>
      {guides.includes('thirds') && [1 / 3, 2 / 3].flatMap((k) => [at(k, 0, k, 1), at(0, k, 1, k)])}
      {guides.includes('centre') && [
        at(0.5, 0.46, 0.5, 0.54),
        at(0.5 - (0.04 * height) / width, 0.5, 0.5 + (0.04 * height) / width, 0.5),
      ]}
      {guides.includes('safe') && [inset(0.05), inset(0.1)]}
      {guides.includes('diagonals') && [at(0, 0, 1, 1), at(0, 1, 1, 0)]}
    </svg>
  );
}

const PLATE_FIT = { fit: 'contain', fill: 'cover', stretch: 'fill' } as const;

function reportText(report: ViewReport | null): string {
  if (!report) return 'Loading the scene …';
  if (report.loaded < report.meshes) return `Loading ${report.loaded} of ${report.meshes} meshes …`;
  const some = ` · ${report.lightsShown} of ${report.lights} lights`;
  return `${count(report.triangles)} triangles${report.lightsShown < report.lights ? some : ''}`;
}

function reportTitle(report: ViewReport | null): string | undefined {
  if (!report || report.lightsShown >= report.lights) return undefined;
  return `The view shows the ${report.lightsShown} strongest lights; renders show all ${report.lights}.`;
}
