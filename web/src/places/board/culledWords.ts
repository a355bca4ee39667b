// By which way a picture was culled, and what that cost, as its cell says it.
import type { Render } from '@variscen/contract';
import { percent } from '@variscen/core/cull';
import { plural } from '../../ui/format.ts';

export interface CulledWords {
  /** On the picture: “lean, ≤ 0.4 %”. */
  readonly short: string;
  readonly long: string;
}

/** @returns null: the picture is the one with everything loaded, or it is not known what was left out */
export function culledWords({ leftOut, droppedObjects, inPartObjects, simplifiedObjects }: Render): CulledWords | null {
  const ways: CulledWords[] = [];
  if (leftOut) {
    const cost = percent(leftOut.atMostShare);
    const gone = leftOutWords(droppedObjects, inPartObjects);
    ways.push({ short: `lean, ≤ ${cost}`, long: `${gone} left out, which cost at most ${cost} of its light.` });
  }
  if (simplifiedObjects > 0) {
    const long = `${plural(simplifiedObjects, 'object')} that the camera does not see itself simplified.`;
    ways.push({ short: 'simplified', long });
  }
  if (!ways.length) return null;
  return { short: ways.map((w) => w.short).join(', '), long: ways.map((w) => w.long).join(' ') };
}

function leftOutWords(objects: number, inPart: number): string {
  if (!inPart) return plural(objects, 'object');
  return objects
    ? `${plural(objects, 'object')} and pieces of ${plural(inPart, 'other')}`
    : `Pieces of ${plural(inPart, 'object')}`;
}
