// What an import read, in numbers.
import { type ImportReport, type SceneDocument, placedTriangles, sceneBox, storedTriangles } from '../scene/index.ts';

export function reportOf(
  d: SceneDocument,
  { fileName, fileBytes, faults }: Pick<ImportReport, 'fileName' | 'fileBytes' | 'faults'>,
): ImportReport {
  const objects = d.nodes.filter((n) => n.parts).length;
  const lights = d.nodes.filter((n) => n.light !== undefined).length;
  const cameras = d.nodes.filter((n) => n.camera !== undefined).length;
  return {
    fileName,
    fileBytes,
    objects,
    lights,
    cameras,
    groups: d.nodes.filter((n) => !n.parts && n.light === undefined && n.camera === undefined).length,
    materials: d.materials.length,
    meshes: d.meshes.length,
    trianglesStored: storedTriangles(d),
    trianglesPlaced: placedTriangles(d),
    textures: d.textures.length,
    textureBytes: d.textures.reduce((n, t) => n + t.width * t.height * (t.bits === 16 ? 8 : 4), 0),
    sizeM: sceneSize(d),
    faults,
  };
}

/** Extent of all objects' boxes, metres. */
function sceneSize(d: SceneDocument): [number, number, number] {
  const box = sceneBox(d);
  return box ? [box.max[0] - box.min[0], box.max[1] - box.min[1], box.max[2] - box.min[2]] : [0, 0, 0];
}
