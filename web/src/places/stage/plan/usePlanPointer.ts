// Hands on the plan: a handle is dragged, the plan is moved and zoomed, a camera is clicked.
import type { CameraSettings } from '@variscen/core/scene';
import { type PointerEvent, type RefObject, useEffect, useRef, useState } from 'react';
import { type P2, type PlanView, type Side, distanceAt } from '../../../model/planGeometry.ts';
import { type Size, toMetres, toPxOf } from './planDrawing.ts';
import { type Handle, handleAt, withDistance } from './planHandles.ts';

/** A press that moved less is a click. */
const CLICK_PX = 4;
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
}
interface PlanPointer {
  /** The camera with the handle where the hand holds it. */
  readonly draft: CameraSettings | null;
  down(e: PointerEvent): void;
  move(e: PointerEvent): void;
  up(e: PointerEvent): void;
}
type Grip =
  | { readonly kind: 'pan'; readonly at: P2; readonly from: PlanView }
  | { readonly kind: 'handle'; readonly handle: Handle };

export function usePlanPointer({ canvas, size, side, view, own, onView, onDragged, onClick }: Parts): PlanPointer {
  const [draft, setDraft] = useState<CameraSettings | null>(null);
  const grip = useRef<Grip | null>(null);
  const shown = draft ?? own;
  const at = (e: PointerEvent | WheelEvent): P2 => {
    const r = canvas.current!.getBoundingClientRect();
    return [e.clientX - r.left, e.clientY - r.top];
  };
  const handleUnder = (p: P2) => (shown ? handleAt(shown, side, p, toPxOf(size, view)) : null);

  const down = (e: PointerEvent) => {
    const p = at(e);
    const handle = handleUnder(p);
    canvas.current!.setPointerCapture(e.pointerId);
    grip.current = handle ? { kind: 'handle', handle } : { kind: 'pan', at: p, from: view };
  };
  const move = (e: PointerEvent) => {
    const p = at(e);
    const held = grip.current;
    if (!held) {
      canvas.current!.style.cursor = handleUnder(p) ? 'grab' : 'default';
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
    } else if (held?.kind === 'pan') {
      const p = at(e);
      if (Math.hypot(p[0] - held.at[0], p[1] - held.at[1]) < CLICK_PX) onClick(p);
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
  return { draft, down, move, up };
}

/** What lies under the pointer stays under it. */
function zoomed(view: PlanView, size: Size, [x, y]: P2, deltaPx: number): PlanView {
  const m = toMetres(size, view, [x, y]);
  const pxPerM = Math.min(MOST_PX_PER_M, Math.max(LEAST_PX_PER_M, view.pxPerM * Math.exp(-deltaPx * ZOOM_A_PIXEL)));
  return { pxPerM, x: m[0] - (x - size.width / 2) / pxPerM, y: m[1] + (y - size.height / 2) / pxPerM };
}
