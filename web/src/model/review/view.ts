// Where a picture lies in a box, and how zooming and moving change that. The same view shows the same part of pictures
// of any size: places are shares of their width and height, and a zoom of 1 fits each into its box.
export interface View {
  /** What is in the middle of the box. */
  readonly x: number;
  readonly y: number;
  readonly zoom: number;
}
export interface Box {
  readonly widthPx: number;
  readonly heightPx: number;
}
type Point = readonly [number, number];
export const FITTED: View = { x: 0.5, y: 0.5, zoom: 1 };

/** Around a fitted picture. */
const MARGIN_PX = 12;
const LEAST_ZOOM = 0.25;
/** A pixel is shown no larger. */
const MOST_SCALE = 64;

/** Pixels of the box a pixel of the picture where it is fitted; a small picture is enlarged. */
export function fittedScale(picture: Box, box: Box): number {
  const across = Math.max(1, box.widthPx - 2 * MARGIN_PX) / picture.widthPx;
  const down = Math.max(1, box.heightPx - 2 * MARGIN_PX) / picture.heightPx;
  return Math.min(across, down, MOST_SCALE);
}
export interface Placed {
  readonly left: number;
  readonly top: number;
  readonly scale: number;
}
export function placed(picture: Box, box: Box, view: View): Placed {
  const scale = fittedScale(picture, box) * view.zoom;
  return {
    left: box.widthPx / 2 - view.x * picture.widthPx * scale,
    top: box.heightPx / 2 - view.y * picture.heightPx * scale,
    scale,
  };
}

/** The place in shares of the picture, which may lie outside of it. */
export function placeAt(picture: Box, box: Box, view: View, [x, y]: Point): Point {
  const { left, top, scale } = placed(picture, box, view);
  return [(x - left) / (picture.widthPx * scale), (y - top) / (picture.heightPx * scale)];
}
/** The pixel there; null: none. */
export function pixelAt(picture: Box, box: Box, view: View, at: Point): Point | null {
  const [u, v] = placeAt(picture, box, view, at);
  if (u < 0 || v < 0 || u >= 1 || v >= 1) return null;
  return [Math.floor(u * picture.widthPx), Math.floor(v * picture.heightPx)];
}

/** What lies under the point stays there. */
export function zoomedAt(picture: Box, box: Box, view: View, by: number, at: Point): View {
  const fitted = fittedScale(picture, box);
  const zoom = Math.min(MOST_SCALE / fitted, Math.max(LEAST_ZOOM, view.zoom * by));
  const [u, v] = placeAt(picture, box, view, at);
  const scale = fitted * zoom;
  return within({
    x: u - (at[0] - box.widthPx / 2) / (picture.widthPx * scale),
    y: v - (at[1] - box.heightPx / 2) / (picture.heightPx * scale),
    zoom,
  });
}
export function movedBy(picture: Box, box: Box, view: View, [dx, dy]: Point): View {
  const { scale } = placed(picture, box, view);
  return within({ ...view, x: view.x - dx / (picture.widthPx * scale), y: view.y - dy / (picture.heightPx * scale) });
}
/** Something of the picture stays in sight. */
const within = ({ x, y, zoom }: View): View => ({
  x: Math.min(1, Math.max(0, x)),
  y: Math.min(1, Math.max(0, y)),
  zoom,
});

/** A pixel of the picture is a pixel of the screen. */
export const atFullSize = (picture: Box, box: Box, view: View, pixelRatio: number): View => ({
  ...view,
  zoom: 1 / pixelRatio / fittedScale(picture, box),
});
