// The demo as the engine gets it, through the same import, resolver and selection as any project.
import { createHash } from 'node:crypto';
import { importScene } from '@variscen/core/import';
import {
  type ResolvedState,
  SceneIndex,
  SharedLight,
  inputsOf,
  lightShare,
  resolve,
  sharedValues,
} from '@variscen/core/looks';
import {
  type CameraSettings,
  type SceneDocument,
  fromSceneCamera,
  poseFor,
  unpackGeometry,
  worldMatrices,
} from '@variscen/core/scene';
import { PROFILES } from '@variscen/core/plan';
import { DEMO_BASE, DEMO_OPTIONS, type Weight, makeTeaStall } from '@variscen/demo';
import { type EngineScene, type Selection, attach, select } from '@variscen/engine';
import { openNodeEngine } from '@variscen/engine/node';
import sharp from 'sharp';

export interface Demo {
  readonly document: SceneDocument;
  readonly cameras: readonly (CameraSettings & { readonly name: string })[];
  scene(options: readonly string[], camera: CameraSettings): Promise<{ scene: EngineScene; selection: Selection }>;
  /** What looks of some options come to, each, and what one trace of all of them is made from. */
  lightings(
    looks: readonly (readonly string[])[],
    camera: CameraSettings,
  ): { readonly states: readonly ResolvedState[]; readonly shared: Selection };
  /** What is selected, loaded. */
  attached(selection: Selection, camera: CameraSettings): Promise<EngineScene>;
}

export async function openDemo(weight: Weight): Promise<Demo> {
  const engine = await openNodeEngine(1);
  const hash = (b: Uint8Array) => createHash('sha256').update(b).digest('hex');
  try {
    const { document, blobs } = await importScene('tea-stall.glb', await makeTeaStall(weight), {
      hash,
      accelerationBytes: (name, g) => engine.measureMesh({ name, ...g }),
    });
    const index = new SceneIndex(document);
    const world = worldMatrices(document.nodes);
    return {
      document,
      cameras: document.nodes.flatMap((n, i) =>
        n.camera === undefined ? [] : [{ ...fromSceneCamera(document.cameras[n.camera]!, world[i]!), name: n.name }],
      ),
      scene: async (options, camera) => {
        const selection = select(poseFor(document, undefined, camera), stateOf(index, options));
        return { scene: await attached(selection, camera), selection };
      },
      lightings: (looks, camera) => {
        const states = looks.map((options) => stateOf(index, options));
        const light = new SharedLight();
        const values = states.map((state) => inputsOf('demo', camera, state).values);
        if (!values.every((own) => light.take(lightShare(index, own))))
          throw new Error('these looks differ in more than light');
        const changes = sharedValues(index, values).map(([target, property, value]) => ({ target, property, value }));
        const all = resolve(index, [{ id: 'all', name: 'all', kind: 'base', changes }]);
        return { states, shared: select(poseFor(document, undefined, camera), all) };
      },
      attached,
    };

    function attached(selection: Selection, camera: CameraSettings): Promise<EngineScene> {
      return attach(
        selection,
        {
          environment: () => Promise.reject(new Error('the demo has only generated skies')),
          deform: () => Promise.reject(new Error('nothing in the demo deforms')),
          geometry: (i) => Promise.resolve(unpackGeometry(blobs.get(document.meshes[i]!.blob)!, document.meshes[i]!)),
          pixels: async (t) =>
            new Uint8Array(
              await sharp(blobs.get(t.blob)!).ensureAlpha().toColourspace('srgb').raw({ depth: 'uchar' }).toBuffer(),
            ),
        },
        PROFILES[2]!.displacement,
        camera.heightPx,
      );
    }
  } finally {
    await engine.close();
  }
}

function stateOf(index: SceneIndex, options: readonly string[]): ResolvedState {
  return resolve(index, [
    { id: 'base', name: 'base', kind: 'base', changes: [...DEMO_BASE] },
    ...options.map((name) => ({
      id: name,
      name,
      kind: 'option' as const,
      changes: [...DEMO_OPTIONS.find((o) => o.name === name)!.changes],
    })),
  ]);
}
