// The scene as everything in the product knows it: one JSON document that refers to geometry and images by content
// hash.
// Frames and units as in glTF 2.0: metres, right-handed, Y up; matrices column-major; colours linear Rec.709; angles in
// radians.
import type { Rgb, Matrix } from './vectors.ts';

import type { SceneAnimation, Transform } from './motion.ts';
import type { MeshDeform, SceneSkin } from './deformData.ts';
import type { GeometryCounts } from './geometry.ts';

export interface MeshPart {
  readonly mesh: number;
  readonly material: number;
}

export interface SceneNode {
  /**
   * Path of names from the root when the thing first came in, made unique; looks refer to nodes by it through all
   * revisions.
   */
  readonly path: string;
  /** Path in the scene's own file, where a later revision calls it otherwise. */
  readonly filePath?: string;
  /** Named by the file; looks never change it. */
  readonly layer?: string;
  readonly name: string;
  /** Index of the parent, −1 at the root. Parents stand before their children. */
  readonly parent: number;
  /** To the parent's space. */
  readonly matrix: Matrix;
  readonly parts?: readonly MeshPart[];
  readonly light?: number;
  readonly camera?: number;
  /** Of which the matrix is made, where an animation changes parts of it. */
  readonly rest?: Transform;
  readonly skin?: number;
  /** Of its mesh's morph targets. */
  readonly weights?: readonly number[];
  /** Made by a look: a copy of the node of this index. */
  readonly copyOf?: number;
  /** A light that looks add; the scene's file does not have it. */
  readonly added?: true;
}

export interface SceneMesh extends GeometryCounts {
  readonly name: string;
  /** Content hash of the packed geometry (see packGeometry). */
  readonly blob: string;
  readonly min: Rgb;
  readonly max: Rgb;
  /** Measured by building its acceleration structure once, at import. */
  readonly accelerationBytes: number;
  /** Encloses a body, so that a plane through it shows its inside. */
  readonly closed?: true;
  /** Skin weights and morph targets. */
  readonly deform?: MeshDeform;
}

export interface SceneTexture {
  readonly name: string;
  /** Content hash of the encoded image. */
  readonly blob: string;
  readonly mediaType: string;
  readonly width: number;
  readonly height: number;
  /** A channel has 16 bits; absent: 8. */
  readonly bits?: 16;
}

export interface TextureRef {
  readonly texture: number;
  readonly uvSet: 0 | 1;
  readonly wrapS: 'repeat' | 'clamp' | 'mirror';
  readonly wrapT: 'repeat' | 'clamp' | 'mirror';
  /** u' = m0 u + m1 v + m2, v' = m3 u + m4 v + m5 */
  readonly matrix: readonly [number, number, number, number, number, number];
}

export interface SceneMaterial {
  /** Unique; looks refer to materials by it through all revisions. */
  readonly name: string;
  /** Its name in the scene's own file, where a later revision calls it otherwise. */
  readonly label?: string;
  readonly baseColor: Rgb;
  readonly metallic: number;
  readonly roughness: number;
  readonly transmission: number;
  readonly ior: number;
  readonly specular: number;
  readonly emissionColor: Rgb;
  /** Nits at full emission colour. */
  readonly emissionStrength: number;
  readonly normalScale: number;
  readonly attenuationColor: Rgb;
  /** Metres after which white light has the attenuation colour; null = never. */
  readonly attenuationDistanceM: number | null;
  /** Has a volume, so that refraction bends rays. */
  readonly solid: boolean;
  readonly doubleSided: boolean;
  readonly layers?: MaterialLayers;
  readonly textures: Partial<Readonly<Record<TextureSlot, TextureRef>>>;
}

export type TextureSlot =
  | 'base'
  | 'metallicRoughness'
  | 'normal'
  | 'emission'
  | 'transmission'
  | 'specular'
  | 'specularColor'
  | 'coat'
  | 'coatRoughness'
  | 'coatNormal'
  | 'sheen'
  | 'sheenRoughness'
  | 'anisotropy'
  | 'iridescence'
  | 'iridescenceThickness';

/** What glTF's alpha modes and further material extensions say; absent where a material has none of it. */
export interface MaterialLayers {
  readonly alphaMode?: 'mask' | 'blend';
  readonly alpha?: number;
  readonly alphaCutoff?: number;
  readonly unlit?: boolean;
  readonly specularColor?: Rgb;
  readonly coat?: number;
  readonly coatRoughness?: number;
  readonly coatNormalScale?: number;
  readonly sheen?: Rgb;
  readonly sheenRoughness?: number;
  readonly anisotropy?: number;
  readonly anisotropyTurnRad?: number;
  readonly iridescence?: number;
  readonly iridescenceIor?: number;
  /** Nanometres at texture values 0 and 1. */
  readonly iridescenceNm?: readonly [number, number];
}

export type SceneLight = {
  readonly color: Rgb;
  /** Lux for a sun, candela for a point or spot, nits for a rectangle, disc or ball. */
  readonly intensity: number;
} & (
  | { readonly type: 'sun'; readonly angularDiameterRad: number }
  | { readonly type: 'point'; readonly radiusM: number }
  | { readonly type: 'spot'; readonly radiusM: number; readonly innerConeRad: number; readonly outerConeRad: number }
  | { readonly type: 'rectangle'; readonly widthM: number; readonly heightM: number }
  | { readonly type: 'disc'; readonly radiusM: number }
  | { readonly type: 'ball'; readonly radiusM: number }
);

export interface SceneCamera {
  readonly projection: 'perspective' | 'orthographic';
  /** Perspective: tangent of half the vertical angle; orthographic: half the height in metres. */
  readonly halfHeight: number;
  readonly nearM: number;
  readonly farM: number;
  readonly widthPx: number;
  readonly heightPx: number;
  readonly focusDistanceM?: number;
  /** Absent: everything is sharp. */
  readonly fStop?: number;
}

/** A choice of materials that the file itself offers (KHR_materials_variants). */
export interface MaterialVariant {
  readonly name: string;
  /** Path of an object → name of the material that it wears. */
  readonly wears: Readonly<Record<string, string>>;
}

export interface SceneDocument {
  readonly version: 1;
  readonly nodes: readonly SceneNode[];
  readonly meshes: readonly SceneMesh[];
  readonly materials: readonly SceneMaterial[];
  readonly textures: readonly SceneTexture[];
  readonly lights: readonly SceneLight[];
  readonly cameras: readonly SceneCamera[];
  readonly skins?: readonly SceneSkin[];
  readonly animation?: SceneAnimation;
  readonly variants?: readonly MaterialVariant[];
}

export type LightType = SceneLight['type'];
export const LIGHT_UNITS: Readonly<Record<LightType, string>> = {
  sun: 'lx',
  point: 'cd',
  spot: 'cd',
  rectangle: 'nt',
  disc: 'nt',
  ball: 'nt',
};
/** Those that have a surface, which may be seen. */
export const isPanel = (type: LightType): boolean => LIGHT_UNITS[type] === 'nt';

/** Triangles as placed: each object counts its own. */
export const placedTriangles = (d: SceneDocument): number =>
  d.nodes.reduce((n, node) => n + (node.parts ?? []).reduce((k, p) => k + d.meshes[p.mesh]!.triangles, 0), 0);
export const storedTriangles = (d: SceneDocument): number => d.meshes.reduce((n, m) => n + m.triangles, 0);
