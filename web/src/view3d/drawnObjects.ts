// The objects of the real-time view: those that share mesh, material and manner are drawn as instances. A changed look
// makes anew only the lists that differ: in a scene of 20,000 meshes a new list for each costs seconds.
import { type DrawnLook, type ResolvedState, catchersAmong, drawnLooks, setOnObjects } from '@variscen/core/looks';
import { type Matrix, type SceneDocument, deforms } from '@variscen/core/scene';
import * as THREE from 'three';
import type { Surfaces } from './surfaces.ts';

/** As the look has it; as a ghost or a shadow catcher, whatever it wears. */
type Manner = DrawnLook | 'ghost' | 'catcher';
const isBare = (manner: Manner): manner is 'ghost' | 'catcher' => manner === 'ghost' || manner === 'catcher';
const NO_GHOSTS: ReadonlySet<string> = new Set();

interface Wanted {
  readonly mesh: number;
  readonly material: string;
  readonly drawn: Manner;
  readonly posed: boolean;
  readonly nodes: number[];
}
interface Shown {
  readonly mesh: THREE.InstancedMesh;
  readonly posed: boolean;
  readonly nodes: readonly number[];
  readonly world: readonly Matrix[];
}

const holds = (m: THREE.InstancedMesh, geometry: THREE.BufferGeometry, instances: number): boolean =>
  m.geometry === geometry && m.instanceMatrix.count >= instances;

function bareManner(isGhost: boolean, isCatcher: boolean): 'ghost' | 'catcher' | undefined {
  if (isGhost) return 'ghost';
  return isCatcher ? 'catcher' : undefined;
}

/** Which node each instance of a drawn object is. */
export const nodesOf = (o: THREE.Object3D): readonly number[] => o.userData['nodes'] as readonly number[];

export class DrawnObjects {
  readonly group = new THREE.Group();
  private lists = new Map<string, Shown>();
  /**
   * Drawn objects that wait for being shown again, by geometry. Letting one go costs the library a walk over all
   * geometries: hiding 13,440 objects of a scene of 20,000 held the page for 15 s. They go with their geometry.
   */
  private readonly resting = new WeakMap<THREE.BufferGeometry, THREE.InstancedMesh[]>();
  constructor(
    private readonly document: SceneDocument,
    private readonly surfaces: Surfaces,
  ) {}

  /**
   * @param geometryOf of a mesh; with a node, as that node's pose shapes it. Undefined while it is loading.
   * @param ghosts paths of objects that are only hinted at
   */
  show(
    state: ResolvedState,
    posed: SceneDocument,
    world: readonly Matrix[],
    shown: readonly boolean[],
    geometryOf: (mesh: number, node?: number) => THREE.BufferGeometry | undefined,
    ghosts: ReadonlySet<string> = NO_GHOSTS,
  ): { readonly triangles: number; readonly changed: boolean } {
    const before = this.lists;
    const matrix = new THREE.Matrix4();
    let triangles = 0;
    let made = 0;
    this.lists = new Map();
    this.surfaces.begin();
    // thousands of lists wear a few materials: each is brought up to date once
    const surfaces = new Map<string, THREE.Material>();
    const surfaceOf = (name: string, drawn: Manner): THREE.Material => {
      if (isBare(drawn)) return drawn === 'ghost' ? this.surfaces.ghost() : this.surfaces.catcher();
      const key = `${drawn} ${name}`;
      let m = surfaces.get(key);
      if (!m)
        surfaces.set(
          key,
          (m = drawn === 'own' ? this.surfaces.material(name, state) : this.surfaces.drawnMaterial(name, drawn, state)),
        );
      return m;
    };
    for (const [key, w] of this.wanted(state, posed, shown, ghosts)) {
      const geometry = geometryOf(w.mesh, w.posed ? w.nodes[0] : undefined);
      if (!geometry) continue;
      const surface = surfaceOf(w.material, w.drawn);
      const old = before.get(key);
      triangles += w.nodes.length * this.document.meshes[w.mesh]!.triangles;
      if (
        old &&
        old.world === world &&
        old.mesh.geometry === geometry &&
        old.mesh.material === surface &&
        old.nodes.length === w.nodes.length &&
        old.nodes.every((n, k) => n === w.nodes[k])
      ) {
        before.delete(key);
        this.lists.set(key, old);
        continue;
      }
      let mesh = old && holds(old.mesh, geometry, w.nodes.length) ? old.mesh : undefined;
      if (mesh) before.delete(key);
      else {
        mesh = this.rested(geometry, w.nodes.length) ?? new THREE.InstancedMesh(geometry, surface, w.nodes.length);
        this.group.add(mesh);
      }
      mesh.material = surface;
      mesh.count = w.nodes.length;
      for (let k = 0; k < w.nodes.length; k++) mesh.setMatrixAt(k, matrix.fromArray(world[w.nodes[k]!]!));
      mesh.instanceMatrix.needsUpdate = true;
      mesh.userData['nodes'] = w.nodes;
      mesh.computeBoundingSphere();
      this.lists.set(key, { mesh, posed: w.posed, nodes: w.nodes, world });
      made++;
    }
    this.surfaces.end();
    const gone = new Set([...before.values()].map((l) => l.mesh as THREE.Object3D));
    // one by one, each removal would search the list
    if (gone.size)
      this.group.children = this.group.children.filter((c) => {
        if (!gone.has(c)) return true;
        c.parent = null;
        return false;
      });
    // one with a pose's own geometry is of no use to the next pose
    for (const { mesh, posed: own } of before.values()) {
      if (own) {
        mesh.dispose();
        continue;
      }
      const rest = this.resting.get(mesh.geometry);
      if (rest) rest.push(mesh);
      else this.resting.set(mesh.geometry, [mesh]);
    }
    return { triangles, changed: made > 0 || gone.size > 0 };
  }
  /** One that is not shown now, of the same geometry and with room. */
  private rested(geometry: THREE.BufferGeometry, instances: number): THREE.InstancedMesh | undefined {
    const rest = this.resting.get(geometry);
    const i = rest?.findIndex((m) => holds(m, geometry, instances)) ?? -1;
    return i < 0 ? undefined : rest!.splice(i, 1)[0];
  }

  private wanted(
    state: ResolvedState,
    posed: SceneDocument,
    shown: readonly boolean[],
    ghosts: ReadonlySet<string>,
  ): Map<string, Wanted> {
    const lists = new Map<string, Wanted>();
    const seen = setOnObjects(state, 'object.seenByCamera');
    const wears = setOnObjects(state, 'object.material');
    const drawn = drawnLooks(state, posed.nodes);
    const catching = catchersAmong(state, posed.nodes);
    posed.nodes.forEach((n, i) => {
      if (!shown[i] || !n.parts || seen(n.path) === false) return;
      for (const p of n.parts) {
        const manner = bareManner(ghosts.has(n.path), catching[i]!) ?? drawn[i]!;
        const worn = n.parts.length === 1 ? wears(n.path) : undefined;
        const isKnown = typeof worn === 'string' && state.scene.material(worn);
        const material = isKnown ? worn : this.document.materials[p.material]!.name;
        const own = deforms(posed, i, p.mesh);
        const key = `${p.mesh} ${isBare(manner) ? '' : material} ${manner}${own ? ` ${i}` : ''}`;
        const list = lists.get(key);
        if (list) list.nodes.push(i);
        else lists.set(key, { mesh: p.mesh, material, drawn: manner, posed: own, nodes: [i] });
      }
    });
    return lists;
  }

  /** Draws only as many instances as come to about so many triangles; null: all. */
  thin(mostTriangles: number | null): void {
    const all = this.group.children as THREE.InstancedMesh[];
    const total = all.reduce((n, m) => n + ((m.geometry.index?.count ?? 0) / 3) * nodesOf(m).length, 0);
    const share = mostTriangles === null ? 1 : Math.min(1, mostTriangles / Math.max(1, total));
    for (const m of all) m.count = share === 1 ? nodesOf(m).length : Math.max(1, Math.ceil(nodesOf(m).length * share));
  }

  /** Puts some nodes elsewhere until the look is shown anew. */
  preview(nodes: ReadonlySet<number>, world: readonly Matrix[], by: THREE.Matrix4): void {
    const m = new THREE.Matrix4();
    for (const o of this.group.children as THREE.InstancedMesh[]) {
      const own = nodesOf(o);
      if (!own.some((n) => nodes.has(n))) continue;
      own.forEach((n, k) => {
        if (nodes.has(n)) o.setMatrixAt(k, m.fromArray(world[n]!).premultiply(by));
      });
      o.instanceMatrix.needsUpdate = true;
      o.computeBoundingSphere();
    }
  }
}
