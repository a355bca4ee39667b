// Debian's Embree 3.13 through a foreign-function package: the reference of the ray benchmarks. Absent on a machine
// without libembree3.
export interface Reference {
  /** Builds over triangles; returns the scene and the seconds of processor time it took. */
  triangles(positions: Float32Array, indices: Uint32Array): { scene: unknown; seconds: number };
  /** Scene of instances of another; transforms are 3 × 4, column by column. */
  instances(child: unknown, transforms: Float32Array): unknown;
  /**
   * Traces rays (8 floats each: origin, unused, direction, longest distance); returns seconds of processor time and how
   * many hit.
   */
  trace(scene: unknown, rays: Float32Array, any: boolean): { seconds: number; hits: number };
  release(scene: unknown): void;
}

/** Seconds of processor time of work: other processes on the machine do not count. */
export function processorSeconds<T>(work: () => T): { seconds: number; value: T } {
  const began = process.cpuUsage();
  const value = work();
  const used = process.cpuUsage(began);
  return { seconds: (used.user + used.system) / 1e6, value };
}

const BATCH = 65536;
const RAY_HIT_BYTES = 80;
const NONE = 0xffffffff;
const INDEX = 0;
const VERTEX = 1;
const FLOAT3 = 0x9003;
const UINT3 = 0x5003;
const FLOAT3X4_COLUMNS = 0x9234;
const TRIANGLES = 0;
const INSTANCE = 121;
const SIGNATURES = [
  'void* rtcNewDevice(const char*)',
  'void* rtcNewScene(void*)',
  'void* rtcNewGeometry(void*,int)',
  'void rtcSetSharedGeometryBuffer(void*,int,uint,int,void*,size_t,size_t,size_t)',
  'void rtcCommitGeometry(void*)',
  'uint rtcAttachGeometry(void*,void*)',
  'void rtcReleaseGeometry(void*)',
  'void rtcCommitScene(void*)',
  'void rtcReleaseScene(void*)',
  'void rtcIntersect1M(void*,void*,void*,uint,size_t)',
  'void rtcOccluded1M(void*,void*,void*,uint,size_t)',
  'void rtcSetGeometryInstancedScene(void*,void*)',
  'void rtcSetGeometryTransform(void*,uint,int,void*)',
  'void rtcSetGeometryTimeStepCount(void*,uint)',
];

export async function openReference(): Promise<Reference | undefined> {
  const rtc: Record<string, (...a: unknown[]) => unknown> = {};
  try {
    const { default: koffi } = await import('koffi');
    const library = koffi.load('libembree3.so.3');
    for (const s of SIGNATURES) rtc[/rtc\w+/.exec(s)![0]] = library.func(s) as never;
  } catch {
    return undefined;
  }
  const device = rtc['rtcNewDevice']!('threads=1,set_affinity=0');
  const kept = new Map<unknown, unknown>();
  const buffer = new ArrayBuffer(BATCH * RAY_HIT_BYTES);
  const f = new Float32Array(buffer);
  const u = new Uint32Array(buffer);
  const context = new Uint8Array(64);
  new DataView(context.buffer).setUint32(16, NONE, true); // no enclosing instance
  return {
    triangles(positions, indices) {
      const padded = new Float32Array(positions.length + 4);
      padded.set(positions);
      const scene = rtc['rtcNewScene']!(device);
      const g = rtc['rtcNewGeometry']!(device, TRIANGLES);
      kept.set(scene, [padded, indices]); // the library reads these, so they must live as long as the scene
      rtc['rtcSetSharedGeometryBuffer']!(g, INDEX, 0, UINT3, indices, 0, 12, indices.length / 3);
      rtc['rtcSetSharedGeometryBuffer']!(g, VERTEX, 0, FLOAT3, padded, 0, 12, positions.length / 3);
      rtc['rtcCommitGeometry']!(g);
      rtc['rtcAttachGeometry']!(scene, g);
      rtc['rtcReleaseGeometry']!(g);
      return { scene, seconds: processorSeconds(() => rtc['rtcCommitScene']!(scene)).seconds };
    },
    instances(child, transforms) {
      const scene = rtc['rtcNewScene']!(device);
      for (let i = 0; i < transforms.length; i += 12) {
        const g = rtc['rtcNewGeometry']!(device, INSTANCE);
        rtc['rtcSetGeometryInstancedScene']!(g, child);
        rtc['rtcSetGeometryTimeStepCount']!(g, 1);
        rtc['rtcSetGeometryTransform']!(g, 0, FLOAT3X4_COLUMNS, transforms.subarray(i, i + 12));
        rtc['rtcCommitGeometry']!(g);
        rtc['rtcAttachGeometry']!(scene, g);
        rtc['rtcReleaseGeometry']!(g);
      }
      rtc['rtcCommitScene']!(scene);
      return scene;
    },
    trace(scene, rays, any) {
      let seconds = 0;
      let hits = 0;
      for (let first = 0; first < rays.length / 8; first += BATCH) {
        const n = Math.min(BATCH, rays.length / 8 - first);
        for (let i = 0; i < n; i++) {
          const q = i * 20;
          const k = (first + i) * 8;
          f.set(rays.subarray(k, k + 3), q);
          f[q + 3] = 0;
          f.set(rays.subarray(k + 4, k + 7), q + 4);
          f[q + 7] = 0;
          f[q + 8] = rays[k + 7]!;
          u[q + 9] = NONE;
          u[q + 10] = i;
          u[q + 11] = 0;
          u[q + 17] = u[q + 18] = u[q + 19] = NONE;
        }
        seconds += processorSeconds(() =>
          rtc[any ? 'rtcOccluded1M' : 'rtcIntersect1M']!(scene, context, u, n, RAY_HIT_BYTES),
        ).seconds;
        for (let i = 0; i < n; i++) if (any ? f[i * 20 + 8]! < 0 : u[i * 20 + 18] !== NONE) hits++;
      }
      return { seconds, hits };
    },
    release(scene) {
      rtc['rtcReleaseScene']!(scene);
      kept.delete(scene);
    },
  };
}
