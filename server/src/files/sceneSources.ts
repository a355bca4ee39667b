// What a scene and its look show, out of the content that they name.
import { AppError } from '@variscen/contract/errors';
import { unpackMap } from '@variscen/core/environment';
import { type SceneDocument, unpackDeform, unpackGeometry } from '@variscen/core/scene';
import type { SelectionData } from '@variscen/engine';
import { decodeTexture } from './decodeTexture.ts';

/** @param content by its hash; of what is gone or damaged it says so by the code of its error */
export function sceneSources(document: SceneDocument, content: (hash: string) => Promise<Uint8Array>): SelectionData {
  return {
    geometry: async (i) => {
      const mesh = document.meshes[i]!;
      return unpackGeometry(await named(content(mesh.blob), `mesh “${mesh.name}”`), mesh);
    },
    deform: async (i) => {
      const mesh = document.meshes[i]!;
      const bytes = await named(content(mesh.deform!.blob), `skin of “${mesh.name}”`);
      return unpackDeform(bytes, mesh.deform!, mesh.vertices);
    },
    pixels: async (texture) => decodeTexture(texture, await named(content(texture.blob), `texture “${texture.name}”`)),
    environment: async (sky) => unpackMap(await named(content(sky.hash), `environment map “${sky.name}”`), sky),
  };
}

/** Says of content that is gone or damaged what it is. */
function named(content: Promise<Uint8Array>, what: string): Promise<Uint8Array> {
  return content.catch((e: unknown) => {
    const code = e instanceof Error && 'code' in e ? e.code : undefined;
    if (code !== 'NOT_FOUND' && code !== 'DAMAGED') throw e;
    const fault = code === 'DAMAGED' ? 'is damaged in the data folder' : 'is not in the data folder';
    throw new AppError('DAMAGED', `The ${what} ${fault}. Import it again.`);
  });
}
