// One material under the microscope: directions in, scattering out, with the kernel's own functions on the memory of a
// loaded engine.
import * as K from '../kernel/layout/index.ts';
import { Engine, type EngineMaterial, type KernelExports, instantiate } from '../host/index.ts';
import { kernelModule } from '../host/node/index.ts';
import { leaningNormals, matte, one, scene, settings } from './fixtures.ts';

type V = readonly [number, number, number];
export interface Scattered {
  readonly out: V;
  readonly weight: V;
  readonly pdf: number;
  readonly kind: number;
}
export interface Lobes {
  /** Sets the direction back along the ray, above the surface (z up). */
  from(i: V): void;
  /** Of light from direction o: f · |cos| and pdf per steradian. */
  f(o: V): { readonly value: V; readonly pdf: number };
  scatter(r1: number, r2: number, r3: number, pick: number): Scattered | undefined;
}
type Offsets = {
  readonly S_FC: WebAssembly.Global;
  readonly S_FS: WebAssembly.Global;
  readonly S_OUT: WebAssembly.Global;
  readonly S_WEIGHT: WebAssembly.Global;
  readonly S_PDF: WebAssembly.Global;
  readonly S_KIND: WebAssembly.Global;
};

/**
 * A flat surface of the material in the XY plane, texture coordinates along x and y.
 * @param back it is seen from inside
 * @param leanDeg a texture bends its normals so far towards x
 */
export async function lobesOf(material: Partial<EngineMaterial>, back = false, leanDeg = 0): Promise<Lobes> {
  let kernel!: KernelExports & Offsets, memory!: WebAssembly.Memory;
  const engine = await Engine.open({
    module: await kernelModule(),
    threads: 1,
    spawn: (start, events) => {
      // in this thread: the tests call the same kernel directly
      memory = start.memory;
      void instantiate(start).then((k) => {
        kernel = k as never;
        events.reply({ id: 0, value: undefined });
      });
      return {
        post: ({ id, fn, args }) => {
          const v = (kernel[fn] as (...a: readonly number[]) => number | undefined)(...args);
          queueMicrotask(() => events.reply({ id, value: v === undefined ? undefined : v >>> 0 }));
        },
        terminate: () => undefined,
      };
    },
  });
  const mesh = {
    name: 'sheet',
    positions: new Float32Array([-1, -1, 0, 3, -1, 0, -1, 3, 0]),
    uv0: new Float32Array([0, 1, 2, 1, 0, -1]),
    indices: new Uint32Array([0, 1, 2]),
  };
  const { texture, use } = leaningNormals(leanDeg);
  const bent = leanDeg && { textures: { normal: use } };
  const what = one(mesh, { ...matte, doubleSided: true, ...material, ...bent });
  const plan = await engine.load(scene({ ...what, textures: leanDeg ? [texture] : [] }), settings(8));
  const f = new Float32Array(memory.buffer);
  const u = new Uint32Array(memory.buffer);
  const hit = plan.scratch + K.SCRATCH.BYTES;
  const S = plan.scratch + K.SCRATCH.SURFACE;
  // the block of the only triangle: the first child of the mesh's root is a leaf
  const block = u[(plan.meshes[0]!.acceleration + K.NODE.REF) >> 2]! & ~K.REF.MASK;
  // looked up once: to read a global takes longer than to evaluate a material
  const at = (g: WebAssembly.Global) => (S + (g.value as number)) >> 2;
  const diffuse = at(kernel.S_FC);
  const specular = at(kernel.S_FS);
  const chosen = { kind: at(kernel.S_KIND), out: at(kernel.S_OUT), weight: at(kernel.S_WEIGHT), pdf: at(kernel.S_PDF) };
  const three = (q: number): V => [f[q]!, f[q + 1]!, f[q + 2]!];
  const side = back ? -1 : 1;
  return {
    from: (i) => {
      f[hit >> 2] = 1;
      f[(hit + K.HIT.U) >> 2] = 0.25;
      f[(hit + K.HIT.V) >> 2] = 0.25;
      u[(hit + K.HIT.PRIM) >> 2] = 0;
      u[(hit + K.HIT.INST) >> 2] = 0;
      u[(hit + K.HIT.BLOCK) >> 2] = block;
      kernel.surfaceAt(plan.job, hit, plan.instances, -i[0], -i[1], -i[2] * side, S);
    },
    f: (o) => {
      kernel.evaluateAt(plan.job, S, o[0], o[1], o[2] * side);
      const sum = (i: number) => f[diffuse + i]! + f[specular + i]!;
      return { value: [sum(0), sum(1), sum(2)], pdf: sum(3) };
    },
    scatter: (r1, r2, r3, pick) => {
      kernel.scatterAt(plan.job, S, r1, r2, r3, pick);
      const kind = u[chosen.kind]!;
      const out = three(chosen.out);
      return kind === 0
        ? undefined
        : { out: [out[0], out[1], out[2] * side], weight: three(chosen.weight), pdf: f[chosen.pdf]!, kind };
    },
  };
}
export const direction = (cos: number, phi: number): V => {
  const s = Math.sqrt(Math.max(0, 1 - cos * cos));
  return [s * Math.cos(phi), s * Math.sin(phi), cos];
};
