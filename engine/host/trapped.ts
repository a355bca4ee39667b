// Lamps whose light would be missing from a picture without a word.
import { boundsOf, inverted, transformPoint, worldMatrices } from '@variscen/core/scene';
import { MASK } from '../kernel/layout/index.ts';
import type { Selection } from './selection.ts';
import { isClearSolid } from './count.ts';

/**
 * Lamps of no size within the box of something made of clear glass with a volume that casts a shadow. Such glass bends
 * light, so no shadow ray gets through, and no path meets a point by chance: they light nothing outside. The box is the
 * mesh's own, turned and scaled with it; a lamp beside curved glass may be within it too.
 */
export function trappedLamps(s: Selection): { readonly lamp: string; readonly glass: string }[] {
  const { nodes } = s.pose.now.document;
  const out: { lamp: string; glass: string }[] = [];
  const lamps = s.lights.flatMap((l) =>
    (l.type === 'point' || l.type === 'spot') && l.radiusM === 0 && !l.shadowless ? [l] : [],
  );
  if (!lamps.length) return out;
  const isGlass = s.materials.map(isClearSolid);
  const glasses = s.instances.filter((i) => isGlass[i.material] && i.mask & MASK.SHADOW && s.meshes[i.mesh]!.mesh >= 0);
  if (!glasses.length) return out;
  const world = worldMatrices(nodes);
  const numbers = new Map(nodes.map((n, i) => [n.path, i]));
  const boxes = glasses.flatMap((g) => {
    const node = numbers.get(g.name)!;
    const back = inverted(Array.from(g.matrix));
    return back
      ? [{ name: nodes[node]!.name, back, ...boundsOf(s.pose.now.document, node, s.meshes[g.mesh]!.mesh, world) }]
      : [];
  });
  for (const l of lamps) {
    const around = boxes.find(({ back, min, max }) =>
      transformPoint(back, l.position).every((x, k) => x >= min[k]! && x <= max[k]!),
    );
    if (around) out.push({ lamp: l.name ?? l.type, glass: around.name });
  }
  return out;
}
