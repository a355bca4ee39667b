// Entry of the thread for looks. It reads the database itself: what a project holds may be many megabytes, which nobody
// should copy between threads. Lists of changes are told apart by their text as it is stored, so that one that did not
// change is neither parsed nor digested again.
import { existsSync } from 'node:fs';
import { readFile, rm } from 'node:fs/promises';
import { parentPort, workerData } from 'node:worker_threads';
import { AppError } from '@variscen/contract';
import {
  type CullEvidence,
  leftOutBy,
  mergeEvidence,
  packCullPlan,
  planFor,
  sharpened,
  standInsFor,
  standInsText,
  unpackMet,
} from '@variscen/core/cull';
import {
  type CellSources,
  type Change,
  CellHashes,
  type Difference,
  type Facet,
  type Inputs,
  type LookRemarks,
  type ResolvedState,
  SceneIndex,
  changesOnlyUnmet,
  differences,
  inputsOf,
  layersOf,
  matchLooks,
  originalPath,
  packLooks,
  remarksOf,
  resolve,
  traceHash,
} from '@variscen/core/looks';
import { type CameraSettings, type FrameRange, type SceneDocument, picturesAt } from '@variscen/core/scene';
import { DataSource } from 'typeorm';
import { contentOf } from '../files/sceneContent.ts';
import { AssetStore, notSoundOf, sha256 } from '../files/store.ts';
import { type Lighting, type SharedTrace, sharedTraces } from './sharedTraces.ts';
import {
  type CellRef,
  type LooksAnswers,
  type LooksAsk,
  type LooksReply,
  type LooksSetup,
  type MeasuredLook,
  type PictureRef,
  byCell,
  cellKey,
  pictureKey,
} from './looksTasks.ts';

const { databaseUrl, assets } = workerData as LooksSetup;
const store = new AssetStore(assets);
const db = new DataSource({ type: 'postgres', url: databaseUrl, extra: { max: 2 } });
/** Projects whose scene and digests are kept. */
const KEPT = 3;
/** Renders whose inputs are held at a time. */
const COMPARED_TOGETHER = 64;
const connected = db.initialize();

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
interface Loaded extends Known {
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

async function load(projectId: string): Promise<Loaded> {
  await connected;
  const ask = <T>(sql: string) => db.query<T[]>(sql, [projectId]);
  const [[project], cameras, options, variants, patches] = await Promise.all([
    ask<{ name: string; base: string; scene_hash: string | null; stays_unmet: boolean }>(
      `SELECT p.name, p.base::text AS base, r.scene_hash, p.stays_unmet FROM project p LEFT JOIN scene_revision r ON r.id = p.revision_id WHERE p.id = $1`,
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
class LooksNow {
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

interface HashedPicture extends PictureRef {
  readonly hash: string;
}
/** Of every picture of every cell, camera by camera. */
function hashesOf({ hashes, sources }: Loaded, cell: CellRef | null = null): HashedPicture[] {
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

interface LastRender extends PictureRef {
  readonly id: string;
  readonly hash: string;
  /** Whether it is known what its rays met. */
  readonly isMetKnown: boolean;
}
/** By picture its last render. */
async function lastRenders(projectId: string, profileId: string | null) {
  const rows = await db.query<LastRender[]>(
    `SELECT DISTINCT ON (camera_id, variant_id, frame)
        id, camera_id "cameraId", variant_id "variantId", frame, hash, met IS NOT NULL "isMetKnown"
      FROM render WHERE project_id = $1 AND ($2::text IS NULL OR profile->>'id' = $2)
      ORDER BY camera_id, variant_id, frame, version DESC`,
    [projectId, profileId],
  );
  return new Map(rows.map((r) => [pictureKey(r), r]));
}

async function board({ projectId, profileId, cell }: LooksAsk & { kind: 'board' }): Promise<LooksAnswers['board']> {
  const l = await load(projectId);
  const pictures = hashesOf(l, cell);
  const changed = await changedSince(l, pictures, await lastRenders(projectId, profileId), true);
  return pictures.map((p) => ({ ...p, ...(changed.get(pictureKey(p)) ?? { stands: false, differences: [] }) }));
}

interface Changed {
  /** Only what none of its rays met has changed. */
  readonly stands: boolean;
  readonly differences: readonly Difference[];
}
interface RenderedFrom {
  readonly id: string;
  readonly inputs: Inputs;
  readonly met: string | null;
}

/**
 * Of pictures whose look is another since they were rendered, whether they stand, and what has changed; of a sequence
 * the first that differs says it for all: what was changed is in each of them.
 * @param saysWhat otherwise only whether they stand
 */
async function changedSince(
  l: Loaded,
  pictures: readonly HashedPicture[],
  last: Awaited<ReturnType<typeof lastRenders>>,
  saysWhat: boolean,
): Promise<ReadonlyMap<string, Changed>> {
  const looks = new LooksNow(l);
  const told = new Set<string>();
  const wanted = pictures.flatMap((p) => {
    const render = last.get(pictureKey(p));
    if (!render || render.hash === p.hash) return [];
    const tells = saysWhat && !told.has(cellKey(p));
    told.add(cellKey(p));
    return tells || (l.staysUnmet && render.isMetKnown) ? [{ p, id: render.id, tells }] : [];
  });
  const out = new Map<string, Changed>();
  for (let i = 0; i < wanted.length; i += COMPARED_TOGETHER) {
    const some = wanted.slice(i, i + COMPARED_TOGETHER);
    const rows = await db.query<RenderedFrom[]>('SELECT id, inputs, met FROM render WHERE id = ANY($1)', [
      some.map(({ id }) => id),
    ]);
    const from = new Map(rows.map((r) => [r.id, r]));
    for (const { p, id, tells } of some) {
      const was = from.get(id);
      if (!was) continue;
      const is = looks.of(p);
      out.set(pictureKey(p), {
        stands: l.staysUnmet && stands(was, is, l.index.document.nodes.length),
        differences: tells ? differences(was.inputs, is.inputs, is.state) : [],
      });
    }
  }
  return out;
}
const stands = (was: RenderedFrom, is: { inputs: Inputs; state: ResolvedState }, nodes: number): boolean =>
  was.met !== null && changesOnlyUnmet(was.inputs, is.inputs, is.state, unpackMet(was.met, nodes));

/** In what the inputs of two renders differ. */
async function rendersDiffer(was: string, is: string): Promise<readonly Difference[]> {
  await connected;
  const rows = await db.query<{ id: string; inputs: Inputs }[]>('SELECT id, inputs FROM render WHERE id = ANY($1)', [
    [was, is],
  ]);
  const inputsOfRender = (id: string) => rows.find((r) => r.id === id)?.inputs;
  const [before, now] = [inputsOfRender(was), inputsOfRender(is)];
  if (!before || !now) throw new AppError('NOT_FOUND', 'There is no such picture.');
  const scene = [...known.values()].find((k) => k.sceneHash === now.scene)?.index ?? (await sceneOf(now.scene));
  return differences(before, now, { scene });
}

/** By picture the stored one whose light it has: its own latest before others of its camera, then the newest. */
async function developable(projectId: string, refs: readonly PictureRef[]): Promise<LooksAnswers['develop']> {
  const l = await load(projectId);
  const cells = cellsOf(l, refs);
  const rows = await db.query<Lit[]>(LIT, [projectId, [...new Set(refs.map((r) => r.cameraId))]]);
  const own = new Map(rows.map((r) => [pictureKey(r), r]));
  const newest = new Map<string, Lit>();
  const lights = new Map<string, string>();
  for (let i = 0; i < rows.length; i += COMPARED_TOGETHER) {
    const some = rows.slice(i, i + COMPARED_TOGETHER);
    const inputs = await db.query<{ id: string; inputs: Inputs }[]>(
      'SELECT id, inputs FROM render WHERE id = ANY($1)',
      [some.map((r) => r.id)],
    );
    for (const r of inputs) lights.set(r.id, traceHash(r.inputs));
  }
  const keyOf = (cameraId: string, light: string | undefined) => `${cameraId} ${light ?? ''}`;
  for (const r of rows) {
    const key = keyOf(r.cameraId, lights.get(r.id));
    const known = newest.get(key);
    if (!known || r.at > known.at) newest.set(key, r);
  }
  return cells.map(({ inputs, hash, traceHash: light }, i) => {
    const ref = refs[i]!;
    const mine = own.get(pictureKey(ref));
    const from = mine && lights.get(mine.id) === light ? mine : newest.get(keyOf(ref.cameraId, light));
    return { inputs, hash, renderId: from?.id ?? null, isCurrent: mine?.hash === hash };
  });
}
interface Lit extends PictureRef {
  readonly id: string;
  readonly hash: string;
  readonly at: Date;
}
/** The latest of each picture, where its light is in a file. */
const LIT = `
  SELECT id, "cameraId", "variantId", frame, hash, at FROM (
    SELECT DISTINCT ON (camera_id, variant_id, frame)
      id, camera_id "cameraId", variant_id "variantId", frame, hash, created_at at, files
    FROM render WHERE project_id = $1 AND camera_id = ANY($2) AND cleaning_id IS NULL
    ORDER BY camera_id, variant_id, frame, version DESC) latest
  WHERE files @> '[{"kind": "exr"}]'`;

/** For a list of projects: without what the board says of each cell. */
async function counts(projectId: string): Promise<LooksAnswers['counts']> {
  const l = await load(projectId);
  const [last, open, excluded] = await Promise.all([
    lastRenders(projectId, null),
    db.query<{ cell: string }[]>(
      `SELECT (c.cell->>'cameraId') || ' ' || (c.cell->>'variantId') AS cell
        FROM trace t, jsonb_array_elements(t.cells) c(cell)
        WHERE t.project_id = $1 AND t.state IN ('waiting', 'paused', 'rendering')`,
      [projectId],
    ),
    db.query<{ cell: string }[]>(
      `SELECT e.camera || ' ' || v.id AS cell FROM variant v, jsonb_array_elements_text(v.excluded_camera_ids) e(camera)
        WHERE v.project_id = $1`,
      [projectId],
    ),
  ]);
  const isOpen = new Set(open.map((r) => r.cell));
  const isOut = new Set(excluded.map((r) => r.cell));
  const pictures = hashesOf(l).filter((p) => !isOut.has(cellKey(p)));
  const changed = await changedSince(l, pictures, last, false);
  const isAsNow = (p: HashedPicture) =>
    last.get(pictureKey(p))?.hash === p.hash || changed.get(pictureKey(p))?.stands === true;
  const cells = byCell(pictures);
  const current = [...cells].flatMap(([key, of]) => {
    if (isOpen.has(key) || !of.every(isAsNow)) return [];
    return [of.map((p) => last.get(pictureKey(p))!.id)];
  });
  return { total: cells.size, current };
}

/**
 * What cells would be rendered from. Values and remarks of cells in one look are one object, here and where they
 * arrive, so that thousands of cells are as small as their looks.
 */
function cellsOf(l: Loaded, refs: readonly PictureRef[]): readonly CellNow[] {
  const looks = new LooksNow(l);
  const said = new Map<unknown, LookRemarks>();
  return refs.map((ref) => {
    const { look, variant, settings, inputs } = looks.of(ref);
    const remarks = said.get(look) ?? remarksOf(look.state);
    said.set(look, remarks);
    const { cell: hash, trace } = l.hashes.of(l.sources, variant, { id: ref.cameraId, settings });
    return { inputs, hash, traceHash: trace, remarks, state: look.state };
  });
}

type CellNow = LooksAnswers['cells']['cells'][number] & { readonly state: ResolvedState };

/** Of pictures whose traces differ, which one trace can serve. */
function sharedOf(
  scene: SceneIndex,
  cells: readonly CellNow[],
  { apart, mostParts }: NonNullable<Extract<LooksAsk, { kind: 'cells' }>['sharing']>,
): SharedTrace[] {
  const first = new Map<string, Lighting>();
  cells.forEach(({ inputs, state, traceHash }, place) => {
    const key = `${traceHash} ${apart[place]!}`;
    if (!first.has(key)) first.set(key, { place, inputs, state, apart: apart[place]! });
  });
  return sharedTraces(scene, [...first.values()], mostParts);
}

/** @throws AppError DAMAGED of a file that is not what was written; it is gone then, and can be measured again */
async function evidenceOf(file: string): Promise<CullEvidence> {
  try {
    return JSON.parse(await readFile(file, 'utf8')) as CullEvidence;
  } catch {
    await rm(file, { force: true });
    throw new AppError('DAMAGED', 'What was measured is damaged in the data folder.', 'Measure it again.');
  }
}
/** With what renders of the same pictures tell beside it. */
async function evidenceIn(all: readonly MeasuredLook[], { nodes, document }: SceneIndex): Promise<CullEvidence[]> {
  const looks: CullEvidence[] = [];
  for (const { file, met } of all) {
    const own = await evidenceOf(file);
    const isMet = met === null ? () => false : unpackMet(met, document.nodes.length);
    const isKnownMet = (path: string): boolean => {
      const node = nodes.get(originalPath(path));
      return node !== undefined && isMet(node);
    };
    looks.push(sharpened(own, isKnownMet));
  }
  return looks;
}

async function cullPlan({
  projectId,
  asked,
  evidence,
  standIns,
}: Extract<LooksAsk, { kind: 'cullPlan' }>): Promise<LooksAnswers['cullPlan']> {
  const { index } = await load(projectId);
  const looks = await evidenceIn(evidence, index);
  const from = evidence.map((e) => e.variant);
  const plan = planFor(asked, looks.length ? mergeEvidence(looks) : null, index.document, from, standIns);
  const hashOf = (names: readonly string[]) =>
    names.length ? sha256(new TextEncoder().encode(names.join('\n'))) : null;
  return {
    plan: await store.put(packCullPlan(plan)),
    leaveOut: hashOf(leftOutBy(plan)),
    keep: hashOf([...plan.keep].sort()),
    standIns: Object.keys(plan.standIns).length ? sha256(new TextEncoder().encode(standInsText(plan.standIns))) : null,
  };
}

/** Meshes that may be simplified for a camera. */
async function standInsWanted({
  projectId,
  asked,
  evidence,
}: Extract<LooksAsk, { kind: 'standIns' }>): Promise<LooksAnswers['standIns']> {
  const { index, sceneHash } = await load(projectId);
  const looks = await evidenceIn(evidence, index);
  return { sceneHash, wanted: looks.length ? [...standInsFor(asked, mergeEvidence(looks), index.document)] : [] };
}

async function answer(ask: LooksAsk): Promise<unknown> {
  switch (ask.kind) {
    case 'board':
      return board(ask);
    case 'cells': {
      const l = await load(ask.projectId);
      const cells = cellsOf(l, ask.refs);
      const shared = ask.sharing ? sharedOf(l.index, cells, ask.sharing) : [];
      const files = cells.flatMap((x) => x.remarks.files.map((f) => f.hash));
      const ofScene = [...contentOf(l.index.document)].map(([hash]) => hash);
      const plans = cells.flatMap((x) => x.inputs.camera.cull?.plan ?? []);
      const notSound = await notSoundOf(store, [...ofScene, ...files, ...plans]);
      const told = cells.map(({ state: _, ...cell }) => cell);
      return { cells: told, shared, notSound } satisfies LooksAnswers['cells'];
    }
    case 'counts':
      return counts(ask.projectId);
    case 'develop':
      return developable(ask.projectId, ask.refs);
    case 'renders':
      return rendersDiffer(ask.was, ask.is);
    case 'evidence':
      return JSON.stringify(mergeEvidence(await evidenceIn(ask.evidence, (await load(ask.projectId)).index)));
    case 'cullPlan':
      return cullPlan(ask);
    case 'standIns':
      return standInsWanted(ask);
    case 'pack': {
      const l = await load(ask.projectId);
      return packLooks(
        ask.from,
        ask.optionIds.map((id) => {
          const o = l.sources.options.find((x) => x.id === id);
          if (!o) throw new AppError('NOT_FOUND', 'One of these options is no longer there.');
          return o;
        }),
        l.index,
      );
    }
    case 'match':
      return matchLooks(ask.looks, (await load(ask.projectId)).index, ask.byHand, (hash) =>
        existsSync(store.path(hash)),
      );
  }
}

// one after another: what is kept of a project belongs to one question at a time
let last: Promise<void> = Promise.resolve();
parentPort!.on('message', ({ id, ask }: { id: number; ask: LooksAsk }) => {
  last = last
    .then(() => answer(ask))
    .then(
      (value): LooksReply => ({ id, value }),
      (e: unknown): LooksReply => ({
        id,
        code: e instanceof AppError ? e.code : 'INTERNAL',
        message: e instanceof Error ? e.message : String(e),
      }),
    )
    .then((m) => {
      parentPort!.postMessage(m);
    });
});
