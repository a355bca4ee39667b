// What is counted of a job before it is laid out, and where everything of it lies then: addresses in the engine's
// memory.
import type { GeometryCounts } from '@variscen/core/scene';
import type { MipSize } from './mips.ts';
import type { PlaneName, RenderSettings } from './renderSettings.ts';
import type { StoredHead } from './scene.ts';
import type { PiecePlaces } from './storedMesh.ts';

export interface MeshCounts extends GeometryCounts {
  readonly accelerationBytes: number;
  /** Its triangles are loaded when rays reach them. */
  readonly stored?: Pick<StoredHead, 'trunk' | 'pieces'> | undefined;
  /** Of its pieces those that never are. */
  readonly isLeftOut?: ((piece: number) => boolean) | undefined;
  /** Its shape changes over time: where motion is wanted, its next positions are kept too. */
  readonly deforms?: boolean | undefined;
}

export interface TextureCounts {
  readonly width: number;
  readonly height: number;
  /** Of a texel's channel. */
  readonly bits?: 8 | 16 | undefined;
  /** Its finer levels are loaded when something looks at them. */
  readonly stored?: boolean | undefined;
}

export interface EnvironmentSize {
  readonly width: number;
  readonly height: number;
}

export interface JobCounts {
  /** Of each only what its materials need. */
  readonly meshes: readonly MeshCounts[];
  readonly materials: number;
  readonly textureUses: number;
  readonly textures: readonly TextureCounts[];
  /** Indices of refraction of glass, each once. */
  readonly glasses: number;
  /** Some material has stretched highlights, which need a table. */
  readonly stretched: boolean;
  readonly instances: number;
  /** Objects of which nothing is loaded, but which are asked about. */
  readonly leftOut?: number;
  /** Punctual lights and emitting instances together. */
  readonly lights: number;
  /** Lamps whose light has a shape. */
  readonly profiles?: number;
  /** Triangles of each emitting instance. */
  readonly emissiveTriangles: readonly number[];
  readonly environment?: EnvironmentSize | undefined;
  /** Further inputs with maps of their own. */
  readonly environmentInputs?: readonly EnvironmentSize[];
  readonly settings: RenderSettings;
  readonly threads: number;
  /** Paths that go through the stages together; absent: few. */
  readonly wavePaths?: number;
}

export const MEMORY_CATEGORIES = ['vertices', 'acceleration', 'textures', 'lights', 'film', 'scratch'] as const;
export type MemoryCategory = (typeof MEMORY_CATEGORIES)[number];
export type MemoryBytes = Readonly<Record<MemoryCategory, number>>;

export interface StoredPlace {
  /** One for each piece, one after another. */
  readonly stubs: number;
  readonly places: readonly PiecePlaces[];
}
export interface MeshPlace {
  readonly geometry: number;
  readonly normals: number;
  readonly uv0: number;
  readonly uv1: number;
  readonly colors: number;
  readonly indices: number;
  /** 0 where none are kept. */
  readonly nextPositions: number;
  /** Of a stored mesh its trunk; geometry is that of its first piece, its attributes' places above are 0. */
  readonly acceleration: number;
  readonly stored?: StoredPlace;
}

/** Where a texture's levels are. */
export interface TexturePlace {
  /** Their records, which the kernel reads. */
  readonly table: number;
  /** Those that are kept, the finest first. */
  readonly levels: readonly MipSize[];
  /** Finer ones that are not. */
  readonly leftOut: number;
  /** The first of those kept that is always in memory, and where they are, one after another. */
  readonly resident: number;
  readonly texels: number;
}

export interface MemoryPlan {
  readonly bytes: MemoryBytes;
  readonly totalBytes: number;
  readonly job: number;
  readonly srgbTable: number;
  /** Of each part, and of each part in each mix. */
  readonly partClamps: number;
  readonly mixWeights: number;
  readonly energyTables: number;
  readonly energyBytes: number;
  readonly glassTables: readonly number[];
  readonly materials: number;
  readonly textureUses: number;
  readonly meshes: readonly MeshPlace[];
  readonly textures: readonly TexturePlace[];
  readonly lights: number;
  /** Shapes of lamps' light, one after another. */
  readonly profiles: number;
  readonly lightCdf: number;
  readonly lightTable: number;
  readonly clusterTable: number;
  readonly clusterRecords: number;
  readonly clusterIndices: number;
  readonly emissive: readonly { readonly triangles: number; readonly cdf: number }[];
  readonly environment:
    | { readonly texels: number; readonly marginal: number; readonly conditional: number; readonly pdf: number }
    | undefined;
  readonly environmentInputs: readonly number[];
  /** Those left out come last. */
  readonly instances: number;
  /** Of each object left out a node, then a stub each. */
  readonly leftOut: number;
  readonly topLevel: number;
  /** Where instances are at the next frame; 0 where motion is not wanted. */
  readonly next: number;
  readonly film: number;
  readonly planes: Partial<Readonly<Record<PlaneName, number>>>;
  readonly tileState: number;
  /** The denoised picture, 3 floats a pixel, then each layer's beside it. */
  readonly denoised: number;
  readonly denoiseScratch: number;
  readonly denoiseStride: number;
  readonly scratch: number;
  /** Bytes of a thread's scratch; its evidence lies at the end. */
  readonly scratchStride: number;
  /** From where a thread's scratch begins. */
  readonly evidenceAt: number;
  readonly pieceEvidenceAt: number;
  readonly trailAt: number;
  readonly wavePaths: number;
  /** Of the film. */
  readonly tiles: number;
  /** Where pieces of stored meshes and levels of stored textures are loaded. */
  readonly pieces: number;
  readonly piecesBytes: number;
  /** Of those, as they count among the categories. */
  readonly piecesShare: { readonly acceleration: number; readonly vertices: number; readonly textures: number };
  readonly build: { readonly positions: number; readonly records: number; readonly scratch: number };
}
