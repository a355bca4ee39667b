// Verdicts in words, with the figures that they rest on.
import { type CullEvidence, type ObjectEvidence, isLatelyMet } from './evidence.ts';
import type { LeaveReason, Verdict, VerdictReason } from './verdict.ts';

const LEFT_OUT_WORDS: Readonly<Record<LeaveReason, string>> = {
  'by-hand': 'left out by hand',
  evidence: 'left out',
  'off-frame': 'left out: outside the frame',
  'outside-planes': 'left out: in front of the near plane or beyond the far plane',
  farther: 'left out: farther than the limit',
  smaller: 'left out: smaller than the limit',
};

/** “0.021 %”: two digits that say something. */
export function percent(share: number): string {
  const p = share * 100;
  if (p === 0) return '0 %';
  if (p < 0.001) return 'under 0.001 %';
  return `${Number(p.toPrecision(2)).toLocaleString('en', { maximumFractionDigits: 4 })} %`;
}

/**
 * @param object what was measured of it; undefined: no ray met it
 * @param evidence null: nothing was measured
 * @param trianglesShare so much of its triangles is loaded, where it is simplified
 * @param inPart so many pieces of its meshes are left out
 */
export function verdictWords(
  { keep, reason }: Pick<Verdict, 'keep' | 'reason'>,
  object: ObjectEvidence | undefined,
  evidence: Pick<CullEvidence, 'rays'> | null,
  trianglesShare?: number,
  inPart?: { readonly leftOut: number; readonly of: number },
): string {
  if (reason === 'hidden') return 'hidden';
  if (reason === 'gives-light')
    return object?.lit ? `kept: gives light, ${percent(object.lit)} of the picture is lit by it` : 'kept: gives light';
  const measured = evidence ? measuredWords(object, evidence.rays) : null;
  if (!keep) {
    const words = LEFT_OUT_WORDS[reason as LeaveReason];
    if (measured === null) return words;
    return reason === 'evidence' ? `${words}: ${measured}` : `${words}; ${measured}`;
  }
  const kept = inPart
    ? `kept but for ${inPart.leftOut.toLocaleString('en')} of ${inPart.of.toLocaleString('en')} pieces`
    : keptWords(reason, trianglesShare);
  return measured === null ? kept : `${kept}: ${measured}`;
}

function keptWords(reason: VerdictReason, trianglesShare: number | undefined): string {
  if (reason === 'pinned') return 'pinned';
  if (reason === 'in-part') return 'kept in part';
  if (reason !== 'simplified') return 'kept';
  return trianglesShare === undefined ? 'simplified' : `simplified to ${percent(trianglesShare)}`;
}

function measuredWords(object: ObjectEvidence | undefined, rays: number): string {
  if (!object) return `no ray of ${amount(rays)} came near`;
  if (isLatelyMet(object)) return 'only rays of a picture in its own size came near';
  const { sight, shadowed } = object;
  // by what it is needed for, not by how much: what is seen is missed first
  if (sight.seen > 0) return `${percent(sight.seen)} of the frame`;
  if (sight.reflected > 0 && sight.reflected >= sight.refracted)
    return withShadow(`${reflectedIn(object)}, ${percent(sight.reflected)} of what is seen`, shadowed);
  if (sight.refracted > 0)
    return withShadow(
      `through ${object.glass === undefined ? 'glass' : `“${object.glass}”`}, ${percent(sight.refracted)} of what is seen`,
      shadowed,
    );
  if (sight.bounced > 0 && object.brought >= shadowed) return `bounced light only, ${percent(object.brought)}`;
  if (shadowed > 0) return `its shadow, ${percent(shadowed)} of the light`;
  return 'met, but brought no light';
}
const reflectedIn = ({ mirror }: ObjectEvidence): string =>
  mirror === undefined ? 'in reflections' : `in reflections on “${mirror}”`;
const withShadow = (words: string, shadowed: number): string =>
  shadowed > 0 ? `${words}; its shadow, ${percent(shadowed)} of the light` : words;

/** “1.9 million” */
function amount(n: number): string {
  if (n >= 1e9) return `${(n / 1e9).toPrecision(2)} billion`;
  return n >= 1e6 ? `${(n / 1e6).toPrecision(2)} million` : n.toLocaleString('en');
}
