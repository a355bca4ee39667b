// A function of a number that gives bytes and never falls, looked up: values whose neighbours on both sides have one
// byte have it too. Only where bytes change is it worked out for each value.

/** Values of an octave that are looked up together: 1024 spans. */
const SHIFT = 13;
const LEAST = 2 ** -16;
const MOST = 2 ** 3;
const FIRST = (127 - 16) << 23; // their bits
const END = (127 + 3) << 23;
const UNKNOWN = -2;
const SEVERAL = -1;

const value = new Float32Array(1);
const bits = new Uint32Array(value.buffer);
const valueOf = (itsBits: number): number => {
  bits[0] = itsBits;
  return value[0]!;
};

export class RisingBytes {
  private readonly known = new Int16Array((END - FIRST) >>> SHIFT).fill(UNKNOWN);
  /** @param work whole numbers 0 … 255, never less of a larger number */
  constructor(private readonly work: (x: number) => number) {}

  byteOf(x: number): number {
    if (!(x >= LEAST && x < MOST)) return this.work(x);
    value[0] = x;
    const at = (bits[0]! - FIRST) >> SHIFT;
    const known = this.known[at]; // what is rounded to MOST is beyond the table
    if (known === undefined || known === SEVERAL) return this.work(x);
    return known === UNKNOWN ? this.learn(at, x) : known;
  }
  private learn(at: number, x: number): number {
    const first = FIRST + (at << SHIFT);
    // a number of 64 bits may have been rounded into the span from a little outside
    const least = this.work(valueOf(first - 1));
    const most = this.work(valueOf(first + (1 << SHIFT)));
    this.known[at] = least === most ? least : SEVERAL;
    return this.work(x);
  }
}
