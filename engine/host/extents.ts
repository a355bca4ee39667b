// Which parts of a span of memory are free. What is lowest is given first, so that memory which is never needed is
// never touched, and the system never has to give it.

interface Extent {
  readonly at: number;
  readonly bytes: number;
}

export class Extents {
  /** By address; none touches another. */
  private free: Extent[];
  private readonly taken = new Map<number, number>();
  private inUse = 0;
  private mostInUse = 0;

  constructor(at: number, bytes: number) {
    this.free = bytes > 0 ? [{ at, bytes }] : [];
  }

  get usedBytes(): number {
    return this.inUse;
  }
  get mostBytes(): number {
    return this.mostInUse;
  }

  fits(bytes: number): boolean {
    return this.free.some((f) => f.bytes >= bytes);
  }
  /** The lowest place of so many bytes, or the highest; undefined where there is none. */
  take(bytes: number, highest = false): number | undefined {
    const isLargeEnough = (f: Extent) => f.bytes >= bytes;
    const i = highest ? this.free.findLastIndex(isLargeEnough) : this.free.findIndex(isLargeEnough);
    const found = this.free[i];
    if (!found) return undefined;
    const rest = found.bytes - bytes;
    const at = highest ? found.at + rest : found.at;
    this.free.splice(i, 1, ...(rest > 0 ? [{ at: highest ? found.at : at + bytes, bytes: rest }] : []));
    this.taken.set(at, bytes);
    this.inUse += bytes;
    this.mostInUse = Math.max(this.mostInUse, this.inUse);
    return at;
  }

  /** @param at what take() gave */
  give(at: number): void {
    const bytes = this.taken.get(at);
    if (bytes === undefined) return;
    this.taken.delete(at);
    this.inUse -= bytes;
    const after = this.free.findIndex((f) => f.at > at);
    const i = after < 0 ? this.free.length : after;
    const before = this.free[i - 1];
    const next = this.free[i];
    const joinsBefore = before !== undefined && before.at + before.bytes === at;
    const joinsNext = next !== undefined && at + bytes === next.at;
    const from = joinsBefore ? before.at : at;
    const to = joinsNext ? next.at + next.bytes : at + bytes;
    this.free.splice(joinsBefore ? i - 1 : i, Number(joinsBefore) + Number(joinsNext), { at: from, bytes: to - from });
  }
}
