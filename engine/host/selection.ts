// What of a scene in a state is rendered, by reference: nothing of it is loaded yet.
import type { EnvironmentMap, ImportedSky, MadeSky, PlatePicture } from '@variscen/core/environment';
import type { LeftOutOfMesh, StandIn, Verdict } from '@variscen/core/cull';
import type { HeightMap } from '@variscen/core/displace';
import type { DeformData, Geometry, Matrix, Pose, SceneTexture } from '@variscen/core/scene';
import type {
  EngineFog,
  EngineInstance,
  EngineLight,
  EngineMaterial,
  EnvironmentInput,
  LeftOut,
  StoredMesh,
  StoredTexture,
  Vec3,
} from './scene.ts';

/** Generated, or a map that was brought in. saturation: of the map, 1 leaves it. */
export interface SelectedSky {
  readonly kind: MadeSky | ImportedSky;
  readonly scale: Vec3;
  readonly turnRad: number;
  readonly saturation: number;
}

export interface SelectedMesh {
  /** Index into the document; of what a look puts up itself as in madeMeshes.ts. */
  readonly mesh: number;
  /** The node that poses it, where it is not as it is stored. */
  readonly node: number | null;
  /** It is simplified. */
  readonly standIn?: StandIn | undefined;
  /** Some of its pieces are left out. name: of an object that shows it. */
  readonly leftOut?: (LeftOutOfMesh & { readonly name: string }) | undefined;
  /** Its surface is displaced: what by, and where it is placed, nearest first. */
  readonly displaced?: DisplacedUse | undefined;
}

export interface DisplacedUse {
  readonly texture: SceneTexture;
  readonly use: HeightMap['use'];
  readonly heightM: number;
  readonly placements: readonly Matrix[];
}

export interface Selection {
  /** Scene and camera as they stand at the frame, and at the next where something moves. */
  readonly pose: Pose;
  /** Instances and materials refer to places in these lists. */
  readonly meshes: readonly SelectedMesh[];
  readonly textures: readonly SceneTexture[];
  readonly materials: readonly EngineMaterial[];
  readonly instances: readonly EngineInstance[];
  /** About where the scene stands, whatever of it is kept. */
  readonly middle: Vec3;
  readonly lights: readonly EngineLight[];
  readonly environment: SelectedSky | undefined;
  readonly environmentInputs: Partial<Readonly<Record<EnvironmentInput, SelectedSky | 'none'>>>;
  readonly environmentGroup: number;
  readonly fog: EngineFog | undefined;
  /** Names of the light groups in use; lights, emitting instances and the environment refer to them by place. */
  readonly lightGroups: readonly string[];
  readonly verdicts: readonly Verdict[];
  readonly leftOut: readonly LeftOut[];
  /** A picture that shows where nothing else does, and how bright; put under the finished film. */
  readonly plate: { readonly image: SceneTexture; readonly strength: number } | undefined;
  /** Paths of the objects that are drawn with ink; their look is made from the finished film. */
  readonly inked: readonly string[];
}

export interface SelectionData {
  /** By index into the document. */
  readonly geometry: (mesh: number) => Promise<Geometry>;
  readonly deform: (mesh: number) => Promise<DeformData>;
  /** RGBA, 8 or 16 bit. */
  readonly pixels: (texture: SceneTexture) => Promise<Uint8Array | Uint16Array>;
  readonly environment: (sky: ImportedSky) => Promise<EnvironmentMap>;
  readonly stored?: undefined;
}
/** As SelectionData; what can be loaded piece by piece comes so. */
export interface StoredData extends Omit<SelectionData, 'stored'> {
  /** By index into the document, simplified where something stands in; undefined where it is better whole. */
  readonly stored: (mesh: number, standIn?: Pick<StandIn, 'exponent'>) => Promise<StoredMesh | undefined>;
  /** srgb: its colours are averaged as light; undefined where it is better whole. */
  readonly storedTexture: (texture: SceneTexture, srgb: boolean) => Promise<StoredTexture | undefined>;
}

/** The picture that a selection's plate shows, for finish(). */
export const platePixels = async (s: Selection, pixels: SelectionData['pixels']): Promise<PlatePicture | undefined> =>
  s.plate && { width: s.plate.image.width, height: s.plate.image.height, data: await pixels(s.plate.image) };
