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

/** A look as it matters for what shares a trace. */
interface KnownLook {
  /** Among all of these. */
  readonly number: number;
  readonly values: Inputs['values'];
  readonly share: LightShare;
  readonly bright: SourceLight;
}
/** What is worked out of looks once, however many cameras see them. */
class KnownLooks {
  private readonly looks = new Map<Inputs['values'], KnownLook>();
  private readonly parts = new Map<string, number>();
  private readonly united = new Map<string, Inputs['values']>();
  constructor(private readonly scene: SceneIndex) {}

  of({ inputs: { values }, state }: Lighting): KnownLook {
    const known = this.looks.get(values);
    if (known) return known;
    const number = this.looks.size;
    const look = { number, values, share: lightShare(this.scene, values), bright: sourceLight(state) };
    this.looks.set(values, look);
    return look;
  }
  /** Of how many parts the light of some looks is. */
  partsIn(looks: readonly KnownLook[]): number {
    return once(this.parts, keyOf(looks), () => partsOf(looks.map((l) => l.bright)).parts.length);
  }
  /** One object for one set of looks, so that cameras that see the same looks are planned together. */
  unitedValues(looks: readonly KnownLook[]): Inputs['values'] {
    return once(this.united, keyOf(looks), () =>
      sharedValues(
        this.scene,
        looks.map((l) => l.values),
      ),
    );
  }
}
const keyOf = (looks: readonly KnownLook[]): string => looks.map((l) => l.number).join();
function once<T>(known: Map<string, T>, key: string, make: () => T): T {
  const there = known.get(key);
  if (there !== undefined) return there;
  const made = make();
  known.set(key, made);
  return made;
}

/** Lightings that share a trace. */
class Bundle {
  readonly places: number[];
  readonly looks: KnownLook[];
  private readonly light = new SharedLight();
  constructor(
    private readonly known: KnownLooks,
    private readonly mostParts: number,
    place: number,
    look: KnownLook,
  ) {
    this.places = [place];
    this.looks = [look];
    this.light.take(look.share);
  }

  /** Whether it was taken in. */
  take(place: number, look: KnownLook): boolean {
    if (this.known.partsIn([...this.looks, look]) > this.mostParts || !this.light.take(look.share)) return false;
    this.places.push(place);
    this.looks.push(look);
    return true;
  }
}

/**
 * @param lightings of pictures that differ in more than their grade
 * @param mostParts of light that a trace may keep apart: each takes memory
 */
export function sharedTraces(scene: SceneIndex, lightings: readonly Lighting[], mostParts: number): SharedTrace[] {
  const known = new KnownLooks(scene);
  const bundles = new Map<string, Bundle[]>();
  const cameras = new Map<Inputs['camera'], string>();
  for (const lighting of lightings) {
    const { camera } = lighting.inputs;
    if (culls(camera)) continue; // what is let go is weighed against one picture's light
    const look = known.of(lighting);
    const text = cameras.get(camera) ?? cameraText(camera);
    cameras.set(camera, text);
    const key = `${lighting.apart} ${look.share.rest} ${text}`;
    const list = bundles.get(key) ?? [];
    bundles.set(key, list);
    if (!list.some((b) => b.take(lighting.place, look))) list.push(new Bundle(known, mostParts, lighting.place, look));
  }
  return [...bundles.values()]
    .flat()
    .filter(({ places }) => places.length > 1)
    .map(({ places, looks }) => ({ places, values: known.unitedValues(looks) }));
}
