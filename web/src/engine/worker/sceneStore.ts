// The one copy of the scene that the page's engine works from: read when it is first asked for, whoever asks.
import { type NamedObjects, namedBy, unpackCullPlan } from '@variscen/core/cull';
import { type EnvironmentMap, type ImportedSky, unpackMap } from '@variscen/core/environment';
import { type Lut, unpackLut } from '@variscen/core/image';
import { SceneIndex } from '@variscen/core/looks';
import {
  type CameraSettings,
  type DeformData,
  type Geometry,
  type SceneDocument,
  type SceneTexture,
  animationData,
  unpackDeform,
  unpackGeometry,
} from '@variscen/core/scene';
import { asset } from '../../api/assets.ts';
import { decode } from '../decode.ts';

const MAPS_KEPT = 4;

const bytesOf = async (hash: string): Promise<Uint8Array<ArrayBuffer>> => new Uint8Array(await asset(hash));

/** Kept once it is there; what failed is asked for again. */
class Kept<K, T> {
  private readonly known = new Map<K, Promise<T>>();
  constructor(private readonly most = Infinity) {}

  get(key: K, load: () => Promise<T>): Promise<T> {
    const known = this.known.get(key);
    if (known) return known;
    const loading = load();
    this.known.set(key, loading);
    loading.catch(() => this.known.delete(key));
    while (this.known.size > this.most) this.known.delete(this.known.keys().next().value!);
    return loading;
  }
}

export class OpenScene {
  readonly index: SceneIndex;
  private readonly geometries = new Kept<number, Geometry>();
  private readonly shapes = new Kept<number, DeformData>();
  private readonly images = new Kept<string, Uint8Array>();
  constructor(
    readonly document: SceneDocument,
    readonly motion: Float32Array | undefined,
  ) {
    this.index = new SceneIndex(document);
  }
  static async read(hash: string): Promise<OpenScene> {
    const document = JSON.parse(new TextDecoder().decode(await bytesOf(hash))) as SceneDocument;
    return new OpenScene(document, await animationData(document, (h) => bytesOf(h)));
  }

  geometry(mesh: number): Promise<Geometry> {
    const m = this.document.meshes[mesh]!;
    return this.geometries.get(mesh, async () => unpackGeometry(await bytesOf(m.blob), m));
  }
  deform(mesh: number): Promise<DeformData> {
    const m = this.document.meshes[mesh]!;
    return this.shapes.get(mesh, async () => unpackDeform(await bytesOf(m.deform!.blob), m.deform!, m.vertices));
  }
  pixels(texture: SceneTexture): Promise<Uint8Array> {
    return this.images.get(texture.blob, async () => decode(texture, await bytesOf(texture.blob)));
  }
}

export class SceneStore {
  private readonly scenes = new Kept<string, OpenScene>(1);
  private readonly skies = new Kept<string, EnvironmentMap>(MAPS_KEPT);
  private readonly cullPlans = new Kept<string, NamedObjects>(MAPS_KEPT);
  private readonly luts = new Map<string, Lut>();

  scene(hash: string): Promise<OpenScene> {
    return this.scenes.get(hash, () => OpenScene.read(hash));
  }
  sky(sky: ImportedSky): Promise<EnvironmentMap> {
    return this.skies.get(sky.hash, async () => unpackMap(await bytesOf(sky.hash), sky));
  }
  /** What people and evidence have named for a camera. */
  async namedFor({ cull }: Pick<CameraSettings, 'cull'>): Promise<NamedObjects | undefined> {
    const plan = cull?.plan;
    if (plan === undefined) return undefined;
    return this.cullPlans.get(plan, async () => namedBy(unpackCullPlan(await bytesOf(plan)), undefined));
  }
  /** Once it was read. */
  lut(hash: string): Lut | undefined {
    return this.luts.get(hash);
  }
  async readLut(lut: Parameters<typeof unpackLut>[1] & { readonly hash: string }): Promise<void> {
    if (!this.luts.has(lut.hash)) this.luts.set(lut.hash, unpackLut(await bytesOf(lut.hash), lut));
  }
}
