// Scenes and looks of projects as the database holds them. Lists of changes are told apart by their text as it is
// stored, so that one that did not change is neither parsed nor digested again.
import { AppError } from '@variscen/contract';
import {
  type CellSources,
  type Change,
  CellHashes,
  type Facet,
  type Inputs,
  type ResolvedState,
  SceneIndex,
  inputsOf,
  layersOf,
  resolve,
} from '@variscen/core/looks';
import { type CameraSettings, type FrameRange, type SceneDocument, picturesAt } from '@variscen/core/scene';
import type { CellRef, PictureRef } from '../looksTasks.ts';
import { store, db, connected } from './reach.ts';

/** Projects whose scene and digests are kept. */
const KEPT = 3;
interface Known {
  readonly sceneHash: string;
  readonly index: SceneIndex;
  readonly hashes: CellHashes;
  readonly texts: Map<string, { readonly text: string; readonly value: unknown }>;
}
const known = new Map<string, Known>();
interface Camera {
  readonly id: string;
  readonly settings: CameraSettings;
  /** null: one picture. */
  readonly frames: readonly FrameRange[] | null;
}
export interface Loaded extends Known {
  readonly staysUnmet: boolean;
  readonly sources: Omit<CellSources, 'options' | 'cameras'> & {
    readonly cameras: readonly Camera[];
    readonly options: readonly {
      readonly id: string;
      readonly facet: Facet;
      readonly name: string;
      readonly notes: string;
      readonly changes: readonly Change[];
    }[];
  };
}

async function sceneOf(hash: string): Promise<SceneIndex> {
  return new SceneIndex(JSON.parse(new TextDecoder().decode(await store.get(hash))) as SceneDocument);
}

/** Of a project that is known, or read. */
export async function sceneAt(hash: string): Promise<SceneIndex> {
  return [...known.values()].find((k) => k.sceneHash === hash)?.index ?? (await sceneOf(hash));
}

export async function load(projectId: string): Promise<Loaded> {
  await connected;
  const ask = <T>(sql: string) => db.query<T[]>(sql, [projectId]);
  const [[project], cameras, options, variants, patches] = await Promise.all([
    ask<{ name: string; base: string; scene_hash: string | null; stays_unmet: boolean }>(
      `SELECT p.name, p.base::text AS base, r.scene_hash, p.stays_unmet
        FROM project p LEFT JOIN scene_revision r ON r.id = p.revision_id WHERE p.id = $1`,
    ),
    ask<{ id: string; settings: string; frames: FrameRange[] | null }>(
      `SELECT id, settings::text AS settings, nullif(handling->'frames', 'null') AS frames FROM camera
        WHERE project_id = $1 ORDER BY ordinal`,
    ),
    ask<{ id: string; facet: Facet; name: string; notes: string; changes: string }>(
      `SELECT id, facet, name, notes, changes::text AS changes FROM look_option WHERE project_id = $1 ORDER BY ordinal`,
    ),
    ask<{ id: string; option_ids: string[] }>(
      `SELECT id, option_ids FROM variant WHERE project_id = $1 ORDER BY ordinal`,
    ),
    ask<{ camera_id: string; variant_id: string | null; changes: string }>(
      `SELECT camera_id, variant_id, changes::text AS changes FROM patch WHERE project_id = $1`,
    ),
  ]);
  if (!project) throw new AppError('NOT_FOUND', 'There is no such project.');
  if (project.scene_hash === null) throw new AppError('NO_SCENE', `“${project.name}” has no scene yet.`);
  let k = known.get(projectId);
  if (k?.sceneHash !== project.scene_hash) {
    const index = await sceneOf(project.scene_hash);
    k = { sceneHash: project.scene_hash, index, hashes: new CellHashes(index, project.scene_hash), texts: new Map() };
  }
  known.delete(projectId);
  known.set(projectId, k);
  while (known.size > KEPT) known.delete(known.keys().next().value!);
  const { texts } = k;
  const used = new Set<string>();
  const same = <T>(key: string, text: string): T => {
    used.add(key);
    let x = texts.get(key);
    if (x?.text !== text) texts.set(key, (x = { text, value: JSON.parse(text) }));
    return x.value as T;
  };
  const sources: Loaded['sources'] = {
    base: same<Change[]>('base', project.base),
    cameras: cameras.map(({ id, settings, frames }) => ({
      id,
      settings: same<CameraSettings>(`camera ${id}`, settings),
      frames,
    })),
    options: options.map((o) => ({ ...o, changes: same<Change[]>(`option ${o.id}`, o.changes) })),
    variants: variants.map((v) => ({ id: v.id, optionIds: v.option_ids })),
    patches: patches.map((p) => ({
      cameraId: p.camera_id,
      variantId: p.variant_id,
      changes: same<Change[]>(`patch ${p.camera_id} ${p.variant_id ?? ''}`, p.changes),
    })),
  };
  for (const key of texts.keys()) if (!used.has(key)) texts.delete(key);
  return { ...k, staysUnmet: project.stays_unmet, sources };
}
/** What pictures would be rendered from now. What cameras see of one look is worked out once. */
export class LooksNow {
  private readonly looks = new Map<string, { readonly state: ResolvedState; readonly values: Inputs['values'] }>();
  private readonly cameras: ReadonlyMap<string, Camera>;
  private readonly variants: ReadonlyMap<string, Loaded['sources']['variants'][number]>;
  private readonly patched: ReadonlySet<string>;

  constructor(private readonly l: Loaded) {
    this.cameras = new Map(l.sources.cameras.map((c) => [c.id, c]));
    this.variants = new Map(l.sources.variants.map((v) => [v.id, v]));
    this.patched = new Set(l.sources.patches.map((p) => p.cameraId));
  }
  /** @throws AppError NOT_FOUND */
  of({ cameraId, variantId, frame }: PictureRef) {
    const camera = this.cameras.get(cameraId);
    const variant = this.variants.get(variantId);
    if (!camera || !variant) throw new AppError('NOT_FOUND', 'A selected cell no longer exists.');
    const look = this.lookOf(variant, cameraId);
    const settings = settingsAt(camera.settings, frame);
    const inputs: Inputs = { scene: this.l.sceneHash, camera: settings, values: look.values };
    return { camera, variant, look, settings, inputs, state: look.state };
  }
  private lookOf(variant: Loaded['sources']['variants'][number], cameraId: string) {
    const { l } = this;
    const key = this.patched.has(cameraId) ? `${variant.id} ${cameraId}` : variant.id;
    const known = this.looks.get(key);
    if (known) return known;
    const state = resolve(l.index, layersOf(l.sources, variant, cameraId));
    const { settings } = this.cameras.get(cameraId)!;
    const made = { state, values: inputsOf(l.sceneHash, settings, state).values };
    this.looks.set(key, made);
    return made;
  }
}

const framed = new WeakMap<CameraSettings, Map<number, CameraSettings>>();
/** A camera at a frame of its sequence: one object for one frame, so that it is digested once. */
function settingsAt(settings: CameraSettings, frame: number | null): CameraSettings {
  if (frame === null) return settings;
  let known = framed.get(settings);
  if (!known) framed.set(settings, (known = new Map()));
  let at = known.get(frame);
  if (!at) {
    const { frame: _, ...rest } = settings;
    known.set(frame, (at = frame === 0 ? rest : { ...rest, frame })); // the first frame is the one that is not set
  }
  return at;
}

export interface HashedPicture extends PictureRef {
  readonly hash: string;
}
/** Of every picture of every cell, camera by camera. */
export function hashesOf({ hashes, sources }: Loaded, cell: CellRef | null = null): HashedPicture[] {
  const cameras = sources.cameras.filter((c) => !cell || c.id === cell.cameraId);
  const variants = sources.variants.filter((v) => !cell || v.id === cell.variantId);
  return cameras.flatMap(({ id, settings, frames }) => {
    const pictures = picturesAt(frames);
    return variants.flatMap((v) =>
      pictures.map((frame): HashedPicture => {
        const { cell: hash } = hashes.of(sources, v, { id, settings: settingsAt(settings, frame) });
        return { cameraId: id, variantId: v.id, frame, hash };
      }),
    );
  });
}
