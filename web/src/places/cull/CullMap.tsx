// The scene from above: what is loaded, what is left out (dashed), and the camera. A click selects.
import { useElementSize } from '@mantine/hooks';
import type { Camera } from '@variscen/contract';
import { isLeftOut } from '@variscen/core/cull';
import type { ResolvedState, SceneIndex } from '@variscen/core/looks';
import type { CameraSettings } from '@variscen/core/scene';
import { type MouseEvent, useEffect, useMemo, useRef } from 'react';
import type { CullRow } from '../../model/cullTable.ts';
import { type Outline, type P2, cone, fitted, planScene } from '../../model/planGeometry.ts';
import { drawPlan, toMetres } from '../stage/plan/planDrawing.ts';
import styles from './CullPlace.module.css';

const NO_NODES: ReadonlySet<number> = new Set();

interface Props {
  readonly index: SceneIndex | undefined;
  readonly state: ResolvedState | undefined;
  readonly camera: Camera;
  readonly rows: readonly CullRow[];
  readonly selected: readonly number[];
  readonly onSelect: (nodes: readonly number[]) => void;
}
export function CullMap({ index, state, camera, rows, selected, onSelect }: Props) {
  const canvas = useRef<HTMLCanvasElement>(null);
  const { ref: box, width, height } = useElementSize<HTMLDivElement>();
  const settings = camera.settings as CameraSettings;
  const standing = useMemo(
    () => (index && state ? planScene(index.document, state, 'top', undefined).outlines : []),
    [index, state],
  );
  const outlines = useMemo(() => {
    const leftOut = new Set(rows.filter((r) => isLeftOut(r.verdict)).map((r) => r.node));
    return standing.map((o): Outline => (leftOut.has(o.node) ? { ...o, state: 'beyond' } : o));
  }, [standing, rows]);
  const size = useMemo(() => ({ width, height }), [width, height]);
  const view = useMemo(() => {
    const shown = standing.filter((o) => o.state === 'kept');
    return fitted(shown, [cone(settings, 'top', 0).eye], width, height);
  }, [standing, settings, width, height]);
  useEffect(() => {
    drawPlan(canvas.current!, {
      size,
      view,
      side: 'top',
      outlines,
      selected: new Set(selected),
      cut: NO_NODES,
      camera: { name: camera.name, settings },
      others: [],
      isOnlyShown: true,
    });
  }, [size, view, outlines, selected, camera.name, settings]);
  const pick = (e: MouseEvent) => {
    const { left, top } = canvas.current!.getBoundingClientRect();
    const at = toMetres(size, view, [e.clientX - left, e.clientY - top]);
    const hit = smallestAt(outlines, at);
    if (hit === undefined) onSelect([]);
    else if (e.ctrlKey || e.metaKey || e.shiftKey) onSelect([...selected.filter((n) => n !== hit), hit]);
    else onSelect([hit]);
  };
  return (
    <div ref={box} className={styles.map}>
      <canvas
        ref={canvas}
        role="img"
        aria-label="The scene from above; what is left out is dashed"
        style={{ width, height }}
        onClick={pick}
      />
    </div>
  );
}

/** Of what lies at a point the smallest: large things lie under all others. */
function smallestAt(outlines: readonly Outline[], at: P2): number | undefined {
  let best: { readonly node: number; readonly area: number } | undefined;
  for (const { node, hull, state } of outlines) {
    if (state === 'hidden' || !isInside(hull, at)) continue;
    const area = areaOf(hull);
    if (!best || area < best.area) best = { node, area };
  }
  return best?.node;
}
function isInside(hull: readonly P2[], [x, y]: P2): boolean {
  return hull.every(([ax, ay], i) => {
    const [bx, by] = hull[(i + 1) % hull.length]!;
    return (bx - ax) * (y - ay) - (by - ay) * (x - ax) >= 0;
  });
}
function areaOf(hull: readonly P2[]): number {
  let twice = 0;
  hull.forEach(([ax, ay], i) => {
    const [bx, by] = hull[(i + 1) % hull.length]!;
    twice += ax * by - bx * ay;
  });
  return Math.abs(twice) / 2;
}
