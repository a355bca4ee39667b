// A picture of the whole scene and one of what a camera leaves of it, at the same seeds, to be held against each other.
// Packed as bytes: u32 length of a JSON text, the text, then from the next multiple of four the arrays one after
// another.

export interface ProofSide {
  readonly objects: number;
  /** Loading and tracing. */
  readonly loadS: number;
  readonly traceS: number;
  /** What the engine held, and the most that the process held, as the system measured it. */
  readonly engineBytes: number;
  readonly peakBytes: number;
  /** Not all fit: meshes were loaded when rays reached them. */
  readonly isInPieces: boolean;
}
export interface ProofAbout {
  readonly widthPx: number;
  readonly heightPx: number;
  readonly samples: number;
  /** Mean luminance of the whole scene's picture, nits. */
  readonly meanNits: number;
  readonly whole: ProofSide;
  readonly culled: ProofSide;
  /** Pixels that differ in any bit. */
  readonly differingPixels: number;
  /**
   * Sum of all differences, each counted as a loss or gain, and of their sizes, to all light of the whole scene's
   * picture.
   */
  readonly netShare: number;
  readonly absoluteShare: number;
  /** By how much noise alone lets the sum of all differences stray, one standard deviation, to the same. */
  readonly noiseShare: number;
  /**
   * By how much usual pixels differ, root mean square, with the noise taken out, to the mean of all; how much of that may
   * be by chance; and the noise of a Final, to the same (paired.ts).
   */
  readonly pixelShare: number;
  readonly chanceShare: number;
  readonly finalNoiseShare: number;
  /** What was said of it while it was rendered; null: nothing was left out. */
  readonly atMostShare: number | null;
  /** Paths of objects that are left out; the pixels refer to them by place. */
  readonly leftOut: readonly string[];
}
export interface Proof extends ProofAbout {
  /** r, g, b as they are shown. */
  readonly wholeRgb: Uint8Array;
  readonly culledRgb: Uint8Array;
  /** Luminance of the whole scene's picture, and that of the culled one less it, nits a pixel. */
  readonly nits: Float32Array;
  readonly difference: Float32Array;
  /** By how much it may differ, and for which object most of that; −1: none. */
  readonly doubt: Float32Array;
  readonly object: Int32Array;
}

const align = (n: number): number => Math.ceil(n / 4) * 4;

export function packProof({ wholeRgb, culledRgb, nits, difference, doubt, object, ...about }: Proof): Uint8Array {
  const text = new TextEncoder().encode(JSON.stringify(about satisfies ProofAbout));
  const first = align(4 + text.length);
  const pixels = about.widthPx * about.heightPx;
  const out = new Uint8Array(first + pixels * 16 + align(pixels * 3) * 2);
  new DataView(out.buffer).setUint32(0, text.length, true);
  out.set(text, 4);
  new Float32Array(out.buffer, first, pixels).set(difference);
  new Float32Array(out.buffer, first + pixels * 4, pixels).set(doubt);
  new Int32Array(out.buffer, first + pixels * 8, pixels).set(object);
  new Float32Array(out.buffer, first + pixels * 12, pixels).set(nits);
  out.set(wholeRgb, first + pixels * 16);
  out.set(culledRgb, first + pixels * 16 + align(pixels * 3));
  return out;
}

/** @param bytes of packProof(), from the beginning of their buffer */
export function unpackProof(bytes: ArrayBuffer): Proof {
  const length = new DataView(bytes).getUint32(0, true);
  const about = JSON.parse(new TextDecoder().decode(new Uint8Array(bytes, 4, length))) as ProofAbout;
  const first = align(4 + length);
  const pixels = about.widthPx * about.heightPx;
  return {
    ...about,
    difference: new Float32Array(bytes, first, pixels),
    doubt: new Float32Array(bytes, first + pixels * 4, pixels),
    object: new Int32Array(bytes, first + pixels * 8, pixels),
    nits: new Float32Array(bytes, first + pixels * 12, pixels),
    wholeRgb: new Uint8Array(bytes, first + pixels * 16, pixels * 3),
    culledRgb: new Uint8Array(bytes, first + pixels * 16 + align(pixels * 3), pixels * 3),
  };
}
