// What deforms meshes, as it is stored with the document.
import type { Rgb } from './vectors.ts';
export interface MorphTarget {
  readonly normals: boolean;
  /** Of its offsets. */
  readonly min: Rgb;
  readonly max: Rgb;
}

export interface MeshDeform {
  readonly blob: string;
  readonly skinned: boolean;
  readonly targets: readonly MorphTarget[];
}

export interface SceneSkin {
  /** Nodes. */
  readonly joints: readonly number[];
  /** 16 numbers a joint. */
  readonly inverseBind: readonly number[];
}
