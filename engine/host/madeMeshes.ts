// Meshes that a look puts up beside the scene's own: always the same, so that their counts are known before they are
// built. Told from the document's by numbers below 0.
import { backdropShape, groundShape } from '@variscen/core/environment';
import type { MeshCounts } from './memoryPlaces.ts';
import type { EngineMesh } from './scene.ts';

/** The sweep behind things. */
export const BACKDROP = -1;
export const BACKDROP_NAME = 'Backdrop sweep';
/** The ground that only catches shadow. */
export const GROUND = -2;
export const GROUND_NAME = 'Shadow catcher ground';

export interface MadeMesh {
  readonly mesh: EngineMesh;
  readonly counts: MeshCounts;
}
/** @param accelerationBytes of its tree; a test holds it to what the builder makes */
function made(name: string, shape: ReturnType<typeof backdropShape>, accelerationBytes: number): MadeMesh {
  return {
    mesh: { name, ...shape, contentKey: name, accelerationBytes },
    counts: {
      vertices: shape.positions.length / 3,
      triangles: shape.indices.length / 3,
      normals: true,
      uv0: false,
      uv1: false,
      colors: false,
      accelerationBytes,
    },
  };
}
const MADE: ReadonlyMap<number, MadeMesh> = new Map([
  [BACKDROP, made(BACKDROP_NAME, backdropShape(), 2880)],
  [GROUND, made(GROUND_NAME, groundShape(), 288)],
]);
/** @param mesh of a selection; undefined: the document has it */
export const madeMesh = (mesh: number): MadeMesh | undefined => MADE.get(mesh);
