// A live picture in other lights, without another trace: the light of each lamp and of the sky is kept apart while it is
// traced, and light adds up. What is shown is denoised as a whole; it is changed by the ratio of the lights as they would
// be to as they were, from the groups as they were traced, a little blurred. Good while a hand moves a slider; the picture
// that is traced afterwards takes its place.
import { type ResolvedState, lightOf } from '@variscen/core/looks';
import { IDENTITY, type Rgb, type SceneDocument } from '@variscen/core/scene';
import type { EngineLight, Selection } from '@variscen/engine';

/** More are not told apart: each takes as much memory as the picture. */
const MOST_GROUPS = 12;
const SKY = 'environment';
const BLUR_PX = 2;
/** Nits under which a ratio would be of nothing to nothing. */
const FLOOR_NITS = 1e-5;

/** A selection whose strongest lamps and whose sky are groups of their own, by the paths of `sources`. */
export interface ApartLights {
  readonly selection: Selection;
  readonly sources: readonly string[];
}

export function lightsApart(s: Selection): ApartLights {
  const strongest = [...s.lights].sort((a, b) => strengthOf(b) - strengthOf(a)).slice(0, MOST_GROUPS - 1);
  const sources = [...(s.environment ? [SKY] : []), ...strongest.map((l) => l.path!)];
  const rest = sources.length; // a group that is not kept
  const groupOf = (source: string) => {
    const at = sources.indexOf(source);
    return at < 0 ? rest : at;
  };
  return {
    sources,
    selection: {
      ...s,
      lights: s.lights.map((l) => ({ ...l, lightGroup: groupOf(l.path!) })),
      instances: s.instances.map((i) => (i.lightGroup === undefined ? i : { ...i, lightGroup: rest })),
      environmentGroup: groupOf(SKY),
      lightGroups: sources,
    },
  };
}
/** For telling strong from weak alone: lamps, panels and suns are not of one unit. */
function strengthOf(l: EngineLight): number {
  switch (l.type) {
    case 'sun':
      return Infinity;
    case 'point':
    case 'spot':
      return Math.max(...l.intensityCd);
    case 'rectangle':
      return Math.max(...l.radianceNits) * l.widthM * l.heightM;
    case 'disc':
    case 'ball':
      return Math.max(...l.radianceNits) * l.radiusM ** 2;
  }
}

/** What sources give in a look: colour times strength; those that give nothing are not there. */
export function powersOf(document: SceneDocument, state: ResolvedState): ReadonlyMap<string, Rgb> {
  const powers = new Map<string, Rgb>();
  for (const [i, n] of document.nodes.entries()) {
    const now = n.light === undefined ? undefined : lightOf(document, state, i, IDENTITY);
    if (now) powers.set(n.path, now.light.color.map((c) => c * now.light.intensity) as unknown as Rgb);
  }
  const strength = Number(state.get('environment', 'environment.strength') ?? 1);
  const tint = (state.get('environment', 'environment.tint') ?? [1, 1, 1]) as Rgb;
  powers.set(SKY, tint.map((c) => c * strength) as unknown as Rgb);
  return powers;
}

export class ApartPicture {
  private readonly groups: readonly Float32Array[];
  private readonly whole: Float32Array;

  /**
   * @param shown r, g, b and coverage a pixel, denoised
   * @param traced the same as it was traced
   * @param groups r, g, b a pixel of each source's light as it was traced, source after source
   */
  constructor(
    private readonly shown: Float32Array,
    traced: Float32Array,
    groups: Float32Array,
    { widthPx, heightPx }: { readonly widthPx: number; readonly heightPx: number },
    private readonly sources: readonly string[],
    private readonly powers: ReadonlyMap<string, Rgb>,
  ) {
    const pixels = widthPx * heightPx;
    const blurred = (data: Float32Array) => boxBlurred(data, widthPx, heightPx);
    this.groups = sources.map((_, g) => blurred(groups.subarray(g * pixels * 3, (g + 1) * pixels * 3)));
    const rgb = new Float32Array(pixels * 3);
    for (let i = 0; i < pixels; i++) for (let c = 0; c < 3; c++) rgb[i * 3 + c] = traced[i * 4 + c]!;
    this.whole = blurred(rgb);
  }

  /** @returns undefined where it cannot be told: a light is on that was not, or one changed that is not kept apart */
  relit(powers: ReadonlyMap<string, Rgb>): Float32Array | undefined {
    const factors = this.factors(powers);
    if (!factors) return undefined;
    const film = this.shown.slice();
    for (let i = 0; i < film.length / 4; i++)
      for (let c = 0; c < 3; c++) {
        const at = i * 3 + c;
        let more = 0;
        for (const { group, by } of factors) more += group[at]! * by[c]!;
        const was = this.whole[at]! + FLOOR_NITS;
        film[i * 4 + c]! *= Math.max(0, was + more) / was;
      }
    return film;
  }

  /** By how much more of each source's light there is, 0 for as much as before. */
  private factors(powers: ReadonlyMap<string, Rgb>) {
    const factors: { readonly group: Float32Array; readonly by: Rgb }[] = [];
    for (const source of new Set([...this.powers.keys(), ...powers.keys()])) {
      const was = this.powers.get(source) ?? [0, 0, 0];
      const now = powers.get(source) ?? [0, 0, 0];
      if (was.every((x, c) => x === now[c])) continue;
      const group = this.groups[this.sources.indexOf(source)];
      if (!group || was.some((x, c) => x === 0 && now[c]! > 0)) return undefined;
      factors.push({ group, by: was.map((x, c) => (x > 0 ? now[c]! / x - 1 : 0)) as unknown as Rgb });
    }
    return factors;
  }
}

/** r, g, b a pixel; across, then down, each by a running sum. */
function boxBlurred(data: Float32Array, widthPx: number, heightPx: number): Float32Array {
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
