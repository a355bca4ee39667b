// What the engine is given: plain arrays, nothing of files, databases or looks. Metres, nits, candela, lux;
// right-handed, Y up, as glTF 2.0; colours are linear Rec.709; matrices are column-major 4 × 4.

import type { GeometryCounts } from '@variscen/core/scene';

export type Vec3 = readonly [number, number, number];

export interface EngineMesh {
  /** Said in error messages. */
  readonly name: string;
  readonly positions: Float32Array;
  /**
   * Where the mesh is posed: its positions at rest. The acceleration structure keeps the shape that it has at rest, so
   * it takes the same memory in every pose.
   */
  readonly restPositions?: Float32Array | undefined;
  /** Positions at the next frame, where they differ; for motion. */
  readonly nextPositions?: Float32Array | undefined;
  readonly indices: Uint32Array;
  readonly normals?: Float32Array | undefined;
  readonly uv0?: Float32Array | undefined;
  readonly uv1?: Float32Array | undefined;
  /** Linear RGBA per vertex. */
  readonly colors?: Float32Array | undefined;
  /** Bytes of this mesh's acceleration structure, as measureMesh gave them; measured on load where absent. */
  readonly accelerationBytes?: number | undefined;
  /**
   * Tells meshes apart whatever their name: the same key, the same geometry. Without one, structures are not kept for
   * later jobs.
   */
  readonly contentKey?: string | undefined;
}

/** Of a mesh or a piece of one. */
export interface PieceCounts {
  readonly vertices: number;
  readonly triangles: number;
  readonly accelerationBytes: number;
}
/** A part of a stored mesh that is loaded by itself. */
export interface StoredPiece extends PieceCounts {
  /** Where its bytes begin. */
  readonly from: number;
  /** The words of the trunk that refer to it, and what they refer to (storedMesh.ts). */
  readonly links: readonly { readonly word: number; readonly reference: number }[];
}
/** What is known of a stored mesh without loading it. */
export interface StoredHead extends GeometryCounts {
  /** Whole metres that were taken from its positions (nearScene.ts). */
  readonly movedBy: Vec3;
  /** Nodes above the pieces, the root first (storedMesh.ts). */
  readonly trunk: Uint32Array;
  readonly pieces: readonly StoredPiece[];
}
/** A mesh whose triangles are not loaded before rays reach them. */
export interface StoredMesh {
  readonly name: string;
  readonly head: StoredHead;
  /** So many of its bytes, as Engine.store gave them. */
  readonly read: (from: number, bytes: number) => Promise<Uint8Array>;
  /** Some of its pieces are left out, wherever it is shown. */
  readonly leftOut?: LeftOutPieces | undefined;
}
/** Pieces of a mesh that are never loaded: rays pass them, as they pass objects that are left out. */
export interface LeftOutPieces {
  readonly isLeftOut: (piece: number) => boolean;
  /** Of the object, or one of those, that show it. */
  readonly name: string;
  /** How bright they may be; as the picture's mean where that is not known. */
  readonly nits?: number | undefined;
}
export type SceneMesh = EngineMesh | StoredMesh;
export const isStored = (m: SceneMesh): m is StoredMesh => 'head' in m;

export interface EngineTexture {
  readonly name: string;
  readonly width: number;
  readonly height: number;
  readonly data: Texels | TexelReader | StoredTexture;
}
/** RGBA, 8 or 16 bit, row by row from the top. */
export type Texels = Uint8Array | Uint16Array;
/** Texels that are read when they are put into the engine's memory, one texture at a time. */
export interface TexelReader {
  readonly bits: 8 | 16;
  readonly read: () => Promise<Texels>;
}
/** A texture whose finer levels are not loaded before something looks at them. */
export interface StoredTexture {
  readonly bits: 8 | 16;
  /** Texels of a level of the whole texture; 0 is the finest. Levels are made as mips.ts makes them. */
  readonly level: (level: number) => Promise<Texels>;
}
export const isStoredTexture = (data: EngineTexture['data']): data is StoredTexture => 'level' in data;
export const bitsOf = ({ data }: EngineTexture): 8 | 16 => {
  if ('bits' in data) return data.bits;
  return data instanceof Uint16Array ? 16 : 8;
};

export type Wrap = 'repeat' | 'clamp' | 'mirror';

export interface TextureUse {
  readonly texture: number;
  readonly srgb: boolean;
  readonly uvSet: 0 | 1;
  readonly wrapS: Wrap;
  readonly wrapT: Wrap;
  /** u' = m0 u + m1 v + m2, v' = m3 u + m4 v + m5 */
  readonly matrix: readonly [number, number, number, number, number, number];
}

/** Which textures a material may have, and what is read from them; in the order of the kernel's material record. */
export const TEXTURE_SLOTS = [
  'base',
  'metallicRoughness',
  'normal',
  'emission',
  'transmission',
  'specular',
  'specularColor',
  'coat',
  'coatRoughness',
  'coatNormal',
  'sheen',
  'sheenRoughness',
  'anisotropy',
  'iridescence',
  'iridescenceThickness',
] as const;
export type TextureSlot = (typeof TEXTURE_SLOTS)[number];

/** After glTF 2.0 and its ratified KHR_materials extensions; what is absent is as if the extension were. */
export interface EngineMaterial {
  /** Named in Cryptomatte. */
  readonly name?: string;
  /** Linear; the fourth is alpha. */
  readonly baseColor: readonly [number, number, number, number];
  readonly metallic: number;
  readonly roughness: number;
  readonly transmission: number;
  readonly ior: number;
  /** Factor on the dielectric's reflectance. */
  readonly specular: number;
  readonly specularColor?: Vec3;
  /** Nits. */
  readonly emission: Vec3;
  /** It falls with so high a power of the cosine off the normal; absent: alike to all sides. */
  readonly emissionFocus?: number;
  readonly normalScale: number;
  /** Absorption per metre inside a solid. */
  readonly attenuation: Vec3;
  readonly doubleSided: boolean;
  /** Has a volume: refraction bends rays, absorption applies. */
  readonly solid: boolean;
  /**
   * Where solids overlap, as a drink and its glass, that of the highest is there alone; of the same, that which light
   * entered last. Absent: 0.
   */
  readonly priority?: number;
  /** Opaque ignores alpha; mask cuts at alphaCutoff; blend takes alpha as the probability to be there. */
  readonly alphaMode?: 'opaque' | 'mask' | 'blend';
  readonly alphaCutoff?: number;
  /** Shown in its base colour, neither lit nor lighting. */
  readonly unlit?: boolean;
  /** It only gives light: what meets it goes on as if it were not there. */
  readonly lightAlone?: boolean;
  readonly coat?: number;
  readonly coatRoughness?: number;
  readonly coatNormalScale?: number;
  readonly sheen?: Vec3;
  readonly sheenRoughness?: number;
  /** 0…1: how far highlights are stretched along the tangent, which is turned counter-clockwise in texture space. */
  readonly anisotropy?: number;
  readonly anisotropyTurnRad?: number;
  readonly iridescence?: number;
  readonly iridescenceIor?: number;
  /** Thickness of the thin film at texture values 0 and 1, nanometres. */
  readonly iridescenceNm?: readonly [number, number];
  readonly textures?: Partial<Readonly<Record<TextureSlot, TextureUse>>>;
}

export interface EngineInstance {
  readonly name: string;
  readonly mesh: number;
  readonly material: number;
  readonly matrix: ArrayLike<number>;
  /** MASK_* bits of the rays that may meet it; MASK.CATCHER where it is a shadow catcher. */
  readonly mask: number;
  /** Named in Cryptomatte; the instance's own name where absent. */
  readonly object?: string;
  /**
   * Tells it apart in random choices, 32 bits, whatever else is in the scene; of its name and place where absent.
   */
  readonly identity?: number;
  /** Light group of what it emits. */
  readonly lightGroup?: number;
  /** Nothing stands in the way of what it emits. */
  readonly shadowless?: boolean;
  /** Its matrix at the next frame, where it moves; for motion. */
  readonly nextMatrix?: ArrayLike<number> | undefined;
}

export type EngineLight = {
  readonly name?: string;
  /** Of the node that it comes from. */
  readonly path?: string;
  readonly lightGroup?: number;
  /** Nothing stands in its way. */
  readonly shadowless?: boolean;
} &
  /** Illuminance across the beam in lux; angular diameter in radians. */
  (
    | {
        readonly type: 'sun';
        readonly direction: Vec3;
        readonly illuminanceLux: Vec3;
        readonly angularDiameterRad: number;
      }
    | (Lamp & { readonly type: 'point' })
    | (Lamp & {
        readonly type: 'spot';
        readonly direction: Vec3;
        readonly innerConeRad: number;
        readonly outerConeRad: number;
      })
    /** Shine along their own −Z from their XY plane, a ball all round. */
    | (Panel & { readonly type: 'rectangle'; readonly widthM: number; readonly heightM: number })
    | (Panel & { readonly type: 'disc' | 'ball'; readonly radiusM: number })
  );
interface Lamp {
  readonly position: Vec3;
  readonly intensityCd: Vec3;
  readonly radiusM: number;
  /** How its strength is spread; absent: evenly. */
  readonly profile?: LampProfile;
}
/**
 * Shares of the greatest strength, row by row: PROFILE_ROWS from along `axis` to against it, each of PROFILE_COLUMNS
 * about it, from `across` on counter-clockwise as seen against the axis.
 */
export interface LampProfile {
  readonly shares: Float32Array;
  readonly axis: Vec3;
  /** Of length 1, across the axis. */
  readonly across: Vec3;
}
interface Panel {
  readonly matrix: ArrayLike<number>;
  readonly radianceNits: Vec3;
  /** Absent: its rays pass it by, and no ray ends at it: it is light alone. */
  readonly seenByCamera?: boolean;
  /** As EngineMaterial.emissionFocus. */
  readonly focus?: number;
  /** A texture that a rectangle or a disc shows, the right way round to those whom it lights. */
  readonly picture?: number;
}

export interface EngineEnvironment {
  readonly width: number;
  readonly height: number;
  /** RGB floats in nits, row 0 straight up, the middle column towards −Z. */
  readonly data: Float32Array;
  readonly scale: Vec3;
  readonly turnRad: number;
}
/** What sees another environment than surfaces are lit by; 'none' is black. */
export type EnvironmentInput = 'camera' | 'reflection' | 'refraction';

export interface EngineFog {
  /** Share of light taken away a metre, as extinction coefficient, 1/m. */
  readonly extinctionPerM: number;
  /** Share of what is taken away that is scattered instead of absorbed. */
  readonly albedo: Vec3;
  /** −1…1, Henyey–Greenstein: above 0 scatters forwards. */
  readonly anisotropy: number;
  /** Fog lies below this height; Infinity fills everything, and no sun or sky gets through. */
  readonly topM: number;
}

export interface EngineCamera {
  /** Camera to world; looks along its −Z. */
  readonly matrix: ArrayLike<number>;
  readonly projection: 'perspective' | 'orthographic';
  /** Perspective: tangent of half the vertical angle. Orthographic: half the height in metres. */
  readonly halfHeight: number;
  readonly nearM: number;
  readonly farM: number;
  /** 0 for a pinhole. */
  readonly lensRadiusM: number;
  readonly focusDistanceM: number;
  /** Lens shift: how far the frame's centre is off the axis, in frame widths and heights; right and up are positive. */
  readonly shiftX?: number;
  readonly shiftY?: number;
  /** Edges of the aperture, 3 or more; round where absent. */
  readonly blades?: number;
  readonly bladeTurnRad?: number;
}

/**
 * An object of which nothing is loaded. What passes through its box is added up: what the picture has lost with it is
 * at most known (docs/culling.md).
 */
export interface LeftOut {
  /** Of its object. */
  readonly name: string;
  /** Its box, before it is placed. */
  readonly min: Vec3;
  readonly max: Vec3;
  readonly matrix: ArrayLike<number>;
  /** MASK_* bits of the rays that would meet it. */
  readonly mask: number;
  /** How bright it may be; as the picture's mean where that is not known. */
  readonly nits?: number | undefined;
}

/** Where meshes may be stored ones, what emits light is whole: every path may look for its light. */
export interface EngineScene<M extends SceneMesh = EngineMesh> {
  readonly meshes: readonly M[];
  readonly textures: readonly EngineTexture[];
  readonly materials: readonly EngineMaterial[];
  readonly instances: readonly EngineInstance[];
  readonly lights: readonly EngineLight[];
  readonly environment?: EngineEnvironment | undefined;
  readonly environmentInputs?: Partial<Readonly<Record<EnvironmentInput, EngineEnvironment | 'none'>>> | undefined;
  readonly environmentGroup?: number;
  /** About where it stands; of its instances where absent. */
  readonly middle?: Vec3 | undefined;
  readonly fog?: EngineFog | undefined;
  /** Needs the plane leftOut; without it they are as if they did not exist. */
  readonly leftOut?: readonly LeftOut[] | undefined;
}

/** A fault in what was given; message names the thing and what to do. */
export class EngineError extends Error {
  constructor(
    readonly code:
      'BAD_MESH' | 'BAD_TEXTURE' | 'BAD_INSTANCE' | 'BAD_SETTINGS' | 'OUT_OF_MEMORY' | 'KERNEL_FAILED' | 'CANCELLED',
    message: string,
  ) {
    super(message);
    this.name = 'EngineError';
  }
}
