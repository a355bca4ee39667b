// A picture with its light kept apart, to be looked at in other mixes of it. Packed as bytes: u32 length of a JSON
// text, the text, then from the next multiple of four floats: r, g, b a pixel of what is in no group, of each group,
// and coverage.
import type { Rgb } from '../scene/index.ts';

/** Whether light groups are mixed, or each light, the sky and each glowing material by itself. */
export type MixBy = 'group' | 'target';

export interface LightPictureAbout {
  readonly widthPx: number;
  readonly heightPx: number;
  /** Names of its light groups, or targets of single sources. */
  readonly groups: readonly string[];
  readonly by: MixBy;
}
export interface LightPicture extends LightPictureAbout {
  /** r, g, b in nits a pixel of what is in no group. */
  readonly rest: Float32Array;
  readonly light: readonly Float32Array[];
  readonly coverage: Float32Array;
}

const align = (n: number): number => Math.ceil(n / 4) * 4;

export function packLightPicture({ rest, light, coverage, ...about }: LightPicture): Uint8Array {
  const text = new TextEncoder().encode(JSON.stringify(about satisfies LightPictureAbout));
  const first = align(4 + text.length);
  const planes = [rest, ...light, coverage];
  const out = new Uint8Array(first + planes.reduce((n, p) => n + p.byteLength, 0));
  new DataView(out.buffer).setUint32(0, text.length, true);
  out.set(text, 4);
  let at = first;
  for (const plane of planes) {
    out.set(new Uint8Array(plane.buffer, plane.byteOffset, plane.byteLength), at);
    at += plane.byteLength;
  }
  return out;
}

/** The planes lie in the bytes. @throws RangeError where they are cut short */
export function unpackLightPicture(bytes: ArrayBuffer): LightPicture {
  const length = new DataView(bytes).getUint32(0, true);
  const about = JSON.parse(new TextDecoder().decode(new Uint8Array(bytes, 4, length))) as LightPictureAbout;
  const pixels = about.widthPx * about.heightPx;
  let at = align(4 + length);
  const take = (floats: number) => {
    const plane = new Float32Array(bytes, at, floats);
    at += plane.byteLength;
    return plane;
  };
  const rest = take(pixels * 3);
  const light = about.groups.map(() => take(pixels * 3));
  return { ...about, rest, light, coverage: take(pixels) };
}

/** r, g, b in nits and coverage a pixel. @param shares how much of each group, r, g, b; 1 as it was rendered */
export function mixedLight({ rest, light, coverage }: LightPicture, shares: readonly Rgb[]): Float32Array {
  const out = new Float32Array(coverage.length * 4);
  for (let i = 0, q = 0, p = 0; i < coverage.length; i++, q += 4, p += 3) {
    out[q] = rest[p]!;
    out[q + 1] = rest[p + 1]!;
    out[q + 2] = rest[p + 2]!;
    out[q + 3] = coverage[i]!;
  }
  light.forEach((plane, g) => {
    const [r, green, b] = shares[g]!;
    if (Math.max(r, green, b) <= 0) return;
    for (let p = 0, q = 0; p < plane.length; p += 3, q += 4) {
      out[q]! += r * plane[p]!;
      out[q + 1]! += green * plane[p + 1]!;
      out[q + 2]! += b * plane[p + 2]!;
    }
  });
  return out;
}
