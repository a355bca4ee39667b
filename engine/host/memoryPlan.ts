// Where everything of a job lies in the engine's memory, computed from counts alone. The planner asks it for bytes
// before anything is loaded, the packer writes exactly there: one function, so the two cannot differ. Addresses are
// 32-bit; more than 4 GiB is refused here.
//
// Order: job, tables, materials, geometries, vertices, textures, lights, acceleration | film, thread scratch (the
// builder's temporary space overlaps film and scratch, which nobody uses while structures are built).
import * as K from '../kernel/layout/index.ts';
import { MOST_JOB_BYTES, checkBudget } from './budget.ts';
import { filmGridOf, tilesOf } from './filmGrid.ts';
import type { JobCounts, MemoryCategory, MemoryPlan, TextureCounts, TexturePlace } from './memoryPlaces.ts';
import { type MipSize, mipSizes } from './mips.ts';
import { PLANE_SPECS, type PlaneName, layersBeside, layersOf, planesOf } from './renderSettings.ts';
import { NOWHERE, piecePlaces } from './storedMesh.ts';

/**
 * How many clusters so many lights make at most: 64 lights each, or as many more as keep to 256 clusters; none for few
 * lights or far too many.
 */
export const clusterCount = (lights: number): number =>
  lights <= K.LIGHT.WEIGHED || lights > K.LIGHT.WEIGHED ** 2
    ? 0
    : Math.min(K.LIGHT.WEIGHED, 2 ** Math.ceil(Math.log2(lights / 64)));
/** Rows of four of all clusters together, at most. */
const clusterRows = (lights: number): number => Math.ceil(lights / 4) + clusterCount(lights);

/** Paths of a wave where meshes are loaded in turns, the most first. */
const WIDE_WAVES = [65_536, 32_768, 16_384, 8192, 4096] as const;
const MESHES_KEEP = 0.93;
/** touch() in traverse.ts reads a little further than a stub. */
const AFTER_STUBS = 192;
/** Bytes of the kernel's energy tables (energy.ts); the kernel is asked whether it agrees when it starts. */
export const ENERGY_BYTES = {
  plain: 32 * 32 * 8 + 32 * 8 + 32 * 32 * 4 + 32 * 4 + 2 * (3 * 12 * 10 * 24 + 12 * 10) * 4,
  stretched: 16 * 8 * 16 * 8 * 8 + 16 * 8 * 8,
  glass: 3 * 24 * 48 * 4,
} as const;
/**
 * Bytes of a thread's denoiser scratch for a film so wide with so many layers beside the picture, as denoise.ts lays it
 * out.
 */
export const denoiseScratchBytes = (widthPx: number, layers: number): number =>
  ((widthPx + 2 * K.DENOISE.BORDER + 7) & ~3) *
    4 *
    ((12 + 3 * layers) * (K.DENOISE.BAND + 2 * K.DENOISE.BORDER) +
      K.DENOISE.BAND +
      2 * K.DENOISE.PATCH +
      1 +
      (4 + 3 * layers) * K.DENOISE.BAND) +
  64;

/** Most bytes the tree over n instances can take: every node has at least two children but the root. */
export const topLevelBytes = (instances: number): number =>
  instances === 0 ? 0 : Math.max(1, instances - 1) * K.NODE.BYTES + 64;

/** Of so many objects left out: a node and a stub each. */
const leftOutBytes = (objects: number): number => objects * (K.NODE.BYTES + K.STUB.BYTES) + AFTER_STUBS;

/** Temporary bytes to build a mesh: positions as they come, a record a triangle, bins and frames. */
const buildBytes = (vertices: number, items: number) =>
  vertices * 12 + 16 + items * K.BUILD.RECORD_BYTES + K.BUILD.SCRATCH_BYTES + 256;

/**
 * @param budgetBytes stored meshes get what of it is left
 * @throws EngineError OUT_OF_MEMORY beyond 4 GiB, naming the largest parts
 */
export function planMemory(counts: JobCounts, budgetBytes = Infinity): MemoryPlan {
  const plan = laidOutWithin(counts, Math.min(budgetBytes, MOST_JOB_BYTES));
  checkBudget(plan, Infinity);
  const largest = loadableBytes(plan, counts).reduce((most, bytes) => Math.max(most, bytes), 0);
  const missing = Math.max(0, largest - plan.piecesBytes);
  checkBudget({ ...plan, totalBytes: plan.totalBytes + missing }, missing ? budgetBytes : Infinity);
  return plan;
}

/**
 * Where not all meshes fit, many paths go together: then what is loaded serves many. That takes room itself, of which
 * meshes keep nearly all: where little fits, it is better to have more of it than to ask for it less often.
 */
function laidOutWithin(counts: JobCounts, roomBytes: number): MemoryPlan {
  const plan = layOut(counts, roomBytes);
  const all = total(loadableBytes(plan, counts));
  if (plan.piecesBytes >= all || counts.settings.wavePaths) return plan;
  const pixels = plan.tiles * K.TILE.WIDTH * K.TILE.HEIGHT;
  for (const wavePaths of WIDE_WAVES) {
    if (wavePaths > pixels / counts.threads) continue;
    const wide = layOut({ ...counts, wavePaths }, roomBytes);
    if (wide.piecesBytes >= plan.piecesBytes * MESHES_KEEP) return wide;
  }
  return plan;
}
const total = (bytes: readonly number[]): number => bytes.reduce((sum, b) => sum + b, 0);

/** What need not be in memory all at once, each part by itself. */
const loadableBytes = ({ meshes, textures }: Pick<MemoryPlan, 'meshes' | 'textures'>, counts: JobCounts): number[] => [
  ...pieceBytesOf(meshes),
  ...textures.flatMap((t, i) => finerBytesOf(t, counts.textures[i]!)),
];
const pieceBytesOf = (meshes: MemoryPlan['meshes']): number[] =>
  meshes.flatMap((m) => m.stored?.places.map(({ bytes }) => bytes) ?? []);
const finerBytesOf = ({ levels, resident }: Pick<TexturePlace, 'levels' | 'resident'>, t: TextureCounts): number[] =>
  levels.slice(0, resident).map((l) => levelBytes(l, t.bits));

/** Bytes of a texture's level. */
export const levelBytes = ({ width, height }: MipSize, bits: 8 | 16 = 8): number =>
  Math.ceil((width * height * (bits === 16 ? 8 : 4)) / 64) * 64;
/** Levels of stored textures that have no more texels a side are always in memory. */
const ALWAYS_PX = 16;
/** Its levels that are kept, and which of them are always in memory. */
export function textureLevelsOf(
  t: TextureCounts,
  capPx?: number,
): Pick<TexturePlace, 'levels' | 'resident' | 'leftOut'> {
  const levels = mipSizes(t.width, t.height, capPx);
  const small = levels.findIndex((l) => Math.max(l.width, l.height) <= ALWAYS_PX);
  return {
    levels,
    leftOut: mipSizes(t.width, t.height).length - levels.length,
    resident: t.stored ? small : 0,
  };
}
/** Bytes of a texture that need not be in memory all at once. */
export const finerBytes = (t: TextureCounts, capPx?: number): number =>
  total(finerBytesOf(textureLevelsOf(t, capPx), t));

/**
 * As planMemory, however much it is: for showing what a job would need.
 * @param roomBytes what all of it may take, where stored meshes can be loaded in turns
 */
export function layOut(counts: JobCounts, roomBytes = Infinity): MemoryPlan {
  let top = K.MEMORY.FIRST_ADDRESS;
  const bytes: Record<MemoryCategory, number> = {
    vertices: 0,
    acceleration: 0,
    textures: 0,
    lights: 0,
    film: 0,
    scratch: 0,
  };
  const take = (category: MemoryCategory, size: number, align = 16): number => {
    const at = Math.ceil(top / align) * align;
    bytes[category] += at - top + size;
    top = at + size;
    return at;
  };
  const { settings } = counts;
  const grid = filmGridOf(settings);
  const pixels = grid.widthPx * grid.heightPx;
  bytes.scratch += K.MEMORY.FIRST_ADDRESS;
  const job = take('scratch', K.JOB.BYTES, 64);
  const srgbTable = take('scratch', 256 * 4);
  const partCount = settings.parts?.of.length ?? 0;
  const mixCount = settings.parts?.mixes.length ?? 0;
  const partClamps = take('scratch', partCount * 4);
  const mixWeights = take('scratch', mixCount * partCount * 16);
  const energyBytes = ENERGY_BYTES.plain + (counts.stretched ? ENERGY_BYTES.stretched : 0);
  const energyTables = take('scratch', energyBytes);
  const glassTables = Array.from({ length: counts.glasses }, () => take('scratch', ENERGY_BYTES.glass));
  const materials = take('scratch', counts.materials * K.MAT.BYTES);
  const textureUses = take('scratch', counts.textureUses * K.TEX.BYTES);
  const attribute = (present: boolean, vertices: number, size: number) =>
    present ? take('vertices', vertices * size + 16) : 0;
  const moving = planesOf(settings).includes('motion');
  const vertexPlaces = counts.meshes.map((m) => ({
    geometry: take('vertices', K.GEOM.BYTES * (m.stored?.pieces.length ?? 1)),
    normals: attribute(m.normals && !m.stored, m.vertices, 12),
    uv0: attribute(m.uv0 && !m.stored, m.vertices, 8),
    uv1: attribute(m.uv1 && !m.stored, m.vertices, 8),
    colors: attribute(m.colors && !m.stored, m.vertices, 16),
    indices: m.stored ? 0 : take('vertices', m.triangles * 12),
    nextPositions: attribute(moving && m.deforms === true, m.vertices, 12),
  }));
  const textures = counts.textures.map((t): TexturePlace => {
    const kept = textureLevelsOf(t, settings.textureCapPx);
    const resident = kept.levels.slice(kept.resident).map((l) => levelBytes(l, t.bits));
    return {
      ...kept,
      table: take('textures', kept.levels.length * K.LEVEL.BYTES),
      texels: take('textures', total(resident), 64),
    };
  });
  const lights = take('lights', counts.lights * K.LIGHT.BYTES);
  const lightCdf = take('lights', counts.lights * 4);
  const profiles = take('lights', (counts.profiles ?? 0) * K.LIGHT.PROFILE_BYTES);
  const clusters = clusterCount(counts.lights);
  const lightTable = take(
    'lights',
    (clusters ? clusterRows(counts.lights) : Math.ceil(counts.lights / 4)) * K.LIGHT.ROW_BYTES,
  );
  const clusterTable = take('lights', Math.ceil(clusters / 4) * K.LIGHT.ROW_BYTES);
  const clusterRecords = take('lights', clusters * K.LIGHT.CLUSTER_BYTES);
  const clusterIndices = take('lights', clusters ? counts.lights * 4 : 0);
  const emissive = counts.emissiveTriangles.map((n) => ({
    triangles: take('lights', n * K.LTRI.BYTES),
    cdf: take('lights', n * 4),
  }));
  const env = counts.environment;
  const texels = env ? env.width * env.height : 0;
  const environment = env && {
    texels: take('lights', texels * 16),
    marginal: take('lights', env.height * 4),
    conditional: take('lights', texels * 4),
    pdf: take('lights', texels * 4),
  };
  const environmentInputs = (counts.environmentInputs ?? []).map((e) => take('lights', e.width * e.height * 16));
  const meshes = counts.meshes.map((m, i) => ({
    ...vertexPlaces[i]!,
    acceleration: take('acceleration', m.stored?.trunk.byteLength ?? m.accelerationBytes, 64),
    ...(m.stored && {
      stored: {
        stubs: take('acceleration', m.stored.pieces.length * K.STUB.BYTES + AFTER_STUBS, 64),
        places: m.stored.pieces.map((p, piece) => (m.isLeftOut?.(piece) ? NOWHERE : piecePlaces(p, m))),
      },
    }),
  }));
  const leftOutCount = counts.leftOut ?? 0;
  const placed = counts.instances + leftOutCount;
  const instances = take('acceleration', placed * K.INST.BYTES, 64);
  const topLevel = take('acceleration', topLevelBytes(placed), 64);
  const leftOut = take('acceleration', leftOutCount ? leftOutBytes(leftOutCount) : 0, 64);
  const next = moving ? take('acceleration', counts.instances * K.NEXT.BYTES) : 0;

  const shared = Math.ceil(top / 64) * 64;
  const film = take('film', pixels * 16, 64);
  const planes: Partial<Record<PlaneName, number>> = {};
  for (const p of planesOf(settings))
    planes[p] = take('film', pixels * PLANE_SPECS[p][1] * 4 * layersOf(p, settings) + 16, 16);
  const tileState = take('film', tilesOf(grid) * 4);
  const denoised = settings.denoise ? take('film', pixels * 12 * (1 + layersBeside(settings)) + 16) : 0;
  const denoiseStride = settings.denoise
    ? Math.ceil(denoiseScratchBytes(grid.widthPx, layersBeside(settings)) / 64) * 64
    : 0;
  const denoiseScratch = take('scratch', counts.threads * denoiseStride, 64);
  const wavePaths = counts.wavePaths ?? settings.wavePaths ?? K.TILE.WAVE_PATHS;
  const evidenceAt = K.SCRATCH.BYTES + wavePaths * K.WAVE.BYTES;
  const pieceEvidenceAt = evidenceAt + counts.instances * K.EVIDENCE.BYTES;
  const pieceCount = counts.meshes.reduce((n, m) => n + (m.stored?.pieces.length ?? 0), 0);
  const trailAt = pieceEvidenceAt + pieceCount * K.PIECE_EVIDENCE.BYTES;
  const scratchEnd = settings.evidence ? trailAt + wavePaths * K.TRAIL.BYTES : evidenceAt;
  const scratchStride = Math.ceil(scratchEnd / 64) * 64;
  const scratch = take('scratch', counts.threads * scratchStride, 64);
  const built = counts.meshes.filter((m) => !m.stored);
  const most = Math.max(0, ...built.map((m) => m.vertices));
  const items = Math.max(placed, ...built.map((m) => m.triangles), 0);
  const temporaryEnd = shared + buildBytes(most, items);
  if (temporaryEnd > top) {
    bytes.scratch += temporaryEnd - top;
    top = temporaryEnd;
  }
  const stored = meshes.flatMap((m) => m.stored?.places ?? []);
  const all = total(loadableBytes({ meshes, textures }, counts));
  const piecesBytes = Math.min(all, Math.max(0, Math.floor((roomBytes - top - 128) / 64) * 64));
  const structures = stored.reduce((sum, { at }) => sum + (at.indices ?? 0), 0); // what stands before the indices
  const shareOf = (bytes: number) => (all ? Math.floor((piecesBytes * bytes) / all) : 0);
  const acceleration = shareOf(structures);
  const ofTextures = shareOf(all - total(pieceBytesOf(meshes)));
  const piecesShare = { acceleration, textures: ofTextures, vertices: piecesBytes - acceleration - ofTextures };
  const pieces = take('acceleration', piecesShare.acceleration, 64);
  take('vertices', piecesShare.vertices, 1);
  take('textures', piecesShare.textures, 1);
  const positions = shared;
  const records = Math.ceil((positions + most * 12 + 16) / 64) * 64;
  const buildScratch = Math.ceil((records + items * K.BUILD.RECORD_BYTES) / 64) * 64;
  return {
    bytes,
    totalBytes: top,
    job,
    srgbTable,
    partClamps,
    mixWeights,
    energyTables,
    energyBytes,
    glassTables,
    materials,
    textureUses,
    meshes,
    textures,
    lights,
    profiles,
    lightCdf,
    lightTable,
    clusterTable,
    clusterRecords,
    clusterIndices,
    emissive,
    environment,
    environmentInputs,
    instances,
    leftOut,
    topLevel,
    next,
    film,
    planes,
    tileState,
    denoised,
    denoiseScratch,
    denoiseStride,
    scratch,
    scratchStride,
    evidenceAt,
    pieceEvidenceAt,
    trailAt,
    wavePaths,
    tiles: tilesOf(grid),
    pieces,
    piecesBytes,
    piecesShare,
    build: { positions, records, scratch: buildScratch },
  };
}
