// The plan on its canvas: the grid, what stands where, cameras with their cones, planes to be dragged.
import type { CameraSettings } from '@variscen/core/scene';
import { metres } from '../../../ui/format.ts';
import type { PlanLight } from '../../../model/planLights.ts';
import { type Outline, type P2, type PlanView, type Side, cone } from '../../../model/planGeometry.ts';
import {
  type Handle,
  HANDLES,
  HANDLE_WORDS,
  type ToPx,
  distancesOf,
  gripAt,
  hasHandles,
  isPlane,
} from './planHandles.ts';

const INK = {
  kept: '#8f8f8f',
  before: '#6a6a6a',
  beyond: '#6a6a6a',
  'off-frame': '#515151',
  hidden: '#3a3a3a',
} as const;
const KEPT_FILL = 'rgba(255, 255, 255, 0.06)';
const CUT_INK = '#ff8a7a';
const SELECTED_INK = '#c8e64a';
const CAMERA_INK = '#ededed';
const OTHER_CAMERA_INK = '#7d7d7d';
const DEPTH_INK = '#62b7ea';
const LIGHT_INK = '#f2c14e';
const DARK_LIGHT_INK = '#8a8a8a';
/** A light's dot, and the stick along which it shines. */
const LIGHT_PX = 3.5;
const STICK_PX = 16;
const WORDS_FONT = '11px "IBM Plex Sans Variable", sans-serif';
const NUMBERS_FONT = '11px "IBM Plex Mono", monospace';
/** Of more outlines than these each is thinner, so that what they are of is still told apart. */
const MANY = 3000;
/** What is drawn last lies over the others. */
const ORDER = ['hidden', 'off-frame', 'beyond', 'before', 'kept'] as const;
/** A grid line every so many pixels at least. */
const GRID_PX = 60;
/** Cameras that are not looked through reach so far, as a share of the way to what they focus on. */
const OTHER_REACH = 0.4;

export interface Size {
  readonly width: number;
  readonly height: number;
}
export interface NamedCamera {
  readonly name: string;
  readonly settings: CameraSettings;
}
export interface PlanPicture {
  readonly size: Size;
  readonly view: PlanView;
  readonly side: Side;
  readonly outlines: readonly Outline[];
  readonly selected: ReadonlySet<number>;
  /** Nodes that a plane cuts open. */
  readonly cut: ReadonlySet<number>;
  /** The one that is looked through. */
  readonly camera: NamedCamera | undefined;
  readonly others: readonly NamedCamera[];
  readonly lights?: readonly PlanLight[];
  /** Nothing of it is dragged. */
  readonly isOnlyShown?: boolean;
}

export const toPxOf =
  (size: Size, view: PlanView): ToPx =>
  (p) => [size.width / 2 + (p[0] - view.x) * view.pxPerM, size.height / 2 - (p[1] - view.y) * view.pxPerM];
export function toMetres(size: Size, view: PlanView, [x, y]: P2): P2 {
  return [view.x + (x - size.width / 2) / view.pxPerM, view.y - (y - size.height / 2) / view.pxPerM];
}

export function drawPlan(canvas: HTMLCanvasElement, picture: PlanPicture): void {
  const { size, view, side, camera, others } = picture;
  const g = canvas.getContext('2d')!;
  const k = window.devicePixelRatio;
  canvas.width = size.width * k;
  canvas.height = size.height * k;
  g.scale(k, k);
  g.clearRect(0, 0, size.width, size.height);
  const toPx = toPxOf(size, view);
  drawGrid(g, size, view, toPx);
  drawOutlines(g, picture, toPx);
  const labels: Label[] = [];
  if (camera) drawCamera(g, camera, side, true, toPx, labels);
  for (const other of others) drawCamera(g, other, side, false, toPx, labels);
  for (const light of picture.lights ?? []) drawLight(g, light, picture.selected.has(light.node), toPx, labels);
  if (camera && !picture.isOnlyShown && hasHandles(camera.settings, side))
    for (const handle of HANDLES) drawHandle(g, camera.settings, side, handle, toPx);
}

function drawGrid(g: CanvasRenderingContext2D, size: Size, view: PlanView, toPx: ToPx): void {
  if (!(size.width > 0)) return;
  const step = 10 ** Math.ceil(Math.log10(GRID_PX / view.pxPerM));
  const halfW = size.width / 2 / view.pxPerM;
  const halfH = size.height / 2 / view.pxPerM;
  g.strokeStyle = '#262626';
  g.lineWidth = 1;
  g.fillStyle = '#8a8a8a';
  g.font = NUMBERS_FONT;
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

function drawOutlines(g: CanvasRenderingContext2D, picture: PlanPicture, toPx: ToPx): void {
  const { outlines, cut, selected, isOnlyShown } = picture;

  if (isOnlyShown) fillHulls(g, outlines, toPx);
  for (const kind of ORDER) {
    g.setLineDash(kind === 'before' || kind === 'beyond' ? [3, 3] : []);
    strokeHulls(g, outlines, (o) => o.state === kind, INK[kind], outlines.length > MANY ? 0.35 : 0.8, toPx);
  }
  g.setLineDash([]);
  strokeHulls(g, outlines, (o) => cut.has(o.node), CUT_INK, 1.6, toPx);
  strokeHulls(g, outlines, (o) => selected.has(o.node), SELECTED_INK, 1.6, toPx);
}
/** What is kept stands out from what is only drawn. */
function fillHulls(g: CanvasRenderingContext2D, outlines: readonly Outline[], toPx: ToPx): void {
  g.fillStyle = KEPT_FILL;
  for (const { hull, state } of outlines) {
    if (state !== 'kept') continue;
    g.beginPath();
    for (const p of hull) g.lineTo(...(toPx(p) as [number, number]));
    g.fill();
  }
}
function strokeHulls(
  g: CanvasRenderingContext2D,
  outlines: readonly Outline[],
  isDrawn: (o: Outline) => boolean,
  ink: string,
  lineWidth: number,
  toPx: ToPx,
): void {
  g.beginPath();
  for (const { hull } of outlines.filter(isDrawn)) {
    const [first, ...rest] = hull.map(toPx);
    if (!first) continue;
    g.moveTo(first[0], first[1]);
    for (const p of rest) g.lineTo(p[0], p[1]);
    g.closePath();
  }
  g.strokeStyle = ink;
  g.lineWidth = lineWidth;
  g.stroke();
}

function drawLight(
  g: CanvasRenderingContext2D,
  light: PlanLight,
  isSelected: boolean,
  toPx: ToPx,
  labels: Label[],
): void {
  const ink = light.isOn ? LIGHT_INK : DARK_LIGHT_INK;
  const at = toPx(light.at);
  g.strokeStyle = isSelected ? SELECTED_INK : ink;
  g.lineWidth = isSelected ? 1.6 : 1;
  g.beginPath();
  for (const [i, p] of light.outline.map(toPx).entries()) {
    if (i === 0) g.moveTo(p[0], p[1]);
    else g.lineTo(p[0], p[1]);
  }
  if (light.outline.length > 2) g.closePath();
  if (light.towards) {
    const to = toPx(light.towards);
    const length = Math.hypot(to[0] - at[0], to[1] - at[1]);
    // seen end on there is no stick
    const k = length > 1e-6 ? Math.min(1, length / STICK_PX) * (STICK_PX / length) : 0;
    g.moveTo(at[0], at[1]);
    g.lineTo(at[0] + (to[0] - at[0]) * k, at[1] + (to[1] - at[1]) * k);
  }
  g.stroke();
  g.beginPath();
  g.arc(at[0], at[1], LIGHT_PX, 0, 7);
  g.fillStyle = g.strokeStyle;
  g.fill();
  if (!isSelected) return;
  g.font = WORDS_FONT;
  const label: Label = { x: at[0] + 8, y: at[1] - 7, w: g.measureText(light.name).width, h: 14 };
  labels.push(label);
  g.fillText(light.name, label.x, at[1] + 4);
}

interface Label {
  readonly x: number;
  readonly y: number;
  readonly w: number;
  readonly h: number;
}
function drawCamera(
  g: CanvasRenderingContext2D,
  { name, settings: c }: NamedCamera,
  side: Side,
  current: boolean,
  toPx: ToPx,
  labels: Label[],
): void {
  const ink = current ? CAMERA_INK : OTHER_CAMERA_INK;
  const { eye, ends } = cone(c, side, current ? c.farM : c.focusDistanceM * OTHER_REACH);
  const e = toPx(eye);
  const starts = c.projection === 'orthographic' ? cone(c, side, 0).ends.map(toPx) : [e, e];
  g.strokeStyle = ink;
  g.lineWidth = current ? 1.1 : 0.9;
  g.beginPath();
  ends.map(toPx).forEach((p, i) => {
    g.moveTo(starts[i]![0], starts[i]![1]);
    g.lineTo(p[0], p[1]);
  });
  g.stroke();
  g.beginPath();
  g.arc(e[0], e[1], current ? 4 : 3, 0, 7);
  g.fillStyle = ink;
  g.fill();
  g.font = WORDS_FONT;
  // a name that would lie on another is left out; the list beside has them all
  const label: Label = { x: e[0] + 8, y: e[1] - 7, w: g.measureText(name).width, h: 14 };
  if (labels.some((l) => overlap(l, label))) return;
  labels.push(label);
  g.fillText(name, label.x, e[1] + 4);
}
function overlap(a: Label, b: Label): boolean {
  return a.x < b.x + b.w && b.x < a.x + a.w && a.y < b.y + b.h && b.y < a.y + a.h;
}

function drawHandle(g: CanvasRenderingContext2D, c: CameraSettings, side: Side, handle: Handle, toPx: ToPx): void {
  const distanceM = distancesOf(c)[handle];
  const plane = isPlane(handle);
  const [a, b] = cone(c, side, distanceM).ends.map(toPx) as [P2, P2];
  const grip = gripAt(c, side, handle, distanceM, toPx);
  g.strokeStyle = plane ? CAMERA_INK : DEPTH_INK;
  g.fillStyle = g.strokeStyle;
  g.lineWidth = plane ? 1.4 : 1;
  g.setLineDash(plane ? [] : [5, 4]);
  g.beginPath();
  g.moveTo(a[0], a[1]);
  g.lineTo(b[0], b[1]);
  g.stroke();
  g.setLineDash([]);
  g.beginPath();
  if (plane) g.rect(grip[0] - 4, grip[1] - 4, 8, 8);
  else g.arc(grip[0], grip[1], 4.5, 0, 7);
  g.fill();
  const isFar = handle === 'far' || handle === 'depthFar';
  const eye = toPx(cone(c, side, 0).eye);
  const isAtEye = Math.hypot(grip[0] - eye[0], grip[1] - eye[1]) < 16;
  const below = isAtEye ? 24 : 13;
  g.font = NUMBERS_FONT;
  g.textAlign = plane ? 'left' : 'right';
  const text = `${HANDLE_WORDS[handle]} ${metres(distanceM)}`;
  g.fillText(text, grip[0] + (plane ? 9 : -9), grip[1] + (isFar ? -5 : below));
  g.textAlign = 'left';
}
