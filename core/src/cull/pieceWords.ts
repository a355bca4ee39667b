// How rays came to the pieces of an object's meshes, in words.
import type { Meeting } from './meetings.ts';
import { type PieceEvidence, isMetBy, piecesMet } from './pieces.ts';

/** What a piece is needed for: the first of them in which rays met it. */
const NEEDED: readonly (readonly [Exclude<Meeting, 'lit'>, string])[] = [
  ['seen', 'seen'],
  ['reflected', 'in reflections'],
  ['refracted', 'through glass'],
  ['bounced', 'by bounced light'],
  ['shadowed', 'for their shadow'],
];

/** “Rays came to 12 of 40 pieces: 3 seen, 4 by bounced light, 5 only near.” */
export function pieceWords(meshes: readonly PieceEvidence[]): string {
  const met = meshes.flatMap(piecesMet).filter((p) => p.isMet);
  const all = meshes.reduce((n, m) => n + m.bytes.length, 0);
  const counts = new Map<string, number>();
  for (const { ways } of met) {
    const how = NEEDED.find(([kind]) => isMetBy(ways, kind))?.[1] ?? 'only near';
    counts.set(how, (counts.get(how) ?? 0) + 1);
  }
  const order = [...NEEDED.map(([, how]) => how), 'only near'];
  const parts = order.flatMap((how) => (counts.has(how) ? [`${counts.get(how)!.toLocaleString('en')} ${how}`] : []));
  const of = `Rays came to ${met.length.toLocaleString('en')} of ${all.toLocaleString('en')} pieces`;
  return parts.length ? `${of}: ${parts.join(', ')}.` : `${of}.`;
}
