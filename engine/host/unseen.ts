// Pictures that would show nothing, told before they are rendered.
import { emits } from './count.ts';
import type { EngineLight } from './scene.ts';
import type { Selection } from './selection.ts';

/** Whether anything of a selection gives light. */
export function isLit(s: Selection): boolean {
  const hasSky = s.environment !== undefined || Object.values(s.environmentInputs).some((x) => x !== 'none');
  return (
    hasSky || s.plate !== undefined || s.lights.some(shines) || s.instances.some((i) => emits(s.materials[i.material]!))
  );
}
function shines(l: EngineLight): boolean {
  if (l.type === 'sun') return Math.max(...l.illuminanceLux) > 0;
  if (l.type === 'point' || l.type === 'spot') return Math.max(...l.intensityCd) > 0;
  return Math.max(...l.radianceNits) > 0;
}
