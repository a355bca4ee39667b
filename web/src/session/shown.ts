// A project as the page shows it while edits are on their way.
import type { Camera, Project } from '@variscen/contract';
import type { Change } from '@variscen/core/looks';
import type { CameraHandling, CameraSettings } from '@variscen/core/scene';

export type Guide = CameraHandling['guides'][number];
export interface CameraChange {
  /** An undefined setting clears it. */
  readonly settings?: Partial<CameraSettings>;
  readonly handling?: Partial<CameraHandling>;
  /** Guides that are added and taken away; the others stay as each camera has them. */
  readonly guides?: { readonly add: readonly Guide[]; readonly remove: readonly Guide[] };
  /** What differs by camera. */
  readonly own?: readonly { readonly cameraId: string; readonly settings: Partial<CameraSettings> }[];
}

/** What only one camera can have. */
export interface OneCameraChange {
  readonly name?: string;
  readonly settings?: CameraSettings;
  readonly handling?: CameraHandling;
}

export function withPending(p: Project, destination: string, changes: readonly Change[]): Project {
  const others = p.pending.filter((x) => x.destination !== destination);
  return { ...p, pending: changes.length ? [...others, { destination, changes: changes as Project['base'] }] : others };
}

export function withCameras(p: Project, ids: readonly string[], change: CameraChange): Project {
  return { ...p, cameras: p.cameras.map((c) => (ids.includes(c.id) ? changed(c, change) : c)) };
}
function changed(c: Camera, { settings, handling, guides, own: byCamera }: CameraChange): Camera {
  const ownSettings = byCamera?.find((x) => x.cameraId === c.id)?.settings;
  const own = { ...c.handling, ...handling };
  const kept = own.guides.filter((g) => !guides?.remove.includes(g) && !guides?.add.includes(g));
  return {
    ...c,
    settings: withoutUndefined({ ...c.settings, ...settings, ...ownSettings }) as Camera['settings'],
    handling: { ...own, guides: guides ? [...kept, ...guides.add] : own.guides } as Camera['handling'],
  };
}

export function withCamera(p: Project, id: string, set: OneCameraChange) {
  return { ...p, cameras: p.cameras.map((c) => (c.id === id ? ({ ...c, ...set } as Camera) : c)) };
}

/** The list in the order of ids; what they do not name stays behind. */
export function inOrder<T extends { readonly id: string }>(list: readonly T[], ids: readonly string[]): T[] {
  const at = new Map(ids.map((id, i) => [id, i]));
  return [...list].sort((a, b) => (at.get(a.id) ?? Infinity) - (at.get(b.id) ?? Infinity));
}

const withoutUndefined = (o: object): object =>
  Object.fromEntries(Object.entries(o).filter(([, v]) => v !== undefined));
/** As a request says it: null clears. */
export const nullsForUndefined = (o: object): object =>
  Object.fromEntries(Object.entries(o).map(([k, v]) => [k, v === undefined ? null : (v as unknown)]));
