// Rays per second of the kernel on one thread, each set in turn with the reference in the same run, batch by batch,
// since the speed of a machine that others use changes within seconds: ratios are medians over turns.
import { BufferAttribute, BufferGeometry, DoubleSide, Ray, Vector3 } from 'three';
import { MeshBVH } from 'three-mesh-bvh';
import { openReference, processorSeconds } from './embree.ts';
import { type Loaded, loadInstances, loadMesh, openKernel } from './kernel.ts';
import type { Emit } from './figure.ts';
import { type Mesh, RAYS, incoherent, knot, offHits, scattered, solids, throughPixels } from './rayScene.ts';

const TURNS = Number(process.env['BENCH_TURNS'] ?? 7);
/** Only sets whose name has this in it. */
const ONLY = process.env['BENCH_ONLY'] ?? '';
const median = (x: readonly number[]): number => [...x].sort((a, b) => a - b)[x.length >> 1]!;

export async function traceSuite(emit: Emit): Promise<void> {
  const reference = await openReference();
  if (!reference)
    console.error(
      'libembree3 or the foreign-function package is not installed here (Debian: libembree3-3): rates only, no ratios.',
    );
  const compare = (
    name: string,
    ours: Loaded,
    theirs: unknown,
    rays: Float32Array,
    any: boolean,
    coherent: boolean,
  ) => {
    if (!name.includes(ONLY)) return;
    const mine: number[] = [];
    const ratios: number[] = [];
    let hits = 0;
    let theirHits = 0;
    for (let turn = 0; turn < TURNS; turn++) {
      let otherSeconds = 0;
      let otherHits = 0;
      const own = ours.trace(
        rays,
        any,
        coherent,
        reference &&
          ((first, count) => {
            const other = reference.trace(theirs, rays.subarray(first * 8, (first + count) * 8), any);
            otherSeconds += other.seconds;
            otherHits += other.hits;
          }),
      );
      hits = own.hits;
      theirHits = otherHits;
      mine.push(rays.length / 8 / own.seconds);
      ratios.push(otherSeconds / own.seconds);
    }
    emit({ name, value: median(mine), unit: 'rays/s', ...(reference && { ratio: median(ratios), of: 'Embree 3.13' }) });
    if (reference)
      emit({ name: `${name}-hits`, value: hits, unit: 'rays', ratio: hits / theirHits, of: 'Embree 3.13' });
  };

  const mesh = solids();
  const ours = await loadMesh(await openKernel(), mesh);
  const theirs = reference?.triangles(mesh.positions, mesh.indices).scene;
  const far = incoherent([-10, -0.5, -10], [20, 5, 20]);
  const camera = throughPixels([0, 8, 18]);
  compare('incoherent-closest', ours, theirs, far, false, false);
  compare('incoherent-any', ours, theirs, far, true, false);
  compare('camera-closest', ours, theirs, camera, false, true);
  ours.trace(camera, false, true);
  const { bounce, sun } = offHits(mesh, camera, (i) => ours.hit(i));
  compare('bounce-closest', ours, theirs, bounce, false, false);
  compare('sun-any', ours, theirs, sun, true, true);
  if (!ONLY) besideLibrary(emit, mesh, ours, far);
  if (reference) reference.release(theirs);

  const piece = knot();
  const transforms = scattered(20_000);
  const many = await loadInstances(await openKernel(), piece, transforms);
  const child = reference?.triangles(piece.positions, piece.indices).scene;
  const scene = reference?.instances(child, transforms);
  compare('instanced-closest', many, scene, incoherent([-30, 0, -30], [60, 20, 60]), false, false);
  compare('instanced-camera', many, scene, throughPixels([0, 30, 60]), false, true);
}

/** The usual library for rays in a browser, on a tenth of the rays. */
function besideLibrary(emit: Emit, mesh: Mesh, ours: Loaded, rays: Float32Array): void {
  const geometry = new BufferGeometry()
    .setAttribute('position', new BufferAttribute(mesh.positions, 3))
    .setIndex(new BufferAttribute(mesh.indices.slice(), 1));
  const bvh = new MeshBVH(geometry);
  const ray = new Ray(new Vector3(), new Vector3());
  const n = RAYS >> 3;
  const part = rays.subarray(0, n * 8);
  const run = () =>
    processorSeconds(() => {
      let hits = 0;
      for (let i = 0; i < n; i++) {
        ray.origin.fromArray(part, i * 8);
        ray.direction.fromArray(part, i * 8 + 4);
        if (bvh.raycastFirst(ray, DoubleSide)) hits++;
      }
      return hits;
    });
  run();
  const theirs = run();
  const own = ours.trace(part, false, false);
  emit({
    name: 'incoherent-closest-beside-library',
    value: n / own.seconds,
    unit: 'rays/s',
    ratio: theirs.seconds / own.seconds,
    of: 'three-mesh-bvh',
  });
}

/** Building the tree of the same mesh, in turn with the reference. */
export async function buildSuite(emit: Emit): Promise<void> {
  const reference = await openReference();
  const mesh = solids();
  const triangles = mesh.indices.length / 3;
  const rates: number[] = [];
  const ratios: number[] = [];
  const kernel = await openKernel();
  let bytes = 0;
  for (let turn = 0; turn < TURNS; turn++) {
    const theirs = reference?.triangles(mesh.positions, mesh.indices);
    const own = await loadMesh(kernel, mesh);
    bytes = own.structureBytes;
    rates.push(triangles / own.buildSeconds / 1e6);
    if (theirs) {
      ratios.push(theirs.seconds / own.buildSeconds);
      reference!.release(theirs.scene);
    }
  }
  emit({
    name: 'sah-build',
    value: median(rates),
    unit: 'million triangles/s',
    ...(reference && { ratio: median(ratios), of: 'Embree 3.13' }),
  });
  emit({ name: 'structure', value: bytes / triangles, unit: 'bytes/triangle' });
}
