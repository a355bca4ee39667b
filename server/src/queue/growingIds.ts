// UUIDs (version 7, RFC 9562), each greater than all before it: entries of one transaction share their time, and what
// is ordered by id stays in its order.
export class GrowingIds {
  private last = 0n;

  next(now: Date): string {
    const fresh = BigInt(now.getTime()) << 74n;
    this.last = fresh > this.last ? fresh : this.last + 1n;
    const time = this.last >> 74n;
    const rest = this.last & ((1n << 74n) - 1n);
    const hex = ((time << 80n) | (7n << 76n) | ((rest >> 62n) << 64n) | (2n << 62n) | (rest & ((1n << 62n) - 1n)))
      .toString(16)
      .padStart(32, '0');
    return `${hex.slice(0, 8)}-${hex.slice(8, 12)}-${hex.slice(12, 16)}-${hex.slice(16, 20)}-${hex.slice(20)}`;
  }
}
