// Counts what mattered, per instance and kind of event, in whole units so that sums do not depend on order. Each thread
// has counters of its own, behind its scratch; the host adds them up. Off: the address is 0 and nothing is done.
import * as EVIDENCE from './layout/evidence';
import { luminance } from './vec';

/**
 * Adds the luminance of a throughput, at most 4, for instance number index, and one to how often: what was met is told
 * apart from what was not, however little came of it.
 */
// @ts-ignore
@inline export function count(evidence: usize, index: u32, kind: usize, through: v128): void {
  const p = evidence + <usize>index * EVIDENCE.BYTES + (kind << 3);
  const l = min<f32>(luminance(through), 4);
  store<u64>(p, load<u64>(p) + <u64>(<u32>(l * <f32>EVIDENCE.UNIT)));
  store<u64>(p, load<u64>(p, EVIDENCE.COUNTS) + 1, EVIDENCE.COUNTS);
}
