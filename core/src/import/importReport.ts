// What an import read, in numbers.
import {
  type ImportReport,
  type SceneDocument,
  placedTriangles,
  storedTriangles,
  transformPoint,
  worldMatrices,
} from '../scene/index.ts';

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
  const world = worldMatrices(d.nodes);
  const lo = [Infinity, Infinity, Infinity];
  const hi = [-Infinity, -Infinity, -Infinity];
  d.nodes.forEach((n, i) =>
    n.parts?.forEach((p) => {
      const { min, max } = d.meshes[p.mesh]!;
      for (let c = 0; c < 8; c++)
        transformPoint(world[i]!, [c & 1 ? max[0] : min[0], c & 2 ? max[1] : min[1], c & 4 ? max[2] : min[2]]).forEach(
          (x, k) => {
            lo[k] = Math.min(lo[k]!, x);
            hi[k] = Math.max(hi[k]!, x);
          },
        );
    }),
  );
  return lo[0] === Infinity ? [0, 0, 0] : [hi[0]! - lo[0]!, hi[1]! - lo[1]!, hi[2]! - lo[2]!];
}
