// Whether a job may take the memory that it needs, and what to do where it may not.
import { MEMORY_CATEGORIES, type MemoryBytes, type MemoryCategory, type MemoryPlan } from './memoryPlaces.ts';
import { EngineError } from './scene.ts';

/** Addresses are of 32 bits. */
export const MOST_JOB_BYTES = 65536 * 65536;
const size = (n: number): string =>
  n >= 2 ** 30 ? `${(n / 2 ** 30).toFixed(2)} GiB` : `${Math.ceil(n / 2 ** 20)} MiB`;
const REMEDY: Readonly<Record<MemoryCategory, string>> = {
  vertices: 'cull objects for this camera',
  acceleration: 'cull objects for this camera',
  textures: 'lower the cap on texture size',
  lights: 'use smaller environment maps',
  film: 'render smaller or ask for fewer AOVs',
  scratch: 'use fewer threads',
};
/** What takes most, with what to do about it. */
function largest(bytes: MemoryBytes): string {
  const order = [...MEMORY_CATEGORIES].sort((a, b) => bytes[b] - bytes[a]);
  const first = order[0]!;
  return `Largest are ${order
    .slice(0, 3)
    .map((c) => `${c} with ${size(bytes[c])}`)
    .join(', ')}. To save most, ${REMEDY[first]}.`;
}
/**
 * @param processBytes what the program around the kernel takes beside it, where that is known
 * @throws EngineError OUT_OF_MEMORY with what is largest, where the plan is over the budget or over what one job can
 * hold
 */
export function checkBudget(
  { bytes, totalBytes }: Pick<MemoryPlan, 'bytes' | 'totalBytes'>,
  budgetBytes: number,
  processBytes = 0,
): void {
  const refused = (needs: string, limit: string) =>
    new EngineError('OUT_OF_MEMORY', `This job needs ${needs}, ${limit}. ${largest(bytes)}`);
  if (totalBytes > MOST_JOB_BYTES) throw refused(size(totalBytes), 'and one job can hold 4 GiB at most');
  const whole = totalBytes + processBytes;
  if (whole <= budgetBytes) return;
  const ofIt = processBytes ? `, ${size(processBytes)} of it for the process itself` : '';
  throw refused(`${size(whole)}${ofIt}`, `the budget is ${size(budgetBytes)}`);
}
