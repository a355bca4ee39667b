// The demo as the engine gets it, through the same import, resolver and selection as any project.
import { createHash } from 'node:crypto';
import { importScene } from '@variscen/core/import';
import { SceneIndex, resolve } from '@variscen/core/looks';
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
        const layers = [
          { id: 'base', name: 'base', kind: 'base' as const, changes: [...DEMO_BASE] },
          ...options.map((name) => ({
            id: name,
            name,
            kind: 'option' as const,
            changes: [...DEMO_OPTIONS.find((o) => o.name === name)!.changes],
          })),
        ];
        const selection = select(poseFor(document, undefined, camera), resolve(index, layers));
        const scene = await attach(
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
        return { scene, selection };
      },
    };
  } finally {
    await engine.close();
  }
}
