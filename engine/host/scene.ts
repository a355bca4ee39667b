// What the engine is given: plain arrays, nothing of files, databases or looks. Metres, nits, candela, lux; right-handed, Y up, as glTF 2.0;
// colours are linear Rec.709; matrices are column-major 4 × 4.

export type Vec3 = readonly [number, number, number];

export interface EngineMesh {
  /** Said in error messages. */
  readonly name: string;
  readonly positions: Float32Array;
  readonly indices: Uint32Array;
  readonly normals?: Float32Array | undefined;
  readonly uv0?: Float32Array | undefined;
  readonly uv1?: Float32Array | undefined;
  /** Linear RGBA per vertex. */
  readonly colors?: Float32Array | undefined;
  /** Bytes of this mesh's acceleration structure, as measureMesh gave them; measured on load where absent. */
  readonly accelerationBytes?: number | undefined;
}

export interface EngineTexture {
  readonly name: string;
  readonly width: number;
  readonly height: number;
  /** RGBA, 8 bit, row by row from the top. */
  readonly data: Uint8Array;
}

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

export interface EngineMaterial {
  readonly baseColor: readonly [number, number, number, number];
  readonly metallic: number;
  readonly roughness: number;
  readonly transmission: number;
  readonly ior: number;
  readonly specular: number;
  /** Nits. */
  readonly emission: Vec3;
  readonly normalScale: number;
  /** Absorption per metre inside a solid. */
  readonly attenuation: Vec3;
  readonly doubleSided: boolean;
  /** Has a volume: refraction bends rays, absorption applies. */
  readonly solid: boolean;
  readonly baseTexture?: TextureUse | undefined;
  readonly metallicRoughnessTexture?: TextureUse | undefined;
  readonly normalTexture?: TextureUse | undefined;
  readonly emissionTexture?: TextureUse | undefined;
}

export interface EngineInstance {
  readonly name: string;
  readonly mesh: number;
  readonly material: number;
  readonly matrix: ArrayLike<number>;
  /** MASK_* bits of the rays that may meet it. */
  readonly mask: number;
}

export type EngineLight =
  /** Illuminance across the beam in lux; angular diameter in radians. */
  | { readonly type: 'sun'; readonly direction: Vec3; readonly illuminanceLux: Vec3; readonly angularDiameterRad: number }
  | { readonly type: 'point'; readonly position: Vec3; readonly intensityCd: Vec3; readonly radiusM: number }
  | { readonly type: 'spot'; readonly position: Vec3; readonly direction: Vec3; readonly intensityCd: Vec3; readonly radiusM: number; readonly innerConeRad: number; readonly outerConeRad: number }
  /** Shines along its own −Z from a rectangle in its XY plane; unseen by the camera. */
  | { readonly type: 'rectangle'; readonly matrix: ArrayLike<number>; readonly widthM: number; readonly heightM: number; readonly radianceNits: Vec3 };

export interface EngineEnvironment {
  readonly width: number;
  readonly height: number;
  /** RGB floats in nits, row 0 straight up, the middle column towards −Z. */
  readonly data: Float32Array;
  readonly scale: Vec3;
  readonly turnRad: number;
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
}

export interface EngineScene {
  readonly meshes: readonly EngineMesh[];
  readonly textures: readonly EngineTexture[];
  readonly materials: readonly EngineMaterial[];
  readonly instances: readonly EngineInstance[];
  readonly lights: readonly EngineLight[];
  readonly environment?: EngineEnvironment | undefined;
}

export interface RenderSettings {
  readonly widthPx: number;
  readonly heightPx: number;
  readonly maxBounces: number;
  /** Largest radiance of one indirect contribution in nits; 0 = no limit. */
  readonly clampIndirect: number;
  readonly seed: number;
}

/** A fault in what was given; message names the thing and what to do. */
export class EngineError extends Error {
  constructor(readonly code: 'BAD_MESH' | 'BAD_TEXTURE' | 'BAD_INSTANCE' | 'BAD_SETTINGS' | 'OUT_OF_MEMORY' | 'KERNEL_FAILED' | 'CANCELLED', message: string) {
    super(message);
    this.name = 'EngineError';
  }
}
