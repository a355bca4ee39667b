// Which cells one trace can serve, because light makes all the difference between them (core/looks/lightings.ts).
import { culls } from '@variscen/core/cull';
import {
  type Inputs,
  type LightShare,
  type ResolvedState,
  type SceneIndex,
  SharedLight,
  type SourceLight,
  cameraText,
  lightShare,
  partsOf,
  sharedValues,
  sourceLight,
} from '@variscen/core/looks';

export interface Lighting {
  /** Of the picture, among all that were asked about. */
  readonly place: number;
  readonly inputs: Inputs;
  readonly state: ResolvedState;
  /** Only what has the same may share a trace. */
  readonly apart: string;
}
/** Of two or more lightings, what their trace is made from. */
export interface SharedTrace {
  readonly places: readonly number[];
  readonly values: Inputs['values'];
}

class Bundle {
  readonly lightings: Lighting[];
  private readonly light = new SharedLight();
  private readonly bright: SourceLight[];
  constructor(
    private readonly mostParts: number,
    first: Lighting,
    share: LightShare,
    bright: SourceLight,
  ) {
    this.lightings = [first];
    this.bright = [bright];
    this.light.take(share);
  }

  /** Whether it was taken in. */
  take(lighting: Lighting, share: LightShare, bright: SourceLight): boolean {
    if (partsOf([...this.bright, bright]).parts.length > this.mostParts) return false;
    if (!this.light.take(share)) return false;
    this.lightings.push(lighting);
    this.bright.push(bright);
    return true;
  }
}

/**
 * @param lightings of pictures that differ in more than their grade
 * @param mostParts of light that a trace may keep apart: each takes memory
 */
export function sharedTraces(scene: SceneIndex, lightings: readonly Lighting[], mostParts: number): SharedTrace[] {
  const bundles = new Map<string, Bundle[]>();
  const known = new Map<Inputs['values'], { readonly share: LightShare; readonly bright: SourceLight }>();
  const cameras = new Map<Inputs['camera'], string>();
  for (const lighting of lightings) {
    const { camera, values } = lighting.inputs;
    if (culls(camera)) continue; // what is let go is weighed against one picture's light
    const look = known.get(values) ?? { share: lightShare(scene, values), bright: sourceLight(lighting.state) };
    known.set(values, look);
    const text = cameras.get(camera) ?? cameraText(camera);
    cameras.set(camera, text);
    const key = `${lighting.apart} ${look.share.rest} ${text}`;
    const list = bundles.get(key) ?? [];
    bundles.set(key, list);
    if (list.some((b) => b.take(lighting, look.share, look.bright))) continue;
    list.push(new Bundle(mostParts, lighting, look.share, look.bright));
  }
  const united = new UnitedValues(scene);
  return [...bundles.values()]
    .flat()
    .flatMap(({ lightings: own }) =>
      own.length > 1 ? [{ places: own.map((l) => l.place), values: united.of(own.map((l) => l.inputs.values)) }] : [],
    );
}

/** One object for one set of looks, so that cameras that see the same looks are planned together. */
class UnitedValues {
  private readonly numbers = new Map<Inputs['values'], number>();
  private readonly known = new Map<string, Inputs['values']>();
  constructor(private readonly scene: SceneIndex) {}

  of(all: readonly Inputs['values'][]): Inputs['values'] {
    const key = all.map((values) => this.numberOf(values)).join();
    const known = this.known.get(key) ?? sharedValues(this.scene, all);
    this.known.set(key, known);
    return known;
  }
  private numberOf(values: Inputs['values']): number {
    const known = this.numbers.get(values) ?? this.numbers.size;
    this.numbers.set(values, known);
    return known;
  }
}
