// What the pointer does in the view beside navigating: a click picks, Shift and a drag draws a box.
export interface Point {
  readonly x: number;
  readonly y: number;
}
interface Listeners {
  /** False where something else, a handle, has taken the pointer. */
  begins(): boolean;
  /** A box is being drawn, and navigating rests; or no longer. */
  boxing(on: boolean): void;
  click(at: Point, more: boolean): void;
  box(from: Point, to: Point, more: boolean): void;
  /** Dragged or turned the wheel, as one does to navigate. */
  navigates(): void;
}
const CLICK_PX = 4;
const DRAG_PX = 12;

/** Listens until the canvas is gone. Points are in pixels of the canvas. */
export function listenToPointer(canvas: HTMLCanvasElement, host: HTMLElement, tell: Listeners): void {
  let down: { readonly at: Point; readonly box: HTMLElement | null; navigated: boolean } | null = null;
  const local = (e: PointerEvent): Point => {
    const r = canvas.getBoundingClientRect();
    return { x: e.clientX - r.left, y: e.clientY - r.top };
  };
  const far = (a: Point, b: Point) => Math.hypot(a.x - b.x, a.y - b.y);
  const drawBox = (): HTMLElement => {
    const box = document.createElement('div');
    box.style.cssText = 'position:absolute;border:1px solid var(--go);background:#c8e64a22;pointer-events:none';
    host.append(box);
    return box;
  };
  const end = () => {
    if (down?.box) {
      down.box.remove();
      tell.boxing(false);
    }
    down = null;
  };
  canvas.addEventListener('pointerdown', (e) => {
    end();
    if (!tell.begins()) return;
    const boxing = e.shiftKey && e.button === 0;
    if (boxing) {
      tell.boxing(true);
      canvas.setPointerCapture(e.pointerId);
    }
    down = { at: local(e), box: boxing ? drawBox() : null, navigated: false };
  });
  canvas.addEventListener('pointermove', (e) => {
    if (!down || e.buttons === 0) return;
    const a = down.at;
    const b = local(e);
    if (down.box)
      Object.assign(down.box.style, {
        left: `${Math.min(a.x, b.x)}px`,
        top: `${Math.min(a.y, b.y)}px`,
        width: `${Math.abs(a.x - b.x)}px`,
        height: `${Math.abs(a.y - b.y)}px`,
      });
    else if (!down.navigated && far(a, b) > DRAG_PX) {
      down.navigated = true;
      tell.navigates();
    }
  });
  canvas.addEventListener('pointerup', (e) => {
    const from = down;
    const to = local(e);
    const more = e.ctrlKey || e.metaKey;
    end();
    if (!from || e.button !== 0) return;
    if (far(from.at, to) < CLICK_PX) tell.click(to, more || e.shiftKey);
    else if (from.box) tell.box(from.at, to, more);
  });
  canvas.addEventListener('pointercancel', end);
  canvas.addEventListener('wheel', () => tell.navigates(), { passive: true });
}
