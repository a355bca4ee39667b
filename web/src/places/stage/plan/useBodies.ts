// Bodies that a plane could cut, by their meshes: those whose boxes a plane goes through are loaded, and count once
// they are there.
import type { SceneIndex } from '@variscen/core/looks';
import {
  type CameraSettings,
  type CutBody,
  type DepthSpan,
  type Geometry,
  cutsInFrame,
  placements,
  unpackGeometry,
} from '@variscen/core/scene';
import { useEffect, useMemo, useRef, useState } from 'react';
import { asset } from '../../../api/assets.ts';

const AT_ONCE = 24;

/** @param planes metres along the view; undefined: there is none */
export function useBodies(
  index: SceneIndex,
  camera: CameraSettings | undefined,
  rough: readonly DepthSpan[],
  planes: readonly (number | undefined)[],
): readonly CutBody[] {
  const loaded = useRef<{ index: SceneIndex; meshes: Map<number, Geometry | null> }>({ index, meshes: new Map() });
  const [, setArrived] = useState(0);
  if (loaded.current.index !== index) loaded.current = { index, meshes: new Map() };
  const { meshes } = loaded.current;
  const d = index.document;
  const wanted = meshesCutBy(planes, rough, index)
    .filter((m) => !meshes.has(m))
    .slice(0, AT_ONCE);
  useEffect(() => {
    for (const m of wanted) {
      meshes.set(m, null);
      void asset(d.meshes[m]!.blob).then(
        (bytes) => {
          meshes.set(m, unpackGeometry(new Uint8Array(bytes), d.meshes[m]!));
          setArrived((n) => n + 1);
        },
        () => meshes.delete(m),
      );
    }
  }, [wanted.join()]);
  const world = useMemo(() => placements(d), [d]);
  return useMemo(() => {
    const isCut = (node: number, c: CameraSettings, distanceM: number) =>
      d.nodes[node]!.parts!.some((p) => {
        const g = meshes.get(p.mesh);
        return g ? cutsInFrame(c, world[node]!, g.positions, g.indices, distanceM) : false;
      });
    return rough.map((s): CutBody => ({
      ...s,
      cutAt: (distanceM) => camera !== undefined && isCut(s.node, camera, distanceM),
    }));
  }, [rough, camera, d, world, meshes]);
}

/** Meshes of things that reach from one side of a plane to the other. */
function meshesCutBy(
  planes: readonly (number | undefined)[],
  rough: readonly DepthSpan[],
  { document }: SceneIndex,
): number[] {
  const crosses = (s: DepthSpan) => planes.some((x) => x !== undefined && s.fromM < x && x < s.toM);
  return [...new Set(rough.filter(crosses).flatMap((s) => document.nodes[s.node]!.parts!.map((p) => p.mesh)))];
}
