// What can change a cell's picture, in a canonical form: two cells with one hash have one picture. Names and notes are
// not in it, nor are values that equal the scene's own, so changing a thing back makes a picture current again.
import { sha256 } from '@noble/hashes/sha2.js';
import { bytesToHex, utf8ToBytes } from '@noble/hashes/utils.js';
import type { CameraSettings } from '../scene/index.ts';
import { type Value, propertyOf, unitOf } from './properties.ts';
import { type ResolvedState, keyOf, sameValue, valueText } from './resolve.ts';
import { originalPath, parseTarget } from './targets.ts';
import { unseenAmong } from './unseenValues.ts';

export interface Inputs {
  readonly scene: string;
  readonly camera: CameraSettings;
  /** Values that differ from the scene's own: [target, property, value], sorted. */
  readonly values: readonly (readonly [string, string, Value])[];
}

export function inputsOf(sceneHash: string, camera: CameraSettings, state: ResolvedState): Inputs {
  const values: [string, string, Value][] = [];
  const inForce = [...state.values.values()].map((v) => ({ ...v, property: v.property.id }));
  const isUnseen = unseenAmong(state.scene, inForce);
  for (const v of state.values.values()) {
    if (isUnseen({ target: v.target, property: v.property.id, value: v.value })) continue;
    // what equals the scene's own changes nothing, but on a copy, which otherwise is as its original
    const { name } = parseTarget(v.target)!;
    if (originalPath(name) !== name || !sameValue(v.value, v.property.base(state.scene, name)))
      values.push([v.target, v.property.id, v.value]);
  }
  return { scene: sceneHash, camera, values: values.sort((a, b) => (keyOf(a[0], a[1]) < keyOf(b[0], b[1]) ? -1 : 1)) };
}

/** JSON with sorted keys, so that the order in which things were written does not matter. */
export function canonical(x: unknown): string {
  if (Array.isArray(x)) return `[${x.map(canonical).join(',')}]`;
  if (x && typeof x === 'object')
    return `{${Object.keys(x)
      .sort()
      .filter((k) => (x as Record<string, unknown>)[k] !== undefined)
      .map((k) => `${JSON.stringify(k)}:${canonical((x as Record<string, unknown>)[k])}`)
      .join(',')}}`;
  return JSON.stringify(x);
}
export const hashOf = (x: unknown): string => bytesToHex(sha256(utf8ToBytes(canonical(x))));

/** 256 bits of one value of one thing. */
export type Digest = Uint32Array;
export const digestOf = (target: string, property: string, value: Value): Digest => {
  const b = sha256(utf8ToBytes(JSON.stringify([target, property, value])));
  return new Uint32Array(b.buffer, b.byteOffset, 8);
};

/**
 * A sum of digests modulo 2^256: the same whatever the order of adding, so that states need not be sorted, and a digest
 * is made once for each change instead of once for each cell that it is in (bench resolve).
 */
export class DigestSum {
  /**
   * 32 bits each and what is carried; a double counts exactly to 2^53, so two million digests fit before anything need
   * be carried on.
   */
  private readonly parts = new Float64Array(8);
  private added = 0;
  add(d: Digest): void {
    if (++this.added === 1 << 20) this.carry();
    const p = this.parts;
    p[0]! += d[0]!;
    p[1]! += d[1]!;
    p[2]! += d[2]!;
    p[3]! += d[3]!;
    p[4]! += d[4]!;
    p[5]! += d[5]!;
    p[6]! += d[6]!;
    p[7]! += d[7]!;
  }
  /** With all that another sum holds. */
  plus(other: DigestSum): DigestSum {
    const out = new DigestSum();
    for (const s of [this, other]) {
      s.carry();
      for (let i = 0; i < 8; i++) out.parts[i]! += s.parts[i]!;
    }
    out.added = 2;
    return out;
  }
  hex(): string {
    this.carry();
    return Array.from(this.parts, (x) => x.toString(16).padStart(8, '0')).join('');
  }
  private carry(): void {
    let over = 0;
    for (let i = 0; i < 8; i++) {
      const s = this.parts[i]! + over;
      this.parts[i] = s % 2 ** 32;
      over = Math.floor(s / 2 ** 32);
    }
    this.added = 1;
  }
}
export const isGrade = (property: string): boolean => propertyOf(property)?.facet === 'grade';

/** What a cell is told by: its scene, its camera as canonical text, and the sum of its values. */
export const stateHash = (scene: string, camera: string, values: string): string =>
  bytesToHex(sha256(utf8ToBytes(`${scene}\n${camera}\n${values}`)));
const sumOf = (values: Inputs['values']): string => {
  const sum = new DigestSum();
  for (const [t, p, v] of values) sum.add(digestOf(t, p, v));
  return sum.hex();
};
/**
 * A camera without what shows in none of its pictures: the focus where everything is sharp, the height of view in
 * perspective, the lens where there is none.
 */
export function cameraAsSeen(camera: CameraSettings): Partial<CameraSettings> {
  const { focusDistanceM, blades, orthoHalfHeightM, focalLengthMm, sensorWidthMm, fStop, cull, ...always } = camera;
  const { plan: _, keep, leaveOut, standIns, ...rules } = cull ?? {};
  const isSet = (x: unknown) => x !== undefined && x !== false;
  // what is pinned counts against rules alone: a plan leaves out none of it
  const hasRules = camera.cullMarginPct !== null || Object.values(rules).some(isSet);
  const leaves = { ...rules, leaveOut, standIns, ...(hasRules && { keep }) };
  const seen = Object.values(leaves).some(isSet) ? { ...always, cull: leaves } : always;
  if (camera.projection === 'orthographic') return { ...seen, orthoHalfHeightM };
  const lens = { ...seen, focalLengthMm, sensorWidthMm, fStop };
  return fStop === null ? lens : { ...lens, focusDistanceM, blades };
}
/** As text, in which states tell cameras apart. */
export const cameraText = (camera: CameraSettings): string => canonical(cameraAsSeen(camera));

/** The culling setting decides what is loaded, so it belongs to what a picture was made from. */
export const cellHash = (i: Inputs): string => stateHash(i.scene, cameraText(i.camera), sumOf(i.values));
/** Without the grade, which costs no trace: cells that share it share a trace. */
export const traceHash = (i: Inputs): string =>
  stateHash(i.scene, cameraText(i.camera), sumOf(i.values.filter(([, p]) => !isGrade(p))));

export interface Difference {
  readonly subject: string;
  readonly what: string;
  readonly was: string;
  readonly is: string;
}

/** What differs between two sets of inputs, in words. `state` is that of `now`. */
export function differences(was: Inputs, now: Inputs, state: Pick<ResolvedState, 'scene'>): Difference[] {
  const out: Difference[] = [];
  if (was.scene !== now.scene) out.push({ subject: 'Scene', what: 'revision', was: 'earlier', is: 'newer' });
  const [seenBefore, seenNow] = [cameraAsSeen(was.camera), cameraAsSeen(now.camera)];
  const isSame = (a: unknown, b: unknown) => canonical(a ?? null) === canonical(b ?? null);
  for (const key of Object.keys({ ...was.camera, ...now.camera }) as (keyof CameraSettings)[]) {
    if (isSame(was.camera[key], now.camera[key]) || isSame(seenBefore[key], seenNow[key])) continue;
    const [before, after] = [was.camera[key], now.camera[key]];
    out.push({ subject: 'Camera', what: CAMERA_WORDS[key], was: cameraValueText(before), is: cameraValueText(after) });
  }
  for (const { target, property: id, ...value } of changedValues(was, now, state)) {
    const property = propertyOf(id);
    const unit = property ? unitOf(property, state.scene, target) : '';
    out.push({
      subject: state.scene.label(target),
      what: (property?.label ?? id).toLowerCase(),
      was: valueText(property, value.was, unit, state.scene),
      is: valueText(property, value.is, unit, state.scene),
    });
  }
  return out;
}

export interface ValueChange {
  readonly target: string;
  readonly property: string;
  readonly was: Value | undefined;
  readonly is: Value | undefined;
}
/** Values that differ, with the scene's own where one of them says nothing. `state` is that of `now`. */
export function changedValues(was: Inputs, now: Inputs, { scene }: Pick<ResolvedState, 'scene'>): ValueChange[] {
  const before = new Map(was.values.map((v) => [keyOf(v[0], v[1]), v]));
  const after = new Map(now.values.map((v) => [keyOf(v[0], v[1]), v]));
  const out: ValueChange[] = [];
  for (const key of new Set([...before.keys(), ...after.keys()])) {
    const b = before.get(key);
    const a = after.get(key);
    const [target, property] = (b ?? a)!;
    const base = propertyOf(property)?.base(scene, parseTarget(target)?.name ?? '');
    const change = { target, property, was: b ? b[2] : base, is: a ? a[2] : base };
    if (!sameValue(change.was, change.is)) out.push(change);
  }
  return out;
}
const isCrop = (v: unknown): v is NonNullable<CameraSettings['crop']> =>
  typeof v === 'object' && v !== null && 'bottom' in v;
const isRange = (v: unknown): v is NonNullable<CameraSettings['depthRangeM']> =>
  typeof v === 'object' && v !== null && 'near' in v;
const isCull = (v: unknown): v is NonNullable<CameraSettings['cull']> =>
  typeof v === 'object' && v !== null && !isCrop(v) && !isRange(v);
function cullText({
  fartherThanM,
  smallerThanPx,
  outsidePlanes,
  leaveOut,
  standIns,
}: NonNullable<CameraSettings['cull']>): string {
  const words = [
    fartherThanM !== undefined && `farther than ${fartherThanM} m`,
    smallerThanPx !== undefined && `smaller than ${smallerThanPx} px`,
    outsidePlanes && 'outside the near and far planes',
    leaveOut !== undefined && `list ${leaveOut.slice(0, 8)}`,
    standIns !== undefined && `simplified meshes ${standIns.slice(0, 8)}`,
  ].filter((w) => w !== false && w !== undefined);
  return words.join(', ') || 'none';
}
function cameraValueText(value: unknown): string {
  if (Array.isArray(value)) return '';
  if (isCrop(value)) return `${value.left} to ${value.right} % across, ${value.top} to ${value.bottom} % down`;
  if (isRange(value)) return `${value.near} to ${value.far} m`;
  if (isCull(value)) return cullText(value);
  if (value === null || value === undefined) return 'none';
  return typeof value === 'number' ? String(Number(value.toPrecision(4))) : String(value);
}
const CAMERA_WORDS: Readonly<Record<keyof CameraSettings, string>> = {
  matrix: 'moved',
  projection: 'projection',
  widthPx: 'frame width',
  heightPx: 'frame height',
  sensorWidthMm: 'sensor width',
  focalLengthMm: 'focal length',
  orthoHalfHeightM: 'height of view',
  nearM: 'near plane',
  farM: 'far plane',
  focusDistanceM: 'focus distance',
  fStop: 'f-stop',
  cullMarginPct: 'culling margin',
  cull: 'culling',
  shiftX: 'shift to the right',
  shiftY: 'shift up',
  blades: 'aperture blades',
  crop: 'part of the frame',
  frame: 'frame',
  depthRangeM: 'depth range',
  follows: 'follows',
};
