// What a look shows at one pose of the scene, whatever camera looks: worked out once, and then asked for each camera.
// One class, since all of it follows from the same pose and the same state.
import {
  type BackdropNow,
  LIGHT_GROUPS,
  type ResolvedState,
  type Value,
  backdropOf,
  catchersAmong,
  drawnLooks,
  groundOf,
  lightOf,
  materialTarget,
  placeDocument,
  setOnObjects,
} from '@variscen/core/looks';
import { FrameCull, type NamedObjects, type Verdict, culls, isLeftOut } from '@variscen/core/cull';
import {
  type CameraSettings,
  type Matrix,
  type SceneDocument,
  type SceneTexture,
  axisScales,
  boundsOf,
  determinant,
  placements,
  transformPoint,
  worldMatrices,
} from '@variscen/core/scene';
import { MASK } from '../kernel/layout/index.ts';
import { emits } from './count.ts';
import { engineLight } from './engineLight.ts';
import { Places, once } from './looked.ts';
import { PLAIN_MATERIAL } from './plainMaterial.ts';
import { clay, displacementOf, resolveMaterial } from './resolveMaterial.ts';
import { hashOfName } from './cryptomatte.ts';
import { BACKDROP, BACKDROP_NAME, GROUND, GROUND_NAME } from './madeMeshes.ts';
import { middleOf } from './nearScene.ts';
import type { EngineInstance, EngineLight, EngineMaterial, LeftOut, TextureSlot, TextureUse, Vec3 } from './scene.ts';
import { selectEnvironment } from './selectedSky.ts';
import { SelectedMeshes } from './selectedMeshes.ts';
import { withPiecesLeftOut } from './selectedPieces.ts';
import type { Selection } from './selection.ts';

/** Marks a material that is replaced by clay; no name begins so. */
const CLAY = '\u0000clay ';

/** A part of an object as it is drawn. */
interface Drawn {
  /** Into the document. */
  readonly mesh: number;
  /** What it wears in the look, and what it is drawn in: that, or clay. */
  readonly worn: string;
  readonly drawnIn: string;
  readonly instance: Pick<EngineInstance, 'name' | 'matrix' | 'mask' | 'nextMatrix' | 'identity'>;
}
type DisplacedPart = Pick<Drawn, 'mesh' | 'worn'> & { readonly node: number };
interface Texture {
  readonly image: SceneTexture;
  readonly srgb: boolean;
}
/** A texture that is read as colours and as numbers is two: its coarser levels are not the same. */
const textureKey = ({ image, srgb }: Texture): string => `${image.blob} ${srgb}`;

/** Without the pose, which holds the camera. */
export type CameraView = Omit<Selection, 'pose'>;

export class Look {
  /** As the look places it. */
  readonly document: SceneDocument;
  /** At the next frame, where something moves. */
  readonly next: SceneDocument | undefined;
  private readonly world: readonly Matrix[];
  private readonly placed: readonly Matrix[];
  private readonly placedNext: readonly Matrix[] | undefined;
  private readonly cull: FrameCull;
  private readonly shown: readonly boolean[];
  private readonly masks: readonly number[];
  private readonly drawnAs: ReturnType<typeof drawnLooks>;
  private readonly drawn = new Map<number, readonly Drawn[]>();
  private readonly environment: ReturnType<typeof selectEnvironment>;
  /** Names of the light groups in use, in an order that nothing changes. */
  private readonly groups: readonly string[];
  /** That are on. */
  private readonly lamps: readonly Lamp[];
  private readonly lights: readonly EngineLight[];
  private readonly middle: Vec3;
  private displacedParts: readonly DisplacedPart[] | undefined;
  private readonly putUp: readonly PutUp[];
  /** What every camera that culls nothing gets, where nothing is displaced. */
  private uncut: CameraView | undefined;
  /** What the look lets an object wear, by its path. */
  private readonly assigned: (path: string) => Value | undefined;
  private readonly relief = once((m) => displacementOf(this.state, m));
  /** With the textures that they show, in the places that their uses name. */
  private readonly material = once((name) => {
    const textures = new Places<Texture, string>(textureKey);
    const isClay = name.startsWith(CLAY);
    const own = resolveMaterial(this.state, isClay ? name.slice(CLAY.length) : name, (image, srgb) =>
      textures.of({ image, srgb }),
    );
    return { material: isClay ? clay(own) : own, textures: textures.list };
  });
  private readonly glowGroup = once((m) => groupNamed(this.state.get(materialTarget(m), 'material.lightGroup')));
  private readonly glows = once((m) => emits(this.material(m).material));

  /**
   * @param now the scene as it is posed
   * @param next one frame later, where something moves
   * @param asClay everything is of clay, whatever the look says
   */
  constructor(
    now: SceneDocument,
    next: SceneDocument | undefined,
    private readonly state: ResolvedState,
    private readonly asClay = false,
  ) {
    this.document = placeDocument(now, state);
    this.next = next && placeDocument(next, state);
    const { nodes } = this.document;
    const stands = standsIn(this.document);
    this.world = stands.world;
    this.placed = stands.placed;
    this.placedNext = this.next && placements(this.next);
    this.shown = flagsOf(state, this.document, 'object.shown');
    this.masks = masksOf(state, this.document);
    this.drawnAs = drawnLooks(state, nodes);
    this.assigned = setOnObjects(state, 'object.material');
    this.environment = selectEnvironment(state);
    this.middle = stands.middle;
    this.putUp = putUpBy(state);
    this.cull = new FrameCull({
      document: this.document,
      world: this.world,
      shown: (n) => this.shown[n]!,
      emits: (n) => nodes[n]!.parts!.some((_, k) => this.glows(this.worn(n, k))),
      grownM: (n) =>
        Math.max(0, ...nodes[n]!.parts!.map((_, k) => Math.abs(this.relief(this.worn(n, k))?.heightM ?? 0))),
    });
    this.lamps = this.lampsNow();
    this.groups = this.groupsInUse();
    this.lights = this.shownLights();
  }

  /**
   * What a camera needs of it.
   * @param camera where it stands in this pose
   * @param named what people and evidence have named for it
   */
  through(camera: CameraSettings, named?: NamedObjects): CameraView {
    const isUncut = !culls(camera);
    if (isUncut && this.uncut) return this.uncut;
    const view = this.select(camera, named);
    if (isUncut && !view.meshes.some((m) => m.displaced)) this.uncut = view;
    return view;
  }

  /** Whether a camera would show anything: a sky, what is set behind the scene, or an object in its frame. */
  isSeenBy(camera: CameraSettings): boolean {
    const { environment, plate, environmentInputs } = this.environment;
    const sky = environmentInputs.camera ?? environment;
    const hasBehind = plate !== undefined || this.putUp.length > 0 || (sky !== undefined && sky !== 'none');
    return hasBehind || this.cull.showsAny(camera, (n) => (this.masks[n]! & MASK.CAMERA) !== 0);
  }

  private select(camera: CameraSettings, named: NamedObjects | undefined): CameraView {
    const { document } = this;

    // 1. What is kept, where it stands, in what it is drawn
    const verdicts = this.cull.verdicts(camera, named);
    const meshes = new SelectedMeshes(document, this.placed, camera.matrix, this.relief);
    const names = new Places<string>();
    const instances: EngineInstance[] = [];
    for (const { mesh, node, worn } of this.displaced()) meshes.shows(mesh, node, worn);
    for (const { node, keep, reason } of verdicts)
      if (keep)
        for (const { mesh, worn, drawnIn, instance } of this.drawnParts(node)) {
          const standIn = reason === 'simplified' ? named?.standIns.get(document.meshes[mesh]!.blob) : undefined;
          instances.push(placedIn(instance, meshes.of(mesh, node, worn, standIn), names.of(drawnIn)));
        }

    // 2. Materials, and what glows among the instances
    const textures = new Places<Texture, string>(textureKey);
    const materials = names.list.map((name) => withTextures(this.material(name), (t) => textures.of(t)));
    const grouped = instances.map((i) => {
      const m = materials[i.material]!;
      return emits(m) ? { ...i, lightGroup: this.groups.indexOf(this.glowGroup(m.name!)) } : i;
    });
    for (const thing of this.putUp) addPutUp(thing, grouped, meshes, materials);
    const lights = this.lights.map((l, i) => showing(l, this.lamps[i]!.light.picture, textures));
    return {
      ...this.environment,
      meshes: withPiecesLeftOut(
        { meshes: meshes.list, instances: grouped, materials },
        document,
        culls(camera) ? named?.pieces : undefined,
      ),
      textures: textures.list.map((t) => t.image),
      materials,
      instances: grouped,
      middle: this.middle,
      lights,
      environmentGroup: this.groups.indexOf(this.environmentGroup()),
      lightGroups: this.groups,
      verdicts,
      leftOut: verdicts.filter(isLeftOut).flatMap((v) => this.leftOut(v, named)),
      inked: this.asClay
        ? []
        : verdicts.filter((v) => v.keep && this.drawnAs[v.node] === 'ink').map((v) => document.nodes[v.node]!.path),
    };
  }

  /** The name of the material that a part of a node wears: what the look assigns, where the node has but one part. */
  private worn(node: number, part: number): string {
    const n = this.document.nodes[node]!;
    const worn = n.parts!.length === 1 ? this.assigned(n.path) : undefined;
    const isKnown = typeof worn === 'string' && this.state.scene.material(worn);
    return isKnown ? worn : this.document.materials[n.parts![part]!.material]!.name;
  }
  private drawnParts(node: number): readonly Drawn[] {
    let drawn = this.drawn.get(node);
    if (!drawn) {
      const isClay = this.asClay || this.drawnAs[node] === 'clay';
      const { path, parts } = this.document.nodes[node]!;
      const matrix = this.placed[node]!;
      const nextMatrix = this.placedNext?.[node];
      const moves = nextMatrix?.some((x, i) => x !== matrix[i]);
      const ofPath = hashOfName(path);
      const instance = {
        name: path,
        matrix,
        mask: this.masks[node]!,
        ...(moves && { nextMatrix: nextMatrix! }),
      };
      drawn = parts!.map(({ mesh }, k) => {
        const worn = this.worn(node, k);
        const identity = Math.imul(ofPath + k, 0x9e3779b1);
        return { mesh, worn, drawnIn: `${isClay ? CLAY : ''}${worn}`, instance: { ...instance, identity } };
      });
      this.drawn.set(node, drawn);
    }
    return drawn;
  }

  /** An object of which nothing is loaded, part by part. */
  private leftOut({ node }: Verdict, named: NamedObjects | undefined): LeftOut[] {
    const { path, parts } = this.document.nodes[node]!;
    const matrix = this.placed[node]!;
    const nits = named?.nits.get(path);
    return parts!.map(({ mesh }, k) => {
      const { min, max } = boundsOf(this.document, node, mesh, this.world);
      const grownM = Math.abs(this.relief(this.worn(node, k))?.heightM ?? 0);
      const grown = grownM / leastScale(matrix);
      const wider = (x: Vec3, by: number): Vec3 => [x[0] + by, x[1] + by, x[2] + by];
      return {
        name: path,
        min: wider(min, -grown),
        max: wider(max, grown),
        matrix,
        mask: this.masks[node]!,
        ...(nits !== undefined && { nits }),
      };
    });
  }

  private shownLights(): EngineLight[] {
    return this.lamps.map(({ name, path, light }) => {
      const shadowless = !light.castsShadow && { shadowless: true };
      return {
        ...engineLight(light),
        name,
        path,
        lightGroup: this.groups.indexOf(groupNamed(light.group)),
        ...shadowless,
      };
    });
  }
  private lampsNow(): Lamp[] {
    return this.document.nodes.flatMap((n, i) => {
      if (n.light === undefined || !this.shown[i] || determinant(this.world[i]!) === 0) return [];
      const light = lightOf(this.document, this.state, i, this.world[i]!);
      return light ? [{ name: n.name, path: n.path, light }] : [];
    });
  }
  private environmentGroup(): string {
    return groupNamed(this.state.get('environment', 'environment.group'));
  }
  /** Of lights, the environment and all that glows where it is shown, whether a camera keeps it or not. */
  private groupsInUse(): string[] {
    const inUse = new Set([this.environmentGroup(), ...this.lamps.map(({ light }) => groupNamed(light.group))]);
    for (const [node, { parts = [] }] of this.document.nodes.entries())
      if (this.shown[node])
        for (const k of parts.keys()) {
          const worn = this.worn(node, k);
          if (this.glows(worn)) inUse.add(this.glowGroup(worn));
        }
    return LIGHT_GROUPS.filter((group) => inUse.has(group));
  }

  /** Parts of objects that are shown, whether a camera keeps them or not, in materials that displace. */
  private displaced(): readonly DisplacedPart[] {
    return (this.displacedParts ??= this.document.nodes.flatMap(({ parts = [] }, node) =>
      this.shown[node] && determinant(this.placed[node]!) !== 0
        ? parts.flatMap(({ mesh }, k) => {
            const worn = this.worn(node, k);
            return this.relief(worn) ? [{ mesh, node, worn }] : [];
          })
        : [],
    ));
  }
}

/** A lamp that is on. */
interface Lamp {
  readonly name: string;
  readonly path: string;
  readonly light: NonNullable<ReturnType<typeof lightOf>>;
}

/** Where the things of a scene stand, which follows from the scene alone, whatever looks change of the rest. */
interface Stands {
  readonly world: readonly Matrix[];
  readonly placed: readonly Matrix[];
  /** Of all objects, shown or not, the middle of where their boxes are. */
  readonly middle: Vec3;
}
const STANDS = new WeakMap<SceneDocument, Stands>();
function standsIn(document: SceneDocument): Stands {
  const known = STANDS.get(document);
  if (known) return known;
  const world = worldMatrices(document.nodes);
  const placed = placements(document, world);
  const boxes = document.nodes.flatMap(({ parts }, node): Vec3[] => {
    if (!parts?.length) return [];
    const { min, max } = document.meshes[parts[0]!.mesh]!;
    return [transformPoint(placed[node]!, [0, 1, 2].map((k) => (min[k]! + max[k]!) / 2) as unknown as Vec3)];
  });
  const made = { world, placed, middle: middleOf(boxes) };
  STANDS.set(document, made);
  return made;
}

/** A thing that a look puts up beside the scene's own. */
interface PutUp extends BackdropNow {
  /** As in madeMeshes.ts. */
  readonly mesh: number;
  readonly name: string;
  readonly mask: number;
}
function putUpBy(state: ResolvedState): PutUp[] {
  const backdrop = backdropOf(state);
  const ground = groundOf(state);
  return [
    ...(backdrop ? [{ ...backdrop, mesh: BACKDROP, name: BACKDROP_NAME, mask: MASK.ALL }] : []),
    ...(ground ? [{ ...ground, mesh: GROUND, name: GROUND_NAME, mask: MASK.ALL | MASK.CATCHER }] : []),
  ];
}
function addPutUp(
  thing: PutUp,
  instances: EngineInstance[],
  meshes: SelectedMeshes,
  materials: EngineMaterial[],
): void {
  const { name, mesh, matrix, mask, color, roughness } = thing;
  const material = {
    ...PLAIN_MATERIAL,
    name,
    baseColor: [...color, 1],
    roughness,
    specular: 0.5,
    textures: {},
  } as const;
  instances.push({
    name,
    object: name,
    mesh: meshes.list.push({ mesh, node: null }) - 1,
    material: materials.push(material) - 1,
    matrix,
    mask,
  });
}

/** An object is told by its path. Written out, since spreading thousands for each camera takes seconds. */
function placedIn(i: Drawn['instance'], mesh: number, material: number): EngineInstance {
  const { name, identity, matrix, mask, nextMatrix } = i;
  return nextMatrix
    ? { name, object: name, identity: identity!, mesh, material, matrix, mask, nextMatrix }
    : { name, object: name, identity: identity!, mesh, material, matrix, mask };
}

/** A light with its picture in its place among textures; the light itself where it has none. */
function showing(l: EngineLight, image: SceneTexture | undefined, textures: Places<Texture, string>): EngineLight {
  return image ? ({ ...l, picture: textures.of({ image, srgb: true }) } as EngineLight) : l;
}

/** How much a matrix shortens at most. */
const leastScale = (m: Matrix): number => Math.max(1e-9, Math.min(...axisScales(m)));

/** A material whose textures have their places in a list that others share. */
function withTextures(
  { material, textures }: { readonly material: EngineMaterial; readonly textures: readonly Texture[] },
  placeOf: (t: Texture) => number,
): EngineMaterial {
  if (!textures.length) return material;
  const uses = Object.entries(material.textures ?? {}) as [TextureSlot, TextureUse][];
  const placed: Partial<Record<TextureSlot, TextureUse>> = {};
  for (const [slot, use] of uses) placed[slot] = { ...use, texture: placeOf(textures[use.texture]!) };
  return { ...material, textures: placed };
}

const groupNamed = (v: Value | undefined): string => LIGHT_GROUPS.find((group) => group === v) ?? LIGHT_GROUPS[0];

/** By node. A flag holds for an object where it holds for all groups that it stands in. */
function flagsOf(state: ResolvedState, document: SceneDocument, property: string): boolean[] {
  const own: boolean[] = [];
  const set = setOnObjects(state, property);
  for (const n of document.nodes) own.push((n.parent < 0 || own[n.parent]!) && set(n.path) !== false);
  return own;
}

/** By node: which rays meet it. */
function masksOf(state: ResolvedState, document: SceneDocument): number[] {
  const seen = flagsOf(state, document, 'object.seenByCamera');
  const reflected = flagsOf(state, document, 'object.seenInReflections');
  const shadowing = flagsOf(state, document, 'object.castsShadow');
  const catching = catchersAmong(state, document.nodes);
  return document.nodes.map(
    (_, n) =>
      (MASK.ALL &
        ~(seen[n] ? 0 : MASK.CAMERA) &
        ~(reflected[n] ? 0 : MASK.SPECULAR) &
        ~(shadowing[n] ? 0 : MASK.SHADOW)) |
      (catching[n] ? MASK.CATCHER : 0),
  );
}
