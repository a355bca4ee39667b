// From a scene document and a resolved look to what the engine renders. In two steps: select() decides from the posed
// document alone, so that a plan can count
// bytes before anything is loaded (displaced meshes apart, which are counted by making them); attach() brings the
// geometry and pixels in.
import { generateEnvironment, isEnvironmentKind, parseSky, saturated } from '@variscen/core/environment';
import {
  LIGHT_GROUPS,
  type LaidMap,
  backdropOf,
  parseImage,
  type LightNow,
  type Value,
  type ResolvedState,
  displacementMapOf,
  drawnLooks,
  lightOf,
  materialOf,
  materialTarget,
  objectTarget,
  placeDocument,
  setOnObjects,
} from '@variscen/core/looks';
import type { Aov, Profile } from '@variscen/core/plan';
import {
  type CameraSettings,
  type Matrix,
  type Pose,
  type Posed,
  type Rgb,
  type SceneTexture,
  croppedPx,
  deformGeometry,
  deforms,
  determinant,
  halfHeightOf,
  lensRadiusM,
  placements,
  worldMatrices,
} from '@variscen/core/scene';
import { cullOffFrame } from '@variscen/core/cull';
import { displacedMeshes } from './displaced.ts';
import { BACKDROP, BACKDROP_COUNTS, BACKDROP_NAME, backdropMesh } from './backdropMesh.ts';
import type { DisplacedUse, SelectedMesh, SelectedSky, Selection, SelectionData } from './selection.ts';
import { MASK } from '../kernel/layout/index.ts';
import type { JobCounts, MeshCounts } from './memoryPlan.ts';
import { AREA_SHAPES, countJob, emits, isArea } from './count.ts';
import { glow } from './areaLights.ts';
import {
  type EngineCamera,
  type EngineEnvironment,
  type EngineFog,
  type EngineInstance,
  type EngineLight,
  type EngineMaterial,
  type EngineMesh,
  type EngineScene,
  type EnvironmentInput,
  type PlaneName,
  type RenderSettings,
  type TextureSlot,
  type TextureUse,
  type Vec3,
} from './scene.ts';

/** Rows of the generated environments. */
const ENVIRONMENT_HEIGHT = 128;
const SKY_SIZE = { width: ENVIRONMENT_HEIGHT * 2, height: ENVIRONMENT_HEIGHT };
const sizeOf = ({ kind }: SelectedSky): { readonly width: number; readonly height: number } =>
  typeof kind === 'string' ? SKY_SIZE : kind;

export function select(given: Pose, state: ResolvedState): Selection {
  const place = ({ document, camera }: Posed): Posed => ({ document: placeDocument(document, state), camera });
  const pose: Pose = { now: place(given.now), ...(given.next && { next: place(given.next) }) };
  const { document, camera } = pose.now;
  const world = worldMatrices(document.nodes);
  const placed = placements(document, world);
  const placedNext = pose.next && placements(pose.next.document);
  // a flag holds for an object where it holds for all groups that it stands in
  const flag = (property: string): boolean[] => {
    const own: boolean[] = [];
    const set = setOnObjects(state, property);
    document.nodes.forEach((n) => own.push((n.parent < 0 || own[n.parent]!) && set(n.path) !== false));
    return own;
  };
  const shown = flag('object.shown');
  const seen = flag('object.seenByCamera');
  const reflected = flag('object.seenInReflections');
  const shadowing = flag('object.castsShadow');
  const drawn = drawnLooks(state, document.nodes);
  const wornBy = (node: number, part: number): string => {
    const n = document.nodes[node]!;
    const own = document.materials[n.parts![part]!.material]!.name;
    const worn = n.parts!.length === 1 ? state.get(objectTarget(n.path), 'object.material') : undefined;
    return typeof worn === 'string' && state.scene.material(worn) ? worn : own;
  };
  const once = <T>(of: (material: string) => T) => {
    const known = new Map<string, T>();
    return (material: string): T => {
      let x = known.get(material);
      if (!known.has(material)) known.set(material, (x = of(material)));
      return x as T;
    };
  };
  const glows = once((m) => emits(resolveMaterial(state, m, () => 0)));
  const relief = once((m) => displacementOf(state, m));
  const verdicts = cullOffFrame({
    document,
    world,
    camera,
    shown: (n) => shown[n]!,
    grownM: (n) =>
      Math.max(0, ...document.nodes[n]!.parts!.map((_, k) => Math.abs(relief(wornBy(n, k))?.heightM ?? 0))),
    emits: (n) => document.nodes[n]!.parts!.some((_, p) => glows(wornBy(n, p))),
  });

  const meshes: SelectedMesh[] = [];
  const shared = new Map<string, number>();
  const textures = new Places<SceneTexture, string>((t) => t.blob);
  const materialNames = new Places<string>();
  const instances: EngineInstance[] = [];
  const eye = [camera.matrix[12]!, camera.matrix[13]!, camera.matrix[14]!] as const;
  const away = (m: Matrix) => Math.hypot(m[12]! - eye[0], m[13]! - eye[1], m[14]! - eye[2]);
  const meshOf = (mesh: number, node: number, material: string): number => {
    if (deforms(document, node, mesh)) return meshes.push({ mesh, node }) - 1;
    const displaced = document.meshes[mesh]!.uv0 || document.meshes[mesh]!.uv1 ? relief(material) : undefined;
    const key = displaced ? `${mesh} ${material}` : `${mesh}`;
    let at = shared.get(key);
    if (at === undefined)
      shared.set(
        key,
        (at = meshes.push({ mesh, node: null, ...(displaced && { displaced: { ...displaced, placements: [] } }) }) - 1),
      );
    const use = meshes[at]!.displaced;
    if (use)
      meshes[at] = {
        mesh,
        node: null,
        displaced: {
          ...use,
          placements: [...use.placements, placed[node]!].sort((a, b) => away(a) - away(b)).slice(0, NEAREST),
        },
      };
    return at;
  };
  for (const v of verdicts) {
    if (!v.keep) continue;
    const n = document.nodes[v.node]!;
    const matrix = placed[v.node]!;
    const then = placedNext?.[v.node];
    const moves = then?.some((x, i) => x !== matrix[i]);
    const mask =
      MASK.ALL &
      ~(seen[v.node] ? 0 : MASK.CAMERA) &
      ~(reflected[v.node] ? 0 : MASK.SPECULAR) &
      ~(shadowing[v.node] ? 0 : MASK.SHADOW);
    n.parts!.forEach((p, k) =>
      instances.push({
        name: n.path,
        object: n.path,
        mesh: meshOf(p.mesh, v.node, wornBy(v.node, k)),
        material: materialNames.of(`${drawn[v.node] === 'clay' ? CLAY : ''}${wornBy(v.node, k)}`),
        matrix,
        mask,
        ...(moves && { nextMatrix: then! }),
      }),
    );
  }
  const lights: EngineLight[] = [];
  const groups = new Places<string>();
  const groupOf = (v: Value | undefined) => groups.of(typeof v === 'string' ? v : LIGHT_GROUPS[0]);
  document.nodes.forEach((n, i) => {
    if (n.light === undefined || !shown[i] || determinant(world[i]!) === 0) return;
    const now = lightOf(document, state, i, world[i]!);
    if (now)
      lights.push({
        ...engineLight(now),
        name: n.name,
        lightGroup: groupOf(now.group),
        ...(!now.castsShadow && { shadowless: true }),
      });
  });
  const environment = (p: string) => state.get('environment', `environment.${p}`);
  const scale = scaled(rgb(environment('tint')), num(environment('strength')));
  const turnRad = (num(environment('turn')) * Math.PI) / 180;
  const saturation = num(environment('saturation'));
  const sky = (value: Value | undefined): SelectedSky | undefined => {
    const kind = parseSky(value) ?? (isEnvironmentKind(value) && value !== 'none' ? value : undefined);
    return kind && Math.max(...scale) > 0 ? { kind, scale, turnRad, saturation } : undefined;
  };
  const environmentInputs: Partial<Record<EnvironmentInput, SelectedSky | 'none'>> = {};
  for (const [input, property] of SKY_INPUTS) {
    const kind = environment(property);
    if (kind !== 'same' && kind !== environment('kind')) environmentInputs[input] = sky(kind) ?? 'none';
  }
  const plateImage = parseImage(environment('plate'));
  const plate = plateImage && { image: plateImage, strength: num(environment('plateStrength')) };
  if (plate) environmentInputs.camera = 'none';
  const fog: EngineFog | undefined =
    num(environment('fogDensity')) > 0
      ? {
          extinctionPerM: num(environment('fogDensity')),
          albedo: rgb(environment('fogColor')),
          anisotropy: num(environment('fogForward')),
          topM: num(environment('fogTop')),
        }
      : undefined;
  const environmentGroup = groupOf(environment('group'));
  const materials = materialNames.list.map((m) =>
    m.startsWith(CLAY)
      ? clay(resolveMaterial(state, m.slice(CLAY.length), (t) => textures.of(t)))
      : resolveMaterial(state, m, (t) => textures.of(t)),
  );
  const grouped = instances.map((i) => {
    const m = materials[i.material]!;
    return emits(m) ? { ...i, lightGroup: groupOf(state.get(materialTarget(m.name!), 'material.lightGroup')) } : i;
  });
  const backdrop = backdropOf(state);
  if (backdrop)
    grouped.push({
      name: BACKDROP_NAME,
      object: BACKDROP_NAME,
      mesh: meshes.push({ mesh: BACKDROP, node: null }) - 1,
      material:
        materials.push({
          name: BACKDROP_NAME,
          baseColor: [...backdrop.color, 1],
          metallic: 0,
          roughness: backdrop.roughness,
          transmission: 0,
          ior: 1.5,
          specular: 0.5,
          emission: [0, 0, 0],
          normalScale: 1,
          attenuation: [0, 0, 0],
          doubleSided: true,
          solid: false,
          textures: {},
        }) - 1,
      matrix: backdrop.matrix,
      mask: MASK.ALL,
    });
  return {
    pose,
    plate,
    meshes,
    textures: textures.list,
    materials,
    instances: grouped,
    lights,
    environment: sky(environment('kind')),
    environmentInputs,
    environmentGroup,
    fog,
    lightGroups: groups.list,
    verdicts,
    inked: verdicts.filter((v) => v.keep && drawn[v.node] === 'ink').map((v) => document.nodes[v.node]!.path),
  };
}

/** Placements of a displaced mesh that decide how finely it is split. */
const NEAREST = 8;
/** What a material's surface is displaced by, if anything; the map lies as its base texture does. */
function displacementOf(state: ResolvedState, material: string): Omit<DisplacedUse, 'placements'> | undefined {
  const heightM = num(state.get(materialTarget(material), 'material.displacement'));
  const map = heightM === 0 ? undefined : displacementMapOf(state, material);
  if (!map) return undefined;
  const { texture, ...use } = map;
  return { texture, heightM, use };
}

const SKY_INPUTS = [
  ['camera', 'seen'],
  ['reflection', 'reflected'],
  ['refraction', 'refracted'],
] as const;
/** Marks a material that is replaced by clay; no name begins so. */
const CLAY = '\u0000clay ';
const CLAY_COLOR = 0.55;
const CLAY_ROUGHNESS = 0.85;
/** A material as clay: its form only. What glows goes on glowing, what is cut out stays cut out. */
function clay(m: EngineMaterial): EngineMaterial {
  const { normal, base } = m.textures ?? {};
  const cut = m.alphaMode === 'mask' || m.alphaMode === 'blend';
  return {
    ...(m.name !== undefined && { name: m.name }),
    baseColor: [CLAY_COLOR, CLAY_COLOR, CLAY_COLOR, m.baseColor[3]],
    metallic: 0,
    roughness: CLAY_ROUGHNESS,
    transmission: 0,
    ior: 1.5,
    specular: 0.5,
    emission: m.emission,
    normalScale: m.normalScale,
    attenuation: [0, 0, 0],
    doubleSided: m.doubleSided,
    solid: false,
    ...(cut && { alphaMode: m.alphaMode!, alphaCutoff: m.alphaCutoff ?? 0.5 }),
    textures: {
      ...(normal && { normal }),
      ...(cut && base && { base }),
      ...(m.textures?.emission && { emission: m.textures.emission }),
    },
  };
}

/** Gives each thing the next place when it is first asked for. Things with one key are one. */
class Places<T, K = T> {
  readonly list: T[] = [];
  private readonly places = new Map<K, number>();
  constructor(private readonly key: (x: T) => K = (x) => x as unknown as K) {}
  of(x: T): number {
    const key = this.key(x);
    let at = this.places.get(key);
    if (at === undefined) this.places.set(key, (at = this.list.push(x) - 1));
    return at;
  }
}

const num = (v: Value | undefined): number => (typeof v === 'number' ? v : 0);
const rgb = (v: Value | undefined): Rgb => (Array.isArray(v) ? (v as unknown as Rgb) : [1, 1, 1]);
const scaled = (c: Rgb, s: number): Vec3 => [c[0] * s, c[1] * s, c[2] * s];

/**
 * A material of the scene, or a copy of one, as a look has it. texture: gives an image its place in the engine's list.
 */
export function resolveMaterial(
  state: ResolvedState,
  name: string,
  texture: (t: SceneTexture) => number,
): EngineMaterial {
  const {
    maps,
    layers = {},
    attenuationColor,
    attenuationDistanceM,
    emissionColor,
    emissionStrength,
    baseColor,
    solid,
    label: _,
    ...m
  } = materialOf(state, name);
  const { alpha, ...rest } = layers;
  const textures: Partial<Record<TextureSlot, TextureUse>> = {};
  // Beer–Lambert: light has the inner colour after the distance
  const attenuation: Vec3 =
    attenuationDistanceM === null
      ? [0, 0, 0]
      : (attenuationColor.map((c) => -Math.log(Math.max(c, 1e-4)) / attenuationDistanceM) as unknown as Vec3);
  for (const [slot, { texture: t, ...use }] of Object.entries(maps) as [TextureSlot, LaidMap][])
    textures[slot] = { texture: texture(t), srgb: COLOR_TEXTURES.has(slot), ...use };
  return {
    ...m,
    baseColor: [...baseColor, rest.alphaMode ? (alpha ?? 1) : 1],
    emission: scaled(emissionColor, emissionStrength),
    attenuation,
    solid,
    ...rest,
    textures,
  };
}
const COLOR_TEXTURES: ReadonlySet<TextureSlot> = new Set(['base', 'emission', 'specularColor', 'sheen']);
function engineLight({ light, matrix: m }: LightNow): EngineLight {
  const power = scaled(light.color, light.intensity);
  const position: Vec3 = [m[12]!, m[13]!, m[14]!];
  const direction: Vec3 = [-m[8]!, -m[9]!, -m[10]!];
  switch (light.type) {
    case 'sun':
      return { type: 'sun', direction, illuminanceLux: power, angularDiameterRad: light.angularDiameterRad };
    case 'point':
      return { type: 'point', position, intensityCd: power, radiusM: light.radiusM };
    case 'spot':
      return {
        type: 'spot',
        position,
        direction,
        intensityCd: power,
        radiusM: light.radiusM,
        innerConeRad: light.innerConeRad,
        outerConeRad: light.outerConeRad,
      };
    case 'disc':
      return { type: 'disc', matrix: m, radiusM: light.radiusM, radianceNits: power };
    case 'rectangle':
      return { type: 'rectangle', matrix: m, widthM: light.widthM, heightM: light.heightM, radianceNits: power };
  }
}

/** What a profile asks of the engine at a size. */
export const settingsOf = (
  p: Profile,
  size: { readonly widthPx: number; readonly heightPx: number },
  s: Pick<Selection, 'inked' | 'lightGroups' | 'pose'>,
): RenderSettings => ({
  ...size,
  ...(s.pose.now.camera.crop && { region: croppedPx(size, s.pose.now.camera.crop) }),
  ...(p.textureCapPx !== null && { textureCapPx: p.textureCapPx }),
  ...(p.aovs.includes('lightGroups') && s.lightGroups.length > 1 && { lightGroups: s.lightGroups.length }),
  maxBounces: p.maxBounces,
  clampIndirect: p.clampIndirect,
  seed: 1,
  planes: [...p.aovs.flatMap((a) => AOV_PLANES[a]), ...(s.inked.length ? INK_PLANES : [])],
  denoise: p.denoise > 0,
  ...(p.noise !== null && { noise: { threshold: p.noise, floorNits: NOISE_FLOOR_NITS } }),
});
/** Brightness below which noise counts as if pixels were so bright: what neutral grade shows as near black. */
const NOISE_FLOOR_NITS = 0.05;
const INK_PLANES: readonly PlaneName[] = ['albedo', 'emission', 'normal', 'depth', 'objects'];
const AOV_PLANES: Readonly<Record<Aov, readonly PlaneName[]>> = {
  depth: ['depth'],
  position: ['position'],
  normal: ['normal'],
  geometricNormal: ['geometricNormal'],
  albedo: ['albedo'],
  emission: ['emission'],
  direct: ['direct'],
  indirect: ['indirect'],
  objects: ['objects'],
  materials: ['materials'],
  samples: [],
  noise: ['moment'],
  lightGroups: [],
  motion: ['motion'],
};

/** Bytes of the trees over the shapes of area lights; a test holds them to what the builder makes. */
export const AREA_ACCELERATION = { rectangle: 288, disc: 3200 } as const;

/**
 * What the selection takes in engine memory; the engine allocates exactly this. displaced: of displaced meshes, by
 * their place in the selection.
 */
export function countSelection(
  s: Selection,
  settings: RenderSettings,
  threads: number,
  displaced: ReadonlyMap<number, MeshCounts> = new Map(),
): JobCounts {
  const { document } = s.pose.now;
  const meshes: MeshCounts[] = s.meshes.map(
    (m, i) =>
      displaced.get(i) ??
      (m.mesh === BACKDROP ? BACKDROP_COUNTS : { ...document.meshes[m.mesh]!, deforms: m.node !== null }),
  );
  const materials = [...s.materials];
  const instances: { mesh: number; material: number }[] = [...s.instances];
  for (const type of ['rectangle', 'disc'] as const) {
    const lights = s.lights.filter(isArea).filter((l) => l.type === type);
    if (!lights.length) continue;
    const mesh =
      meshes.push({
        ...AREA_SHAPES[type],
        normals: false,
        uv0: false,
        uv1: false,
        colors: false,
        accelerationBytes: AREA_ACCELERATION[type],
      }) - 1;
    for (const l of lights) instances.push({ mesh, material: materials.push(glow(l.radianceNits)) - 1 });
  }
  return countJob(
    {
      meshes,
      textures: s.textures,
      materials,
      instances,
      lights: s.lights.filter((l) => !isArea(l)).length,
      environment: s.environment && sizeOf(s.environment),
      environmentInputs: Object.values(s.environmentInputs)
        .filter((e) => e !== 'none')
        .map(sizeOf),
    },
    settings,
    threads,
  );
}

export async function attach(
  s: Selection,
  data: SelectionData,
  displacement: Profile['displacement'],
  heightPx: number,
): Promise<EngineScene> {
  const { document } = s.pose.now;
  const next = s.pose.next?.document;
  const world = worldMatrices(document.nodes);
  const nextWorld = next && worldMatrices(next.nodes);
  const displaced = await displacedMeshes(s, data, displacement, heightPx);
  const meshes = await Promise.all(
    s.meshes.map(async ({ mesh, node }, i): Promise<EngineMesh> => {
      const own = displaced.get(i);
      if (own) return own.mesh;
      if (mesh === BACKDROP) return backdropMesh();
      const m = document.meshes[mesh]!;
      const g = await data.geometry(mesh);
      const about = { name: m.name, accelerationBytes: m.accelerationBytes, contentKey: m.blob };
      if (node === null) return { ...about, ...g };
      const deform = await data.deform(mesh);
      return {
        ...about,
        ...deformGeometry(document, node, g, deform, world),
        restPositions: g.positions,
        ...(next && { nextPositions: deformGeometry(next, node, g, deform, nextWorld!).positions }),
      };
    }),
  );
  const textures = await Promise.all(
    s.textures.map(async (t) => ({ name: t.name, width: t.width, height: t.height, data: await data.pixels(t) })),
  );
  const map = async ({ kind, scale, turnRad, saturation }: SelectedSky): Promise<EngineEnvironment> => ({
    ...saturated(
      typeof kind === 'string' ? generateEnvironment(kind, ENVIRONMENT_HEIGHT) : await data.environment(kind),
      saturation,
    ),
    scale,
    turnRad,
  });
  return {
    meshes,
    textures,
    materials: s.materials,
    instances: s.instances,
    lights: s.lights,
    environment: s.environment && (await map(s.environment)),
    environmentGroup: s.environmentGroup,
    fog: s.fog,
    environmentInputs: Object.fromEntries(
      await Promise.all(
        Object.entries(s.environmentInputs).map(
          async ([input, sky]) => [input, sky === 'none' ? sky : await map(sky)] as const,
        ),
      ),
    ),
  };
}

export const engineCamera = (c: CameraSettings): EngineCamera => ({
  matrix: c.matrix,
  projection: c.projection,
  halfHeight: halfHeightOf(c),
  nearM: c.nearM,
  farM: c.farM,
  lensRadiusM: lensRadiusM(c),
  focusDistanceM: c.focusDistanceM,
  shiftX: c.shiftX ?? 0,
  shiftY: c.shiftY ?? 0,
  ...(c.blades !== undefined && { blades: c.blades }),
});
