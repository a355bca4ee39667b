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
export function culledWords({ leftOut, droppedObjects, simplifiedObjects }: Render): CulledWords | null {
  const ways: CulledWords[] = [];
  if (leftOut) {
    const cost = percent(leftOut.atMostShare);
    const long = `${plural(droppedObjects, 'object')} left out, which cost at most ${cost} of its light.`;
    ways.push({ short: `lean, ≤ ${cost}`, long });
  }
  if (simplifiedObjects > 0) {
    const long = `${plural(simplifiedObjects, 'object')} that the camera does not see itself simplified.`;
    ways.push({ short: 'simplified', long });
  }
  if (!ways.length) return null;
  return { short: ways.map((w) => w.short).join(', '), long: ways.map((w) => w.long).join(' ') };
}
