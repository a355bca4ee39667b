// A glTF file into the library's document, with the extensions that are read.
import { type Document, WebIO } from '@gltf-transform/core';
import {
  EXTMeshGPUInstancing,
  EXTMeshoptCompression,
  EXTTextureAVIF,
  EXTTextureWebP,
  KHRDracoMeshCompression,
  KHRLightsPunctual,
  KHRMaterialsAnisotropy,
  KHRMaterialsClearcoat,
  KHRMaterialsEmissiveStrength,
  KHRMaterialsIOR,
  KHRMaterialsIridescence,
  KHRMaterialsSheen,
  KHRMaterialsSpecular,
  KHRMaterialsTransmission,
  KHRMaterialsUnlit,
  KHRMaterialsVariants,
  KHRMaterialsVolume,
  KHRMeshQuantization,
  KHRTextureBasisu,
  KHRTextureTransform,
} from '@gltf-transform/extensions';
import { MeshoptDecoder } from 'meshoptimizer';
import { FAR_M, ImportError } from '../scene/index.ts';
import type { GltfFiles } from './openFiles.ts';

const READ = [
  EXTMeshGPUInstancing,
  EXTMeshoptCompression,
  EXTTextureAVIF,
  EXTTextureWebP,
  KHRDracoMeshCompression,
  KHRLightsPunctual,
  KHRMaterialsAnisotropy,
  KHRMaterialsClearcoat,
  KHRMaterialsEmissiveStrength,
  KHRMaterialsIOR,
  KHRMaterialsIridescence,
  KHRMaterialsSheen,
  KHRMaterialsSpecular,
  KHRMaterialsTransmission,
  KHRMaterialsUnlit,
  KHRMaterialsVariants,
  KHRMaterialsVolume,
  KHRMeshQuantization,
  KHRTextureBasisu,
  KHRTextureTransform,
];

/** @throws ImportError */
export async function readGltf(fileName: string, { json, resources, faults }: GltfFiles): Promise<Document> {
  const known = new Set<string>(READ.map((e) => e.EXTENSION_NAME));
  const missing = (json.extensionsRequired ?? []).filter((e) => !known.has(e));
  if (missing.length)
    throw new ImportError(
      'UNREADABLE',
      `“${fileName}” cannot be read without ${missing.join(' and ')}, which Variscen does not support yet. Export it without.`,
    );
  for (const e of json.extensionsUsed ?? [])
    if (!known.has(e))
      faults.push({
        kind: 'unread-extension',
        subject: e,
        message: `The extension ${e} is not read; what it describes is left out.`,
      });
  // left out, the far plane is infinitely far away (glTF 2.0, 3.10.3); the reader would put it at 100 m
  for (const { perspective } of json.cameras ?? []) if (perspective) perspective.zfar ??= FAR_M;
  const io = new WebIO().registerExtensions(READ);
  if (json.extensionsUsed?.includes('EXT_meshopt_compression')) {
    await MeshoptDecoder.ready;
    io.registerDependencies({ 'meshopt.decoder': MeshoptDecoder });
  }
  if (json.extensionsUsed?.includes('KHR_draco_mesh_compression'))
    io.registerDependencies({ 'draco3d.decoder': await (await import('draco3d')).default.createDecoderModule() });
  try {
    return await io.readJSON({ json: json as never, resources });
  } catch (e) {
    throw unreadable(fileName, e);
  }
}

/** What readers say of a file that is not as they trust it to be is about themselves. */
export function unreadable(fileName: string, cause: unknown): ImportError {
  return new ImportError(
    'UNREADABLE',
    `“${fileName}” could not be read: something in it is not as its format has it. Check it with a validator and export it again.`,
    { cause },
  );
}
