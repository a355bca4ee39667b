import * as THREE from 'three';
import { describe, expect, it } from 'vitest';
import { firstMet } from './clicks.ts';

function random(seed: number): () => number {
  let s = seed;
  return () => {
    s = (s * 1664525 + 1013904223) >>> 0;
    return s / 2 ** 32;
  };
}
const instances = (
  geometry: THREE.BufferGeometry,
  matrices: readonly THREE.Matrix4[],
  nodes: readonly number[],
  side: THREE.Side = THREE.FrontSide,
): THREE.InstancedMesh => {
  const mesh = new THREE.InstancedMesh(geometry, new THREE.MeshBasicMaterial({ side }), matrices.length);
  matrices.forEach((m, i) => mesh.setMatrixAt(i, m));
  mesh.userData['nodes'] = nodes;
  return mesh;
};
const group = (...meshes: THREE.InstancedMesh[]): THREE.Group => new THREE.Group().add(...meshes);
const down = (x: number, z: number): THREE.Ray =>
  new THREE.Ray(new THREE.Vector3(x, 10, z), new THREE.Vector3(0, -1, 0));
const at = (x: number, y: number, z: number, scale = 1): THREE.Matrix4 =>
  new THREE.Matrix4().makeScale(scale, scale, scale).setPosition(x, y, z);

describe('a ray through the view', () => {
  it('meets what a search of all triangles meets: turned, squeezed and mirrored things, one in another', () => {
    const next = random(11);
    const spread = () => (next() - 0.5) * 6;
    const matrices = Array.from({ length: 60 }, () =>
      new THREE.Matrix4().compose(
        new THREE.Vector3(spread(), spread(), spread()),
        new THREE.Quaternion().setFromEuler(new THREE.Euler(spread(), spread(), spread())),
        new THREE.Vector3(0.2 + next(), (next() < 0.3 ? -1 : 1) * (0.2 + next()), 0.2 + next()),
      ),
    );
    const knots = new THREE.TorusKnotGeometry(0.6, 0.2, 48, 8);
    const boxes = new THREE.BoxGeometry(0.7, 0.3, 0.5);
    const scene = group(
      instances(
        knots,
        matrices.slice(0, 30),
        Array.from({ length: 30 }, (_, i) => i),
        THREE.DoubleSide,
      ),
      instances(
        boxes,
        matrices.slice(30),
        Array.from({ length: 30 }, (_, i) => 30 + i),
        THREE.DoubleSide,
      ),
    );
    let met = 0;
    for (let k = 0; k < 1500; k++) {
      const from = new THREE.Vector3(spread(), spread(), spread()).multiplyScalar(2);
      const ray = new THREE.Ray(from, new THREE.Vector3(spread(), spread(), spread()).normalize());
      const [slow] = new THREE.Raycaster(ray.origin, ray.direction).intersectObjects(scene.children, false);
      const quick = firstMet(scene, ray);
      expect(quick === undefined).toBe(slow === undefined);
      if (!slow || !quick) continue;
      met++;
      expect(quick.point.distanceTo(slow.point)).toBeLessThan(1e-4);
      const nodes = slow.object.userData['nodes'] as number[];
      expect(quick.node).toBe(nodes[slow.instanceId!]);
    }
    expect(met).toBeGreaterThan(100);
  });

  it('goes through the back of what shows one side only, and meets what is behind', () => {
    const plane = new THREE.PlaneGeometry(2, 2); // looks along +Z
    const turned = new THREE.Matrix4().makeRotationX(Math.PI / 2); // its back is up
    const scene = group(instances(plane, [turned], [4]), instances(new THREE.BoxGeometry(), [at(0, -2, 0)], [7]));
    expect(firstMet(scene, down(0, 0))!.node).toBe(7);
    const both = group(instances(plane, [turned], [4], THREE.DoubleSide));
    expect(firstMet(both, down(0, 0))!.node).toBe(4);
  });

  it('meets what is not drawn at the moment, as while a slow machine turns the view', () => {
    const mesh = instances(new THREE.BoxGeometry(), [at(0, 0, 0), at(3, 0, 0)], [1, 2]);
    mesh.count = 1;
    expect(firstMet(group(mesh), down(3, 0))!.node).toBe(2);
  });

  it('leaves the triangles that others draw in their order, and meets nothing beside everything', () => {
    const geometry = new THREE.TorusKnotGeometry(1, 0.3, 64, 8);
    const before = [...geometry.index!.array];
    const scene = group(instances(geometry, [at(0, 0, 0)], [0], THREE.DoubleSide));
    const on = geometry.getAttribute('position');
    expect(firstMet(scene, down(on.getX(100) * 0.999, on.getZ(100) * 0.999))).toBeDefined();
    expect(firstMet(scene, down(9, 9))).toBeUndefined();
    expect([...geometry.index!.array]).toEqual(before);
  });
});
