// The mesh of the sweep that a look puts up behind things: always the same, so that its counts are known before it is
// built.
import { backdropShape } from '@variscen/core/environment';
import type { MeshCounts } from './memoryPlan.ts';
import type { EngineMesh } from './scene.ts';

export const BACKDROP = -1;
export const BACKDROP_NAME = 'Backdrop sweep';
const BACKDROP_MESH: EngineMesh = { name: BACKDROP_NAME, ...backdropShape(), contentKey: 'backdrop sweep' };
/** Of its tree; a test holds it to what the builder makes. */
export const BACKDROP_ACCELERATION = 2880;
export const BACKDROP_COUNTS: MeshCounts = {
  vertices: BACKDROP_MESH.positions.length / 3,
  triangles: BACKDROP_MESH.indices.length / 3,
  normals: true,
  uv0: false,
  uv1: false,
  colors: false,
  accelerationBytes: BACKDROP_ACCELERATION,
};
export const backdropMesh = (): EngineMesh => ({ ...BACKDROP_MESH, accelerationBytes: BACKDROP_ACCELERATION });
