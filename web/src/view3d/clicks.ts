// What a ray through the view meets first. A mesh is searched by a tree over its triangles, which is made when a ray
// first comes near it; what lies behind what was met already is not searched at all.
import * as THREE from 'three';
import { MeshBVH } from 'three-mesh-bvh';
import { nodesOf } from './drawnObjects.ts';

export interface Met {
  readonly node: number;
  readonly point: THREE.Vector3;
  /** Of the surface there, in the world, of length 1, to the side that the ray came from. */
  readonly normal: THREE.Vector3;
}
interface Candidate {
  readonly mesh: THREE.InstancedMesh;
  readonly instance: number;
  readonly toWorld: THREE.Matrix4;
  /** How far along the ray its sphere begins; 0 where the ray begins in it. */
  readonly from: number;
}

const UP = new THREE.Vector3(0, 1, 0);
const trees = new WeakMap<THREE.BufferGeometry, MeshBVH>();
/** Indirect: the order of the triangles, which others share, stays. */
function treeOf(geometry: THREE.BufferGeometry): MeshBVH {
  const tree = trees.get(geometry) ?? new MeshBVH(geometry, { indirect: true });
  trees.set(geometry, tree);
  return tree;
}

/** @param ray in the world, its direction of length 1 */
export function firstMet(objects: THREE.Group, ray: THREE.Ray): Met | undefined {
  let best: Met | undefined;
  let nearest = Infinity;
  for (const { mesh, instance, toWorld, from } of candidates(objects, ray)) {
    if (from > nearest) break;
    const local = ray.clone().applyMatrix4(toWorld.clone().invert());
    local.direction.normalize();
    const hit = treeOf(mesh.geometry).raycastFirst(local, (mesh.material as THREE.Material).side);
    if (!hit) continue;
    const point = hit.point.clone().applyMatrix4(toWorld);
    const distance = point.distanceTo(ray.origin);
    if (distance >= nearest) continue;
    nearest = distance;
    const normal = (hit.normal ?? hit.face?.normal ?? UP)
      .clone()
      .applyMatrix3(new THREE.Matrix3().getNormalMatrix(toWorld))
      .normalize();
    if (normal.dot(ray.direction) > 0) normal.negate();
    best = { node: nodesOf(mesh)[instance]!, point, normal };
  }
  return best;
}

/** Instances whose spheres the ray goes through, the nearest first. */
function candidates(objects: THREE.Group, ray: THREE.Ray): Candidate[] {
  const out: Candidate[] = [];
  const sphere = new THREE.Sphere();
  const own = new THREE.Matrix4();
  for (const mesh of objects.children as THREE.InstancedMesh[]) {
    const { geometry } = mesh;
    if (!geometry.boundingSphere) geometry.computeBoundingSphere();
    nodesOf(mesh).forEach((_, instance) => {
      mesh.getMatrixAt(instance, own);
      sphere.copy(geometry.boundingSphere!).applyMatrix4(own);
      if (!ray.intersectsSphere(sphere)) return;
      const from = Math.max(0, sphere.center.clone().sub(ray.origin).dot(ray.direction) - sphere.radius);
      out.push({ mesh, instance, toWorld: own.clone(), from });
    });
  }
  return out.sort((a, b) => a.from - b.from);
}
