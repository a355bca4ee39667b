// Lamps whose light would be missing from a picture without a word.
import { boundsOf, inverted, placements, transformPoint, worldMatrices } from '@variscen/core/scene';
import type { Selection } from './assemble.ts';
import { isClearSolid } from './count.ts';

/**
 * Lamps of no size within the box of something made of clear glass with a volume. Such glass bends light, so no shadow ray gets through, and no path meets a point by chance:
 * they light nothing outside. The box is the mesh's own, turned and scaled with it; a lamp beside curved glass may be within it too.
 */
export function trappedLamps(s: Selection): { readonly lamp: string; readonly glass: string }[] {
  const { document } = s.pose.now, glasses = s.instances.filter((i) => s.meshes[i.mesh]!.mesh >= 0 && isClearSolid(s.materials[i.material]!)), out: { lamp: string; glass: string }[] = [];
  if (!glasses.length) return out;
  const world = worldMatrices(document.nodes), placed = placements(document, world), nodes = new Map(document.nodes.map((n, i) => [n.path, i]));
  for (const l of s.lights) {
    if ((l.type !== 'point' && l.type !== 'spot') || l.radiusM > 0 || l.shadowless) continue;
    const around = glasses.find((g) => {
      const node = nodes.get(g.name)!, back = inverted(placed[node]!);
      if (!back) return false;
      const { min, max } = boundsOf(document, node, s.meshes[g.mesh]!.mesh, world), at = transformPoint(back, l.position);
      return at.every((x, k) => x >= min[k]! && x <= max[k]!);
    });
    if (around) out.push({ lamp: l.name ?? l.type, glass: document.nodes[nodes.get(around.name)!]!.name });
  }
  return out;
}
