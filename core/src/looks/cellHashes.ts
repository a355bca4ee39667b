// Hashes of many cells at once, and again after an edit: what did not change is not looked at again. Equal to cellHash
// and traceHash of the cells' inputs (held by a property test); a change is digested once, however many cells it is in.
// Sources are taken to be immutable: what is another object has changed.
import type { CameraSettings } from '../scene/index.ts';
import { type Digest, DigestSum, cameraText, digestOf, isGrade, stateHash } from './fingerprint.ts';
import { type LookSources, layersOf } from './layers.ts';
import { type SceneIndex, propertyOf } from './properties.ts';
import { type Change, type Layer, keyOf, sameValue } from './resolve.ts';
import { originalPath, parseTarget } from './targets.ts';
import { unseenAmong } from './unseenValues.ts';

export interface CellSources extends LookSources {
  readonly cameras: readonly { readonly id: string; readonly settings: CameraSettings }[];
  readonly variants: readonly { readonly id: string; readonly optionIds: readonly string[] }[];
}
export interface CellHash {
  readonly cameraId: string;
  readonly variantId: string;
  readonly cell: string;
  readonly trace: string;
}

/**
 * A change as it counts: where, with what, and whether it is as the scene has it. null: it holds for nothing in this
 * scene.
 */
interface Entry {
  /** Number of the target and property. */
  readonly place: number;
  readonly change: Change;
  readonly facet: string;
  readonly digest: Digest;
  readonly neutral: boolean;
  readonly grade: boolean;
}
interface Sums {
  readonly layers: readonly (readonly Change[])[];
  readonly cell: string;
  readonly trace: string;
}

export class CellHashes {
  private readonly entries = new WeakMap<Change, Entry | null>();
  private readonly places = new Map<string, number>();
  /** By place; all null between two sums. */
  private readonly last: (Entry | null)[] = [];
  private readonly cameras = new WeakMap<CameraSettings, string>();
  private readonly sums = new Map<string, Sums>();
  constructor(
    private readonly scene: SceneIndex,
    private readonly sceneHash: string,
  ) {}

  /** Of a camera under some layers, pending edits among them. */
  ofLayers(layers: readonly Layer[], camera: CameraSettings): string {
    return stateHash(this.sceneHash, cameraText(camera), this.sum(layers).cell);
  }

  /** Of every camera in every variant, camera by camera. */
  all(p: CellSources): CellHash[] {
    return p.cameras.flatMap((c) => p.variants.map((v) => this.of(p, v, c)));
  }

  of(p: CellSources, variant: CellSources['variants'][number], camera: CellSources['cameras'][number]): CellHash {
    const patched = p.patches.some(
      (x) => x.cameraId === camera.id && (x.variantId === null || x.variantId === variant.id) && x.changes.length,
    );
    const layers = layersOf(p, variant, camera.id);
    const sums = patched
      ? this.known(`${variant.id} ${camera.id}`, layers)
      : this.known(
          variant.id,
          layers.filter((l) => l.kind !== 'patch'),
        );
    let text = this.cameras.get(camera.settings);
    if (text === undefined) this.cameras.set(camera.settings, (text = cameraText(camera.settings)));
    return {
      cameraId: camera.id,
      variantId: variant.id,
      cell: stateHash(this.sceneHash, text, sums.cell),
      trace: stateHash(this.sceneHash, text, sums.trace),
    };
  }

  /**
   * Sums of what all cameras without patches have in common in a variant, or of one that has some; made anew where one
   * of the layers is another.
   */
  private known(key: string, layers: readonly Layer[]): Sums {
    const before = this.sums.get(key);
    if (before && before.layers.length === layers.length && before.layers.every((c, i) => c === layers[i]!.changes))
      return before;
    const made = this.sum(layers);
    this.sums.set(key, made);
    return made;
  }
  private sum(layers: readonly Layer[]): Sums {
    // the last entry of each place, in a list that has a place for each
    const { last } = this;
    const places: number[] = [];
    const trace = new DigestSum();
    const grade = new DigestSum();
    for (const l of layers)
      for (const c of l.changes) {
        const e = this.entry(c);
        if (e && (!l.facet || l.facet === e.facet)) {
          if (last[e.place] === null) places.push(e.place);
          last[e.place] = e;
        }
      }
    const inForce = places.map((p) => last[p]!);
    const isUnseen = unseenAmong(
      this.scene,
      inForce.map((e) => e.change),
    );
    for (const p of places) last[p] = null;
    for (const e of inForce) if (!e.neutral && !isUnseen(e.change)) (e.grade ? grade : trace).add(e.digest);
    return { layers: layers.map((l) => l.changes), cell: trace.plus(grade).hex(), trace: trace.hex() };
  }
  private entry(c: Change): Entry | null {
    let e = this.entries.get(c);
    if (e === undefined) this.entries.set(c, (e = this.read(c)));
    return e;
  }
  private read(c: Change): Entry | null {
    const property = propertyOf(c.property);
    const target = parseTarget(c.target);
    const base = property && target && target.kind === property.on ? property.base(this.scene, target.name) : undefined;
    if (!property || !target || base === undefined) return null;
    // as in inputsOf: what equals the scene's own changes nothing, but on a copy
    const key = keyOf(c.target, c.property);
    let place = this.places.get(key);
    if (place === undefined) {
      this.places.set(key, (place = this.places.size));
      this.last.push(null);
    }
    return {
      place,
      change: c,
      facet: property.facet,
      digest: digestOf(c.target, c.property, c.value),
      neutral: sameValue(c.value, base) && originalPath(target.name) === target.name,
      grade: isGrade(c.property),
    };
  }
}
