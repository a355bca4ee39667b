// The scene from above, from the front or from the side, beside the view: cameras with their cones, and the near and
// far planes and the depth range of the one
// that is looked through, to be dragged. What a plane cuts open is named, with the nearest distances that do not.
import { SegmentedControl } from '@mantine/core';
import type { Camera } from '@variscen/contract';
import type { ResolvedState, SceneIndex } from '@variscen/core/looks';
import {
  type CameraSettings,
  type CutBody,
  type DepthSpan,
  type Geometry,
  cutsInFrame,
  placements,
  planeCut,
  unpackGeometry,
} from '@variscen/core/scene';
import { type PointerEvent as ReactPointerEvent, useEffect, useMemo, useRef, useState } from 'react';
import { asset } from '../../../api/assets.ts';
import { metres } from '../../../ui/format.ts';
import { type ProjectSession } from '../../../session/projectSession.ts';
import { DepthPicture } from '../cameras/DepthPicture.tsx';
import {
  type Outline,
  type P2,
  type PlanView as View2,
  type Side,
  cone,
  distanceAt,
  fitted,
  planScene,
} from '../../../model/planGeometry.ts';
import styles from './PlanView.module.css';

type Handle = 'near' | 'far' | 'depthNear' | 'depthFar';
const HANDLE_PX = 8;
const INK = {
  kept: '#8f8f8f',
  before: '#6a6a6a',
  beyond: '#6a6a6a',
  'off-frame': '#515151',
  hidden: '#3a3a3a',
} as const;
const HANDLE_WORDS: Readonly<Record<Handle, string>> = {
  near: 'near plane',
  far: 'far plane',
  depthNear: 'depth from',
  depthFar: 'depth to',
};

interface Props {
  index: SceneIndex;
  state: ResolvedState;
  cameras: readonly Camera[];
  camera: Camera | undefined;
  nodes: readonly number[];
  session: ProjectSession;
  depthOf: (camera: CameraSettings, widthPx: number, heightPx: number) => Float32Array | undefined;
  onLook: (id: string) => void;
}

export function PlanView({ index, state, cameras, camera, nodes, session, depthOf, onLook }: Props) {
  const canvas = useRef<HTMLCanvasElement>(null);
  const box = useRef<HTMLDivElement>(null);
  const [side, setSide] = useState<Side>('top');
  const [view, setView] = useState<View2 | null>(null);
  const [size, setSize] = useState({ width: 0, height: 0 });
  const [draft, setDraft] = useState<CameraSettings | null>(null);
  const grip = useRef<{ kind: 'pan'; x: number; y: number; from: View2 } | { kind: 'handle'; handle: Handle } | null>(
    null,
  );
  const own = camera?.settings as CameraSettings | undefined;
  const settings = draft ?? own;
  // what stands where changes only with the look; what the planes remove follows them at once
  const plan = useMemo(() => planScene(index.document, state, side, settings), [index, state, side, settings]);
  const bodies = useBodies(index, settings, plan.spans, [settings?.nearM, settings?.farM]);
  const cuts = settings
    ? (
        [
          ['near', settings.nearM],
          ['far', settings.farM],
        ] as const
      )
        .map(([which, d]) => ({ which, ...planeCut(d, bodies) }))
        .filter((c) => c.nodes.length)
    : [];

  useEffect(() => {
    const o = new ResizeObserver(([e]) => {
      if (e) setSize({ width: e.contentRect.width, height: e.contentRect.height });
    });
    o.observe(box.current!);
    return () => o.disconnect();
  }, []);
  const fit = useMemo(
    () =>
      fitted(
        plan.outlines.filter((o) => o.state === 'kept' || o.state === 'before'),
        cameras.map((c) => cone(c.settings as CameraSettings, side, 0).eye),
        size.width,
        size.height,
      ),
    [plan, cameras, side, size],
  );
  useEffect(() => setView(null), [side, index]);
  const shown = view ?? fit;
  const toPx = (p: P2): P2 => [
    size.width / 2 + (p[0] - shown.x) * shown.pxPerM,
    size.height / 2 - (p[1] - shown.y) * shown.pxPerM,
  ];
  const toM = (x: number, y: number): P2 => [
    shown.x + (x - size.width / 2) / shown.pxPerM,
    shown.y - (y - size.height / 2) / shown.pxPerM,
  ];
  const depths: Record<Handle, number> | null = settings
    ? {
        near: settings.nearM,
        far: settings.farM,
        depthNear: settings.depthRangeM?.near ?? settings.nearM,
        depthFar: settings.depthRangeM?.far ?? settings.farM,
      }
    : null;

  useEffect(() => {
    const c = canvas.current!;
    const g = c.getContext('2d')!;
    const k = window.devicePixelRatio;
    c.width = size.width * k;
    c.height = size.height * k;
    g.scale(k, k);
    g.clearRect(0, 0, size.width, size.height);
    drawGrid(g, size, shown, toPx);
    const chosen = new Set(nodes);
    const path = (o: Outline) => {
      const [first, ...rest] = o.hull.map(toPx);
      if (!first) return;
      g.moveTo(first[0], first[1]);
      for (const p of rest) g.lineTo(p[0], p[1]);
      g.closePath();
    };
    for (const kind of ['hidden', 'off-frame', 'beyond', 'before', 'kept'] as const) {
      g.beginPath();
      for (const o of plan.outlines) if (o.state === kind) path(o);
      g.setLineDash(kind === 'before' || kind === 'beyond' ? [3, 3] : []);
      g.strokeStyle = INK[kind];
      g.lineWidth = 0.8;
      g.stroke();
    }
    g.setLineDash([]);
    for (const [set, color] of [
      [new Set(cuts.flatMap((x) => x.nodes)), '#ff8a7a'],
      [chosen, '#c8e64a'],
    ] as const) {
      g.beginPath();
      for (const o of plan.outlines) if (set.has(o.node)) path(o);
      g.strokeStyle = color;
      g.lineWidth = 1.6;
      g.stroke();
    }
    const labels: Label[] = [];
    if (settings && camera) drawCamera(g, settings, side, true, toPx, camera.name, labels);
    for (const x of cameras)
      if (x.id !== camera?.id) drawCamera(g, x.settings as CameraSettings, side, false, toPx, x.name, labels);
    if (settings && depths && distanceAt(settings, side, [0, 0]) !== undefined)
      for (const h of Object.keys(depths) as Handle[]) drawHandle(g, settings, side, h, depths[h], toPx);
  });

  const near = (x: number, y: number): Handle | null => {
    if (!settings || !depths || distanceAt(settings, side, [0, 0]) === undefined) return null;
    // the grips stand a little apart, so that a depth range that starts as the planes do can be taken
    for (const h of ['depthNear', 'depthFar', 'near', 'far'] as const) {
      const p = gripAt(settings, side, h, depths[h], toPx);
      if (p && Math.hypot(p[0] - x, p[1] - y) < HANDLE_PX + 3) return h;
    }
    return null;
  };
  const local = (e: ReactPointerEvent | WheelEvent): P2 => {
    const r = canvas.current!.getBoundingClientRect();
    return [e.clientX - r.left, e.clientY - r.top];
  };
  const down = (e: ReactPointerEvent) => {
    const [x, y] = local(e);
    const handle = near(x, y);
    canvas.current!.setPointerCapture(e.pointerId);
    grip.current = handle ? { kind: 'handle', handle } : { kind: 'pan', x, y, from: shown };
  };
  const set = (c: CameraSettings, h: Handle, d: number): CameraSettings => {
    const gap = 1e-3;
    const depth = { near: c.depthRangeM?.near ?? c.nearM, far: c.depthRangeM?.far ?? c.farM };
    switch (h) {
      case 'near':
        return { ...c, nearM: Math.min(Math.max(1e-4, d), c.farM - gap) };
      case 'far':
        return { ...c, farM: Math.max(d, c.nearM + gap) };
      case 'depthNear':
        return { ...c, depthRangeM: { ...depth, near: Math.min(Math.max(0, d), depth.far - gap) } };
      case 'depthFar':
        return { ...c, depthRangeM: { ...depth, far: Math.max(d, depth.near + gap) } };
    }
  };
  const move = (e: ReactPointerEvent) => {
    const [x, y] = local(e);
    const g = grip.current;
    if (!g) {
      canvas.current!.style.cursor = near(x, y) ? 'grab' : 'default';
      return;
    }
    if (g.kind === 'pan') {
      setView({ ...g.from, x: g.from.x - (x - g.x) / g.from.pxPerM, y: g.from.y + (y - g.y) / g.from.pxPerM });
      return;
    }
    const d = own && distanceAt(own, side, toM(x, y));
    if (d !== undefined && settings) setDraft(set(settings, g.handle, Number(d.toPrecision(5))));
  };
  const keep = (c: CameraSettings) => {
    if (camera)
      session.changeCameras([camera.id], { settings: { nearM: c.nearM, farM: c.farM, depthRangeM: c.depthRangeM } });
  };
  const up = (e: ReactPointerEvent) => {
    const g = grip.current;
    const [x, y] = local(e);
    grip.current = null;
    if (g?.kind === 'handle' && draft) {
      keep(draft);
      setDraft(null);
    } else if (g?.kind === 'pan' && Math.hypot(x - g.x, y - g.y) < 4) {
      const hit = cameras.find((c) => {
        const p = toPx(cone(c.settings as CameraSettings, side, 0).eye);
        return Math.hypot(p[0] - x, p[1] - y) < 10;
      });
      if (hit) onLook(hit.id);
    }
  };
  useEffect(() => {
    const c = canvas.current!;
    const wheel = (e: WheelEvent) => {
      e.preventDefault();
      const [x, y] = local(e);
      const m = toM(x, y);
      const pxPerM = Math.min(50_000, Math.max(0.02, shown.pxPerM * Math.exp(-e.deltaY * 0.0015)));
      setView({ pxPerM, x: m[0] - (x - size.width / 2) / pxPerM, y: m[1] + (y - size.height / 2) / pxPerM });
    };
    c.addEventListener('wheel', wheel, { passive: false });
    return () => c.removeEventListener('wheel', wheel);
  });

  const name = (n: number) => index.document.nodes[n]!.name;
  return (
    <section aria-label="Plan view" className={styles.planView}>
      <div className={styles.segmentedControlFrame}>
        <SegmentedControl
          size="xs"
          aria-label="Seen from"
          value={side}
          data={[
            { value: 'top', label: 'Above' },
            { value: 'front', label: 'Front' },
            { value: 'side', label: 'Side' },
          ]}
          onChange={(v) => setSide(v as Side)}
        />
        <button type="button" className={`quiet ${styles.quiet}`} onClick={() => setView(null)}>
          Show all
        </button>
      </div>
      <div ref={box} className={styles.settings}>
        <canvas
          ref={canvas}
          role="img"
          aria-label={`Plan view${depths ? `, ${(Object.keys(depths) as Handle[]).map((h) => `${HANDLE_WORDS[h]} ${metres(depths[h])}`).join(', ')}` : ''}`}
          className={styles.img}
          onPointerDown={down}
          onPointerMove={move}
          onPointerUp={up}
        />
        {settings && (
          <div className={styles.depthPictureFrame}>
            <DepthPicture settings={settings} state={state} depthOf={depthOf} />
          </div>
        )}
      </div>
      <div
        className={styles.whatThePlanesCut}
        style={{ padding: cuts.length ? '6px 10px' : 0, borderTop: cuts.length ? '1px solid var(--line)' : undefined }}
        role="status"
        aria-label="What the planes cut"
      >
        {settings &&
          cuts.map((c) => (
            <div key={c.which} className={styles.nearerM}>
              <span className={styles.the}>
                The {c.which} plane cuts open{' '}
                {c.nodes
                  .slice(0, 3)
                  .map((n) => `“${name(n)}”`)
                  .join(', ')}
                {c.nodes.length > 3 && ` and ${c.nodes.length - 3} more`}.
              </span>{' '}
              {[c.nearerM, c.fartherM].map(
                (d) =>
                  d !== null && (
                    <button
                      type="button"
                      key={d}
                      className={`quiet ${styles.sideButton}`}
                      onClick={() => keep(set(settings, c.which, d))}
                    >
                      {c.which === 'near' ? 'Near' : 'Far'} plane at {metres(d)}
                    </button>
                  ),
              )}
            </div>
          ))}
      </div>
    </section>
  );
}

/**
 * Bodies that a plane could cut, by their meshes: those whose boxes a plane goes through are loaded, and count once
 * they are there.
 */
function useBodies(
  index: SceneIndex,
  camera: CameraSettings | undefined,
  rough: readonly DepthSpan[],
  planes: readonly (number | undefined)[],
): readonly CutBody[] {
  const loaded = useRef<{ index: SceneIndex; meshes: Map<number, Geometry | null> }>({ index, meshes: new Map() });
  const [, setArrived] = useState(0);
  if (loaded.current.index !== index) loaded.current = { index, meshes: new Map() };
  const { meshes } = loaded.current;
  const d = index.document;
  const wanted = [
    ...new Set(
      rough
        .filter((s) => planes.some((x) => x !== undefined && s.fromM < x && x < s.toM))
        .flatMap((s) => d.nodes[s.node]!.parts!.map((p) => p.mesh)),
    ),
  ]
    .filter((m) => !meshes.has(m))
    .slice(0, AT_ONCE);
  useEffect(() => {
    for (const m of wanted) {
      meshes.set(m, null);
      void asset(d.meshes[m]!.blob).then(
        (bytes) => {
          meshes.set(m, unpackGeometry(new Uint8Array(bytes), d.meshes[m]!));
          setArrived((n) => n + 1);
        },
        () => meshes.delete(m),
      );
    }
  }, [wanted.join()]);
  const world = useMemo(() => placements(d), [d]);
  return useMemo(
    () =>
      rough.map((s): CutBody => ({
        ...s,
        cutAt: (distanceM) =>
          camera !== undefined &&
          d.nodes[s.node]!.parts!.some((p) => {
            const g = meshes.get(p.mesh);
            return g ? cutsInFrame(camera, world[s.node]!, g.positions, g.indices, distanceM) : false;
          }),
      })),
    [rough, camera, d, world, meshes],
  );
}
const AT_ONCE = 24;

type Px = (p: P2) => P2;
interface Label {
  readonly x: number;
  readonly y: number;
  readonly w: number;
  readonly h: number;
}
function drawGrid(g: CanvasRenderingContext2D, size: { width: number; height: number }, view: View2, toPx: Px): void {
  const step = 10 ** Math.ceil(Math.log10(60 / view.pxPerM));
  const halfW = size.width / 2 / view.pxPerM;
  const halfH = size.height / 2 / view.pxPerM;
  if (!(size.width > 0)) return;
  g.strokeStyle = '#262626';
  g.lineWidth = 1;
  g.fillStyle = '#8a8a8a';
  g.font = '10px "IBM Plex Mono", monospace';
  g.beginPath();
  for (let x = Math.ceil((view.x - halfW) / step) * step; x <= view.x + halfW; x += step) {
    const [px] = toPx([x, 0]);
    g.moveTo(px, 0);
    g.lineTo(px, size.height);
  }
  for (let y = Math.ceil((view.y - halfH) / step) * step; y <= view.y + halfH; y += step) {
    const [, py] = toPx([0, y]);
    g.moveTo(0, py);
    g.lineTo(size.width, py);
  }
  g.stroke();
  g.fillText(`${Number(step.toPrecision(2))} m a square`, 8, size.height - 8);
}
function drawCamera(
  g: CanvasRenderingContext2D,
  c: CameraSettings,
  side: Side,
  current: boolean,
  toPx: Px,
  name: string,
  labels: Label[],
): void {
  const reach = current ? c.farM : c.focusDistanceM * 0.4;
  const { eye, ends } = cone(c, side, reach);
  const e = toPx(eye);
  g.strokeStyle = current ? '#ededed' : '#7d7d7d';
  g.lineWidth = current ? 1.1 : 0.9;
  g.beginPath();
  const start = c.projection === 'orthographic' ? cone(c, side, 0).ends.map(toPx) : [e, e];
  ends.map(toPx).forEach((p, i) => {
    g.moveTo(start[i]![0], start[i]![1]);
    g.lineTo(p[0], p[1]);
  });
  g.stroke();
  g.beginPath();
  g.arc(e[0], e[1], current ? 4 : 3, 0, 7);
  g.fillStyle = current ? '#ededed' : '#7d7d7d';
  g.fill();
  g.font = '11px "IBM Plex Sans Variable", sans-serif';
  // a name that would lie on another is left out; the list beside has them all
  const label: Label = { x: e[0] + 8, y: e[1] - 7, w: g.measureText(name).width, h: 14 };
  if (
    labels.some((l) => l.x < label.x + label.w && label.x < l.x + l.w && l.y < label.y + label.h && label.y < l.y + l.h)
  )
    return;
  labels.push(label);
  g.fillText(name, label.x, e[1] + 4);
}
/** Where a handle's grip is: the planes' at one end of their line, the depth range's at the other. */
function gripAt(c: CameraSettings, side: Side, h: Handle, distanceM: number, toPx: Px): P2 | null {
  const { ends } = cone(c, side, distanceM);
  const [a, b] = ends.map(toPx) as [P2, P2];
  return h === 'near' || h === 'far' ? b : a;
}
function drawHandle(
  g: CanvasRenderingContext2D,
  c: CameraSettings,
  side: Side,
  h: Handle,
  distanceM: number,
  toPx: Px,
): void {
  const { ends } = cone(c, side, distanceM);
  const [a, b] = ends.map(toPx) as [P2, P2];
  const plane = h === 'near' || h === 'far';
  const p = plane ? b : a;
  const far = h === 'far' || h === 'depthFar';
  const e = toPx(cone(c, side, 0).eye);
  const close = Math.hypot(p[0] - e[0], p[1] - e[1]) < 16;
  g.strokeStyle = plane ? '#ededed' : '#62b7ea';
  g.fillStyle = g.strokeStyle;
  g.lineWidth = plane ? 1.4 : 1;
  g.setLineDash(plane ? [] : [5, 4]);
  g.beginPath();
  g.moveTo(a[0], a[1]);
  g.lineTo(b[0], b[1]);
  g.stroke();
  g.setLineDash([]);
  g.beginPath();
  if (plane) g.rect(p[0] - 4, p[1] - 4, 8, 8);
  else g.arc(p[0], p[1], 4.5, 0, 7);
  g.fill();
  g.font = '10.5px "IBM Plex Mono", monospace';
  g.textAlign = plane ? 'left' : 'right';
  const below = close ? 24 : 13;
  g.fillText(`${HANDLE_WORDS[h]} ${metres(distanceM)}`, p[0] + (plane ? 9 : -9), p[1] + (far ? -5 : below));
  g.textAlign = 'left';
}
