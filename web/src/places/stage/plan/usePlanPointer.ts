// Hands on the plan: a handle is dragged, the plan is moved and zoomed, a camera is clicked.
import type { CameraSettings } from '@variscen/core/scene';
import { type PointerEvent, type RefObject, useEffect, useRef, useState } from 'react';
import { type P2, type PlanView, type Side, distanceAt } from '../../../model/planGeometry.ts';
import { type PlanLight, movedOnPlan, planLightAt } from '../../../model/planLights.ts';
import { type Size, toMetres, toPxOf } from './planDrawing.ts';
import { type Handle, handleAt, withDistance } from './planHandles.ts';

/** A press that moved less is a click. */
const CLICK_PX = 4;
/** A light is taken within so many pixels of its place. */
export const LIGHT_REACH_PX = 9;
const LEAST_PX_PER_M = 0.02;
const MOST_PX_PER_M = 50_000;
const ZOOM_A_PIXEL = 0.0015;

interface Parts {
  readonly canvas: RefObject<HTMLCanvasElement | null>;
  readonly size: Size;
  readonly side: Side;
  readonly view: PlanView;
  /** The camera that is looked through, as it is recorded. */
  readonly own: CameraSettings | undefined;
  readonly onView: (view: PlanView) => void;
  /** A handle was let go. */
  readonly onDragged: (camera: CameraSettings) => void;
  readonly onClick: (at: P2) => void;
  readonly lights: readonly PlanLight[];
  /** A light was let go, so many metres on the plan from where it was. */
  readonly onLightMoved: (light: PlanLight, by: P2) => void;
}
interface PlanPointer {
  /** The camera with the handle where the hand holds it. */
  readonly draft: CameraSettings | null;
  /** A light where the hand holds it. */
  readonly draftLight: PlanLight | null;
  down(e: PointerEvent): void;
  move(e: PointerEvent): void;
  up(e: PointerEvent): void;
}
type Grip =
  | { readonly kind: 'pan'; readonly at: P2; readonly from: PlanView }
  | { readonly kind: 'handle'; readonly handle: Handle }
  | { readonly kind: 'light'; readonly light: PlanLight; readonly at: P2 };

export function usePlanPointer(parts: Parts): PlanPointer {
  const { canvas, size, side, view, own, lights, onView, onDragged, onClick, onLightMoved } = parts;
  const [draft, setDraft] = useState<CameraSettings | null>(null);
  const [draftLight, setDraftLight] = useState<PlanLight | null>(null);
  const grip = useRef<Grip | null>(null);
  const shown = draft ?? own;
  const at = (e: PointerEvent | WheelEvent): P2 => {
    const r = canvas.current!.getBoundingClientRect();
    return [e.clientX - r.left, e.clientY - r.top];
  };
  const handleUnder = (p: P2) => (shown ? handleAt(shown, side, p, toPxOf(size, view)) : null);
  const lightUnder = (p: P2) => planLightAt(lights, p, toPxOf(size, view), LIGHT_REACH_PX);
  /** How far the hand has taken it, metres on the plan. */
  const wayTo = (from: P2, p: P2): P2 => [(p[0] - from[0]) / view.pxPerM, -(p[1] - from[1]) / view.pxPerM];

  const down = (e: PointerEvent) => {
    const p = at(e);
    const handle = handleUnder(p);
    canvas.current!.setPointerCapture(e.pointerId);
    const light = handle ? undefined : lightUnder(p);
    if (handle) grip.current = { kind: 'handle', handle };
    else grip.current = light ? { kind: 'light', light, at: p } : { kind: 'pan', at: p, from: view };
  };
  const move = (e: PointerEvent) => {
    const p = at(e);
    const held = grip.current;
    if (!held) {
      canvas.current!.style.cursor = handleUnder(p) || lightUnder(p) ? 'grab' : 'default';
    } else if (held.kind === 'light') {
      if (draftLight || hypot(held.at, p) >= CLICK_PX) setDraftLight(movedOnPlan(held.light, wayTo(held.at, p)));
    } else if (held.kind === 'pan') {
      const { from } = held;
      const dx = (p[0] - held.at[0]) / from.pxPerM;
      const dy = (p[1] - held.at[1]) / from.pxPerM;
      if (dx || dy) onView({ ...from, x: from.x - dx, y: from.y + dy });
    } else {
      const d = own && distanceAt(own, side, toMetres(size, view, p));
      if (d !== undefined && shown) setDraft(withDistance(shown, held.handle, Number(d.toPrecision(5))));
    }
  };
  const up = (e: PointerEvent) => {
    const held = grip.current;
    grip.current = null;
    if (held?.kind === 'handle' && draft) {
      onDragged(draft);
      setDraft(null);
    } else if (held?.kind === 'light' && draftLight) {
      onLightMoved(held.light, wayTo(held.at, at(e)));
      setDraftLight(null);
    } else if (held?.kind === 'pan' || held?.kind === 'light') {
      const p = at(e);
      if (hypot(held.at, p) < CLICK_PX) onClick(p);
    }
  };
  useEffect(() => {
    const c = canvas.current!;
    const wheel = (e: WheelEvent) => {
      e.preventDefault();
      onView(zoomed(view, size, at(e), e.deltaY));
    };
    c.addEventListener('wheel', wheel, { passive: false });
    return () => c.removeEventListener('wheel', wheel);
  });
  return { draft, draftLight, down, move, up };
}
const hypot = (a: P2, b: P2): number => Math.hypot(a[0] - b[0], a[1] - b[1]);

/** What lies under the pointer stays under it. */
function zoomed(view: PlanView, size: Size, [x, y]: P2, deltaPx: number): PlanView {
  const m = toMetres(size, view, [x, y]);
  const pxPerM = Math.min(MOST_PX_PER_M, Math.max(LEAST_PX_PER_M, view.pxPerM * Math.exp(-deltaPx * ZOOM_A_PIXEL)));
  return { pxPerM, x: m[0] - (x - size.width / 2) / pxPerM, y: m[1] + (y - size.height / 2) / pxPerM };
}
