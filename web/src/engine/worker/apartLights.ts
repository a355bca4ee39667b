// A live picture in other lights, without another trace: the light of each lamp, of the sky and of each material that
// glows is kept apart while it is traced, and light adds up. What is shown is denoised as a whole; it is changed by the
// ratio of the lights as they would be to as they were, from the groups as they were traced, at half the size and a
// little blurred. Good while a hand moves a slider; the picture that is traced afterwards takes its place.
import type { SourceLight } from '@variscen/core/looks';
import type { Rgb } from '@variscen/core/scene';

/** Of pixels of half the size. */
const BLUR_PX = 1;
/** Nits under which a ratio would be of nothing to nothing. */
const FLOOR_NITS = 1e-5;

interface Size {
  readonly widthPx: number;
  readonly heightPx: number;
}

export class ApartPicture {
  /** At half the size, blurred. */
  private readonly whole: Float32Array;
  private readonly half: Size;
  private readonly groups = new Map<number, Float32Array>();

  /**
   * @param shown r, g, b and coverage a pixel, denoised
   * @param traced the same as it was traced
   * @param group r, g, b of a source's light as it was traced, by its place in `sources`: for each square of two by two
   * pixels; undefined where it is gone. It is asked for when it is wanted, or by keep()
   * @param powers of the sources, by their targets
   */
  constructor(
    private readonly shown: Float32Array,
    traced: Float32Array,
    private readonly group: (at: number) => Float32Array | undefined,
    private readonly size: Size,
    private readonly sources: readonly string[],
    private readonly powers: SourceLight,
  ) {
    this.half = { widthPx: Math.ceil(size.widthPx / 2), heightPx: Math.ceil(size.heightPx / 2) };
    this.whole = boxBlurred(halved(traced, size), this.half);
  }

  /** What it is made from goes now. */
  keep(): void {
    for (const at of this.sources.keys()) this.lightOf(at);
  }
  private lightOf(source: number): Float32Array | undefined {
    const light = this.groups.get(source) ?? this.group(source);
    if (light) this.groups.set(source, light);
    return light;
  }

  /** @returns undefined where it cannot be told: a light is on that was not, or one changed that was not kept */
  relit(powers: SourceLight): Float32Array | undefined {
    const factors = this.factors(powers);
    if (!factors) return undefined;
    const { widthPx, heightPx } = this.size;
    const by = this.ratios(factors);
    if (!by) return undefined;
    const film = this.shown.slice();
    for (let y = 0, i = 0; y < heightPx; y++) {
      const line = (y >> 1) * this.half.widthPx;
      for (let x = 0; x < widthPx; x++, i += 4) {
        const at = (line + (x >> 1)) * 3;
        film[i]! *= by[at]!;
        film[i + 1]! *= by[at + 1]!;
        film[i + 2]! *= by[at + 2]!;
      }
    }
    return film;
  }

  /** By how much what is shown changes, at half the size. */
  private ratios(factors: readonly Factor[]): Float32Array | undefined {
    const change = this.changeOf(factors);
    return (
      change &&
      boxBlurred(change, this.half).map((m, i) => {
        const was = this.whole[i]! + FLOOR_NITS;
        return Math.max(0, was + m) / was;
      })
    );
  }
  /** Light that is added, as it was traced; less than none where it goes. */
  private changeOf(factors: readonly Factor[]): Float32Array | undefined {
    const out = new Float32Array(this.whole.length);
    for (const { source, by } of factors) {
      const light = this.lightOf(source);
      if (!light) return undefined;
      for (let i = 0; i < out.length; i += 3) for (let c = 0; c < 3; c++) out[i + c]! += light[i + c]! * by[c]!;
    }
    return out;
  }

  /** By how much more of each source's light there is, 0 for as much as before. */
  private factors(powers: SourceLight): Factor[] | undefined {
    const factors: Factor[] = [];
    for (const source of new Set([...this.powers.keys(), ...powers.keys()])) {
      const was = this.powers.get(source) ?? [0, 0, 0];
      const now = powers.get(source) ?? [0, 0, 0];
      if (was.every((x, c) => x === now[c])) continue;
      const at = this.sources.indexOf(source);
      if (at < 0 || was.some((x, c) => x === 0 && now[c]! > 0)) return undefined;
      factors.push({ source: at, by: was.map((x, c) => (x > 0 ? now[c]! / x - 1 : 0)) as unknown as Rgb });
    }
    return factors;
  }
}
interface Factor {
  /** Which of those that are kept apart. */
  readonly source: number;
  readonly by: Rgb;
}

/** Of r, g, b and coverage a pixel the mean r, g, b of each square of two by two. */
function halved(film: Float32Array, { widthPx, heightPx }: Size): Float32Array {
  const across = Math.ceil(widthPx / 2);
  const out = new Float32Array(across * Math.ceil(heightPx / 2) * 3);
  for (let y = 0, i = 0; y < heightPx; y++) {
    const rows = Math.min(2, heightPx - (y & ~1));
    for (let x = 0; x < widthPx; x++, i += 4) {
      const share = 1 / (rows * Math.min(2, widthPx - (x & ~1)));
      const to = ((y >> 1) * across + (x >> 1)) * 3;
      for (let c = 0; c < 3; c++) out[to + c]! += film[i + c]! * share;
    }
  }
  return out;
}
/** r, g, b a pixel; across, then down, each by a running sum. */
function boxBlurred(data: Float32Array, { widthPx, heightPx }: Size): Float32Array {
  const across = new Float32Array(data.length);
  const out = new Float32Array(data.length);
  blurLines(data, across, heightPx, widthPx, widthPx * 3, 3);
  blurLines(across, out, widthPx, heightPx, 3, widthPx * 3);
  return out;
}
function blurLines(from: Float32Array, to: Float32Array, lines: number, length: number, line: number, step: number) {
  for (let k = 0; k < lines; k++)
    for (let c = 0; c < 3; c++) {
      const start = k * line + c;
      let sum = 0;
      let n = 0;
      for (let i = 0; i < Math.min(BLUR_PX, length); i++, n++) sum += from[start + i * step]!;
      for (let i = 0; i < length; i++) {
        if (i + BLUR_PX < length) {
          sum += from[start + (i + BLUR_PX) * step]!;
          n++;
        }
        if (i - BLUR_PX - 1 >= 0) {
          sum -= from[start + (i - BLUR_PX - 1) * step]!;
          n--;
        }
        to[start + i * step] = sum / n;
      }
    }
}
