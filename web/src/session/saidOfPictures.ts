// What this window says of pictures and the server has not confirmed yet: it is shown at once, over what the server
// knows.
import type { Review, ReviewChange } from '@variscen/contract';

interface Said {
  readonly renderIds: ReadonlySet<string>;
  readonly change: ReviewChange;
}
const NOTHING: readonly Said[] = [];

export class SaidOfPictures {
  private said = NOTHING;
  private readonly listeners = new Set<() => void>();

  /** Shown until the answer is called. */
  add(renderIds: readonly string[], change: ReviewChange): () => void {
    const one = { renderIds: new Set(renderIds), change };
    this.put([...this.said, one]);
    return () => this.put(this.said.filter((s) => s !== one));
  }
  readonly subscribe = (listener: () => void): (() => void) => {
    this.listeners.add(listener);
    return () => this.listeners.delete(listener);
  };
  readonly current = (): readonly Said[] => this.said;

  private put(said: readonly Said[]): void {
    this.said = said.length ? said : NOTHING;
    for (const listener of this.listeners) listener();
  }
}

/** By picture. @param of what a picture is, by its id */
export function reviewsWith(
  known: readonly Review[],
  said: readonly Said[],
  of: (renderId: string) => Pick<Review, 'cameraId' | 'variantId' | 'version'> | undefined,
): ReadonlyMap<string, Review> {
  const out = new Map(known.map((r) => [r.renderId, r]));
  for (const { renderIds, change } of said)
    for (const renderId of renderIds) {
      const picture = of(renderId);
      const was = out.get(renderId) ?? (picture && { ...NEVER, renderId, ...picture });
      if (!was) continue;
      const { verdict = was.verdict, note = was.note, marks = was.marks } = change;
      out.set(renderId, { ...was, verdict, note, marks });
    }
  return out;
}
const NEVER = { verdict: null, note: '', marks: [], saidAt: '' } as const satisfies Partial<Review>;
