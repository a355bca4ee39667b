// A picture by the batch's engine. Live ones come first at a third of the size, to be there at once, at one sample; at
// half the size, at two, denoised; then whole, denoised, at 4, 8, 16 … samples. A picture that is good already gives
// its turn to others and goes on after them where it was; one that was hardly begun is begun again.
import type { PlatePicture } from '@variscen/core/environment';
import { type Grade, type PictureSize, lensed, throughLens, toScreen } from '@variscen/core/image';
import {
  type Change,
  type ResolvedState,
  type SceneIndex,
  propertyOf,
  resolve,
  sourceLight,
} from '@variscen/core/looks';
import { PROFILES, type Profile } from '@variscen/core/plan';
import { type Pose, croppedPx, poseFor } from '@variscen/core/scene';
import {
  type Engine,
  type EngineScene,
  type Selection,
  type SelectionData,
  attach,
  engineCamera,
  finish,
  hasCatchers,
  lightsApart,
  platePixels,
  select,
  settingsOf,
} from '@variscen/engine';
import type { Said, Urgency, Wish } from '../messages.ts';
import { ApartPicture } from './apartLights.ts';
import type { OpenScene } from './sceneStore.ts';
import type { Shown } from './shownFilm.ts';
import type { Turn } from './turns.ts';
import type { Workshop } from './workshop.ts';

const SAMPLES = 512;
/** From here on a live picture is good enough to let others have their turn. */
const GOOD_SAMPLES = 16;
/** Samples between two looks at whether somebody else is more urgent. */
const PASS_SAMPLES = 16;
const LEVELS: Readonly<Record<Urgency, number>> = { live: 3, seen: 2, small: 1 };
const REFINING = 0;
const REPORTED_EVERY = 16;
const LIVE: Profile = {
  ...PROFILES[0]!,
  id: 'live',
  name: 'Live',
  sizeFactor: 1,
  samples: SAMPLES,
  timeLimitS: null,
  maxBounces: 6,
  clampIndirect: 4,
  noise: null,
  denoise: 1,
  textureCapPx: 1024,
  displacement: { edgePx: 4, farM: 30, maxTriangles: 200_000 },
  aovs: [],
};

interface Stage {
  readonly scale: number;
  readonly samples: number;
  readonly shownFrom: number;
}
const LIVE_STAGES: readonly Stage[] = [
  { scale: 1 / 3, samples: 1, shownFrom: 1 },
  { scale: 1 / 2, samples: 2, shownFrom: 2 },
  { scale: 1, samples: SAMPLES, shownFrom: 4 },
];
/** Where the picture before it is shown in its lights, nothing rougher is. */
const QUIET_STAGES: readonly Stage[] = [{ scale: 1, samples: SAMPLES, shownFrom: 8 }];
/** What is rendered, with everything that it takes. */
interface Made {
  readonly pose: Pose;
  readonly selection: Selection;
  /** Whose light is kept apart. */
  readonly sources: readonly string[];
  readonly scene: EngineScene;
  readonly plate: PlatePicture | undefined;
}
/** How far a stage has come; aside: its film, where another job has the engine. */
interface Progress {
  samples: number;
  aside: { readonly samples: number; readonly film: Uint8Array } | undefined;
}

export class PictureJob {
  private grade: Grade;
  private shown: Shown | undefined;
  /** What its lights are read from. */
  private lit: { readonly index: SceneIndex; readonly state: ResolvedState } | undefined;
  private readonly lightlessKey: string;
  /** While it is shown in other lights than it is traced in. */
  private rest: Rest | undefined;
  private readonly began = performance.now();

  constructor(
    private readonly workshop: Workshop,
    private readonly wish: Wish,
    private readonly urgency: Urgency,
    private readonly tell: (said: Said, transfer?: Transferable[]) => void,
    private readonly signal: AbortSignal,
  ) {
    this.grade = wish.grade;
    this.lightlessKey = urgency === 'live' ? lightlessKey(wish) : '';
  }

  async run(): Promise<void> {
    await this.readLut();
    const made = await this.make();
    const turn = await this.workshop.turns.take(LEVELS[this.urgency], this.signal);
    try {
      const { samples } = this.wish;
      const stages = samples === undefined ? this.liveStages() : [{ scale: 1, samples, shownFrom: samples }];
      for (const stage of stages) {
        this.keepStageBefore();
        await this.render(stage, made, turn);
      }
    } catch (e) {
      if (!this.signal.aborted) this.workshop.afterFailure(e);
      throw e;
    } finally {
      turn.end();
    }
  }
  /** Its lights can be changed until the next one is seen. */
  private keepStageBefore(): void {
    const { apart } = this.workshop;
    if (apart?.key === this.lightlessKey) apart.picture();
  }
  private liveStages(): readonly Stage[] {
    return this.wish.quiet && this.workshop.apart?.key === this.lightlessKey ? QUIET_STAGES : LIVE_STAGES;
  }
  /**
   * Shows it in other lights, at once, where they are kept apart in it or in the picture before it. What it traces then
   * is of no use: it rests until its own lights are wanted again.
   */
  relight(changes: readonly Change[]): void {
    const { apart } = this.workshop;
    const at = this.lit;
    if (!at || apart?.key !== this.lightlessKey) {
      this.tell({ kind: 'outdated' });
      return;
    }
    const state = resolve(at.index, [{ id: 'snapshot', name: '', kind: 'base', changes }]);
    const film = apart.picture()?.relit(sourceLight(state));
    if (!film) {
      this.tell({ kind: 'outdated' });
      return;
    }
    this.rest ??= restNow();
    this.show({ ...apart.shown, film, finished: false });
  }
  /** Shows it in another grade, now and from here on, and in the lights that it is traced in. */
  async regrade(grade: Grade): Promise<void> {
    this.grade = grade;
    this.rest?.end();
    this.rest = undefined;
    await this.readLut();
    if (this.grade === grade && this.shown) this.show(this.shown);
  }
  private async readLut(): Promise<void> {
    const { lut } = this.grade;
    if (lut) await this.workshop.scenes.readLut(lut);
  }

  private async make(): Promise<Made> {
    const { sceneHash, changes, camera, heightPx } = this.wish;
    const open = await this.workshop.scenes.scene(sceneHash);
    const pose = poseFor(open.document, open.motion, camera);
    const state = resolve(open.index, [{ id: 'snapshot', name: '', kind: 'base', changes }]);
    const selected = select(pose, state, false, await this.workshop.scenes.namedFor(camera));
    // a catcher's shadow does not come apart by lights
    const canComeApart = this.urgency === 'live' && !hasCatchers(selected);
    const apart = canComeApart ? lightsApart(selected) : { selection: selected, sources: [] };
    const { selection } = apart;
    this.lit = { index: open.index, state };
    const scene = await attach(selection, this.sourcesOf(open, selection), LIVE.displacement, heightPx);
    const plate = await platePixels(selection, (t) => open.pixels(t));
    this.signal.throwIfAborted();
    return { pose, selection, sources: apart.sources, scene, plate };
  }
  private sourcesOf(open: OpenScene, { meshes, textures }: Selection): SelectionData {
    const of = meshes.length + textures.length;
    let done = 0;
    const counted = async <T>(loading: Promise<T>): Promise<T> => {
      const x = await loading;
      this.signal.throwIfAborted();
      if (++done % REPORTED_EVERY === 0 || done === of) this.tell({ kind: 'loading', done, of });
      return x;
    };
    return {
      geometry: (mesh) => counted(open.geometry(mesh)),
      deform: (mesh) => open.deform(mesh),
      pixels: (texture) => counted(open.pixels(texture)),
      environment: (sky) => this.workshop.scenes.sky(sky),
    };
  }

  private async render(stage: Stage, made: Made, turn: Turn): Promise<void> {
    const widthPx = Math.max(1, Math.round(this.wish.widthPx * stage.scale));
    const heightPx = Math.max(1, Math.round(this.wish.heightPx * stage.scale));
    const settings = {
      ...settingsOf(LIVE, { widthPx, heightPx }, made.selection),
      ...(this.wish.evidence && { evidence: { finer: 1 } }),
      ...(made.sources.length > 0 && { lightGroups: made.sources.length }),
    };
    const { left, top, ...size } = croppedPx({ widthPx, heightPx }, this.wish.camera.crop);
    const part = { ...size, place: { left, top, widthPx, heightPx } };
    const camera = engineCamera(made.pose.now.camera);
    const token = {};
    const at: Progress = { samples: 0, aside: undefined };
    let memoryBytes = 0;
    const isLive = this.urgency === 'live';
    for (let goal = isLive ? 1 : stage.samples; at.samples < stage.samples;) {
      const { engine, threads } = await this.workshop.engine();
      if (this.rest) {
        await this.resting(this.rest, turn, () => this.giveWay(engine, token, at, turn));
        continue;
      }
      if (this.workshop.loadedBy !== token) {
        this.workshop.release();
        memoryBytes = (await engine.load(made.scene, settings)).totalBytes;
        this.workshop.loadedBy = token;
        at.samples = at.aside?.samples ?? 0;
        if (at.aside) engine.putFilmState(at.aside.film);
      }
      await this.add(engine, camera, Math.min(goal, stage.samples), at, turn);
      if (at.samples >= goal || at.samples === stage.samples) {
        goal = at.samples * 2;
        if (at.samples >= stage.shownFrom && !this.rest)
          await this.showFilm(engine, made, stage, at.samples, { ...part, memoryBytes, threads });
      }
      if (isLive && stage.scale === 1 && at.samples >= GOOD_SAMPLES) turn.urgency = REFINING;
      // what is done needs no other turn: what is read of it below is still in the engine
      if (turn.wanted.aborted && at.samples < stage.samples) await this.giveWay(engine, token, at, turn);
    }
    if (this.wish.evidence) this.tellMet((await this.workshop.engine()).engine, made.selection);
  }

  /** Whoever else wants the engine has it meanwhile. */
  private async resting(rest: Rest, turn: Turn, giveWay: () => Promise<void>): Promise<void> {
    const { urgency } = turn;
    turn.urgency = REFINING;
    this.workshop.apart?.keep(); // while the hand rests: the next light is changed sooner
    await Promise.race([rest.over, happened(this.signal), happened(turn.wanted)]);
    this.signal.throwIfAborted();
    if (turn.wanted.aborted) await giveWay();
    turn.urgency = urgency;
  }

  /** Adds samples up to the goal, or fewer where somebody else is more urgent. */
  private async add(
    engine: Engine,
    camera: ReturnType<typeof engineCamera>,
    goal: number,
    at: Progress,
    turn: Turn,
  ): Promise<void> {
    // a thread that is this one hears nothing during a pass, so its passes are short
    const samplesPerPass = globalThis.crossOriginIsolated ? PASS_SAMPLES : 1;
    const samples = Math.min(goal - at.samples, samplesPerPass);
    const isLive = this.urgency === 'live';
    const signal = isLive ? this.signal : AbortSignal.any([this.signal, turn.wanted]);
    try {
      await engine.render({ camera, samples, samplesPerPass, signal }, at.samples);
      at.samples += samples;
    } catch (e) {
      this.signal.throwIfAborted();
      if (!turn.wanted.aborted) throw e;
      this.workshop.release(); // half a pass is no film: it is loaded again
    }
  }
  private async giveWay(engine: Engine, token: object, at: Progress, turn: Turn): Promise<void> {
    this.workshop.apart?.picture();
    this.workshop.apart?.keep(); // its lights can be changed when others have the engine, too
    // what the rays met is not part of the film: where it is asked for, the picture is begun again
    const canGoOn = this.workshop.loadedBy === token && !this.wish.evidence;
    if (canGoOn) at.aside = { samples: at.samples, film: engine.filmState() };
    else this.workshop.release();
    await turn.give();
    this.signal.throwIfAborted();
  }

  private async showFilm(
    engine: Engine,
    { selection, sources, plate }: Made,
    stage: Stage,
    samples: number,
    about: Pick<Shown, 'widthPx' | 'heightPx' | 'place' | 'memoryBytes' | 'threads'>,
  ): Promise<void> {
    const { signal } = this;
    const isPlain = samples === 1 && !selection.inked.length && !plate;
    const film = isPlain
      ? engine.film()
      : (await finish(engine, selection, LIVE, this.wish.camera, { signal, plate, keepFilm: true, leavesGroups: true }))
          .film;
    signal.throwIfAborted();
    const seconds = (performance.now() - this.began) / 1000;
    this.shown = { film, samples, seconds, ...about, finished: stage.scale === 1 && samples === stage.samples };
    this.show(this.shown);
    if (sources.length) this.keepLights(engine, sources, this.shown);
  }
  /** So that the lights of what is shown can be changed at once: made when that is wanted, while the film is there. */
  private keepLights(engine: Engine, sources: readonly string[], shown: Shown): void {
    const { workshop } = this;
    const { state } = this.lit!;
    const token = workshop.loadedBy;
    let made: ApartPicture | undefined;
    const picture = () => {
      if (made || workshop.loadedBy !== token) return made;
      const { film, widthPx, heightPx } = shown;
      const size = { widthPx, heightPx };
      const group = (at: number) => (workshop.loadedBy === token ? engine.groupHalved(at) : undefined);
      made = new ApartPicture(film, engine.film(), group, size, sources, sourceLight(state));
      return made;
    };
    workshop.apart = { key: this.lightlessKey, shown, picture, keep: () => made?.keep() };
  }
  private show({ film, place, ...about }: Shown): void {
    const { lut } = this.grade;
    const light = throughLensAt(film, place, about, this.grade);
    const rgba = toScreen(light, this.grade, lut ? this.workshop.scenes.lut(lut.hash) : undefined);
    this.tell({ kind: 'picture', rgba, ...about }, [rgba.buffer]);
  }
  private tellMet(engine: Engine, { instances }: Selection): void {
    const seen = new Set<string>();
    const needed = new Set<string>();
    const evidence = engine.evidence(); // area lights come after the selection's instances
    for (const [k, { object, name, lightGroup }] of instances.entries()) {
      const { times } = evidence[k]!;
      if (times.seen > 0) seen.add(object ?? name);
      // what gives light is weighed wherever light is looked for, also where none of it arrives
      if (lightGroup !== undefined || Object.values(times).some((n) => n > 0)) needed.add(object ?? name);
    }
    const unmet = new Set(instances.map((i) => i.object ?? i.name).filter((path) => !needed.has(path)));
    const lightPaths = engine.picture().samples.reduce((a, b) => a + b, 0);
    this.tell({ kind: 'met', seen: [...seen], unmet: [...unmet], lightPaths });
  }
}

interface Rest {
  readonly over: Promise<void>;
  readonly end: () => void;
}
function restNow(): Rest {
  let end: () => void = () => undefined;
  const over = new Promise<void>((done) => (end = done));
  return { over, end };
}
const happened = (signal: AbortSignal): Promise<void> =>
  new Promise((done) => {
    if (signal.aborted) done();
    else signal.addEventListener('abort', () => done(), { once: true });
  });

/** Of a part of the frame, what glows elsewhere is not known: it has no bloom. */
function throughLensAt(film: Float32Array, place: Shown['place'], size: PictureSize, grade: Grade): Float32Array {
  if (size.widthPx === place.widthPx && size.heightPx === place.heightPx) return lensed(film, size, grade);
  const pixels = { widthPx: size.widthPx, heightPx: size.heightPx, channels: 4, values: film };
  return throughLens(pixels, place, { ...grade, bloom: 0 }, undefined).values;
}

/** What a picture is of, but for what light scales with: the same text, the same picture in other lights. */
function lightlessKey({ sceneHash, changes, camera, widthPx, heightPx }: Wish): string {
  const others = changes.filter((c) => !propertyOf(c.property)?.linearInLight);
  return JSON.stringify([sceneHash, others, camera, widthPx, heightPx]);
}
