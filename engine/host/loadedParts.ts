// Loads pieces of meshes and levels of textures into engine memory when rays have reached them, and takes others out
// where there is no room. The kernel's side is kernel/loaded.ts: a thread whose rays reached something stands still
// until this has loaded it. Threads may trace while something is loaded; they all stand still while something is taken
// out.
import * as K from '../kernel/layout/index.ts';
import { Extents } from './extents.ts';
import { likelyNits } from './leftOut.ts';
import type { Loadable } from './loadable.ts';
import type { MemoryPlan } from './memoryPlaces.ts';
import { type LeftOutStub, meshPieces } from './meshPieces.ts';
import {
  EngineError,
  type EngineScene,
  type LeftOutPieces,
  type SceneMesh,
  isStored,
  isStoredTexture,
} from './scene.ts';
import { TextureLevel, textureLevels } from './textureLevels.ts';
import { HeldViews } from './views.ts';

/** So many, and so much, are read at a time. */
const READ_AT_ONCE = 8;
const READ_BYTES = 2 ** 24;
/** Of so many that chance names the one goes that was met least. */
const NAMED = 24;
/** How often a ray that had to wait counts. */
const ASKED_FOR = 2;
/** Every so many drops what was met counts half. */
const FORGET_EVERY = 64;
/**
 * While all threads stand still, so much of the room is made free beyond what is wanted: they need not stand so soon
 * again. Less, and they wait for one another; more, and what is taken out is soon wanted.
 */
const SPARE_SHARE = 1 / 6;
/** Between two looks at whether all threads stand still, if none says that it does. */
const STANDS_MS = 1;
/** Between two looks at whether a thread that goes on alone has gone on for long enough. */
const ALONE_MS = 10;
/**
 * What rays of a wave have met must be in memory together when they are shaded. Where so many times the room that there
 * is was loaded and nothing was shaded, fewer rays go together; what a single one has met must fit.
 */
const MOST_LOADED_A_STAGE = 3;
/** With fewer than these, threads go one by one first. */
const FEW_RAYS = 64;
/** After so many stages without that, more go together again. */
const CALM_STAGES = 64;

interface Part {
  /** Of which mesh or texture of the scene. */
  readonly of: number;
  readonly loadable: Loadable;
  /** Where it is; 0: it is out. */
  at: number;
  /** Its place among those that are in. */
  order: number;
  /** In which round it was loaded. */
  round: number;
}

/** What was loaded so far. */
export interface LoadedCounts {
  /** Of meshes. */
  readonly pieces: number;
  readonly bytes: number;
  /** Different ones that rays have reached. */
  readonly met: number;
  readonly metBytes: number;
  readonly textures: {
    readonly levels: number;
    readonly bytes: number;
    readonly met: number;
    readonly metBytes: number;
  };
  /** The most that was in memory at once, of all kinds; and what of it were textures. */
  readonly mostBytes: number;
  readonly mostTextureBytes: number;
  /** How often something was loaded, and taken out. */
  readonly loads: number;
  readonly drops: number;
}

/** A piece of a stored mesh. */
export interface MetPiece {
  /** In the engine's memory. */
  readonly bytes: number;
  /** A ray has reached it. */
  readonly isMet: boolean;
}

export class LoadedParts {
  private readonly views: HeldViews;
  private readonly parts: readonly Part[];
  /** Those that are not left out, and by which words they are asked for. */
  private readonly loadable: readonly Part[];
  private readonly wantedWords: Uint32Array;
  /** Names of what is left out, in the order of their numbers. */
  readonly leftOut: readonly string[];
  private readonly extents: Extents;
  /** Those that are in. */
  private readonly inside: Part[] = [];
  /** Goes up with every call for what is wanted; and which one it was when a stage was done last. */
  private round = 0;
  private stageRound = 0;
  private random = 1;
  private readonly met = new Set<Loadable>();
  private textureBytes = 0;
  private mostTextureBytes = 0;
  private loads = 0;
  private drops = 0;
  private loadedSinceStage = 0;
  private lastStages = -1;
  /** So many stages had been done when fewer or more rays went together. */
  private changedAt = 0;
  /** Runs while one thread has all of the memory. */
  private alone: ReturnType<typeof setInterval> | undefined;
  /** Done when nothing is being loaded. */
  private tending: Promise<void> = Promise.resolve();
  private isTending = false;
  private isAskedAgain = false;
  /** A thread says that it stands still. */
  private onStand: () => void = () => undefined;
  /** Why it could not go on. The job is cancelled then. */
  fault: unknown;

  constructor(
    private readonly memory: WebAssembly.Memory,
    private readonly plan: MemoryPlan,
    private readonly threads: number,
    { meshes, textures }: Pick<EngineScene<SceneMesh>, 'meshes' | 'textures'>,
    /** Names of the objects left out that are asked about: pieces come after them. */
    leftOutObjects: readonly string[] = [],
  ) {
    const leftOut = [...leftOutObjects];
    const likely = likelyNits(meshes.flatMap((m) => (isStored(m) && m.leftOut ? [m.leftOut] : [])));
    const leaveOut = ({ name, nits }: LeftOutPieces): LeftOutStub => ({
      number: leftOut.push(name),
      brightness: nits ?? -likely,
    });
    this.leftOut = leftOut;
    this.views = new HeldViews(memory);
    this.extents = new Extents(plan.pieces, plan.piecesBytes);
    const part = (of: number) => (loadable: Loadable) => ({ of, loadable, at: 0, order: 0, round: 0 });
    const pieces: Part[] = [];
    for (const [i, mesh] of meshes.entries()) {
      if (!isStored(mesh)) continue;
      for (const piece of meshPieces(this.views, mesh, plan.meshes[i]!, pieces.length + 1, leaveOut))
        pieces.push(part(i)(piece));
    }
    const levels = textures.flatMap((t, i) =>
      isStoredTexture(t.data) ? textureLevels(this.views, t, t.data, plan.textures[i]!).map(part(i)) : [],
    );
    this.parts = [...pieces, ...levels];
    this.loadable = this.parts.filter((p) => p.loadable.bytes > 0);
    this.wantedWords = Uint32Array.from(this.loadable, (p) => p.loadable.wantedWord);
  }
  /** Before threads begin to render: what lies in their scratch is not theirs yet. */
  begin(): void {
    this.views.renew();
    for (let t = 0; t < this.threads; t++)
      for (const word of ['RUNNING', 'STANDS', 'STAGES'] as const) Atomics.store(this.words, this.thread(t, word), 0);
    Atomics.store(this.words, this.job('PAUSE'), 0);
    this.letAllGoOn();
    this.groupOf(this.plan.wavePaths, 0);
  }

  counts(): LoadedCounts {
    const all = this.parts.map(({ loadable }) => loadable);
    const of = (kind: Loadable['kind'], among: readonly Loadable[]) => among.filter((l) => l.kind === kind);
    const sum = (some: readonly Loadable[]) => some.reduce((bytes, l) => bytes + l.bytes, 0);
    const met = [...this.met];
    return {
      pieces: of('mesh', all).length,
      bytes: sum(of('mesh', all)),
      met: of('mesh', met).length,
      metBytes: sum(of('mesh', met)),
      textures: {
        levels: of('texture', all).length,
        bytes: sum(of('texture', all)),
        met: of('texture', met).length,
        metBytes: sum(of('texture', met)),
      },
      mostBytes: this.extents.mostBytes,
      mostTextureBytes: this.mostTextureBytes,
      loads: this.loads,
      drops: this.drops,
    };
  }
  /** By texture the finest level that something looked at, of those that are not always there. */
  finestMet(): ReadonlyMap<number, number> {
    const finest = new Map<number, number>();
    for (const { of, loadable } of this.metParts())
      if (loadable instanceof TextureLevel) finest.set(of, Math.min(finest.get(of) ?? Infinity, loadable.ofWhole));
    return finest;
  }
  /** Of each stored mesh its pieces, in the order of their numbers. */
  metPieces(): ReadonlyMap<number, readonly MetPiece[]> {
    const pieces = new Map<number, MetPiece[]>();
    for (const { of, loadable } of this.parts) {
      if (loadable.kind !== 'mesh') continue;
      const own = pieces.get(of) ?? [];
      own.push({ bytes: loadable.bytes, isMet: this.met.has(loadable) });
      pieces.set(of, own);
    }
    return pieces;
  }
  /** Stored meshes of which no ray has reached a piece. */
  unmetMeshes(): ReadonlySet<number> {
    const unmet = [...this.metPieces()].filter(([, pieces]) => !pieces.some((p) => p.isMet));
    return new Set(unmet.map(([mesh]) => mesh));
  }
  private metParts(): readonly Part[] {
    return this.parts.filter(({ loadable }) => this.met.has(loadable));
  }

  /** A thread stands still: loads what is wanted, then lets all go on. One call at a time does the work of all. */
  tend(): void {
    this.isAskedAgain = true;
    this.onStand();
    if (this.isTending) return;
    this.isTending = true;
    this.tending = this.tendAll();
  }
  /** Until nothing is being loaded: only then may the memory serve another job. Threads have ended. */
  atRest(): Promise<void> {
    return this.tending;
  }
  private async tendAll(): Promise<void> {
    try {
      while (this.isAskedAgain) {
        this.isAskedAgain = false;
        await this.bringWanted();
        Atomics.store(this.words, this.job('PAUSE'), 0);
        this.release();
      }
    } catch (e) {
      this.fault = e;
      Atomics.store(this.words, this.job('CANCEL'), 1);
      Atomics.store(this.words, this.job('PAUSE'), 0);
      this.letAllGoOn();
      this.release();
    } finally {
      this.isTending = false;
    }
  }
  /** Threads that stand still go on, to see for themselves whether what they wait for is there. */
  release(): void {
    const words = new Int32Array(this.memory.buffer);
    Atomics.add(words, this.job('LOADS'), 1);
    Atomics.notify(words, this.job('LOADS'));
  }

  private async bringWanted(): Promise<void> {
    const missing = this.takeAsked();
    this.round++;
    for (let i = 0; i < missing.length;) {
      const some = readTogether(missing, i);
      i += some.length;
      const bytes = await Promise.all(some.map((p) => p.loadable.read()));
      if (Atomics.load(this.words, this.job('CANCEL'))) return;
      for (const [k, part] of some.entries()) {
        if (!(await this.makeRoom(part.loadable.bytes))) return; // the rest is asked for again
        this.bring(part, bytes[k]!);
      }
    }
  }
  /** Those that rays have asked for since the last time, and that are out. */
  private takeAsked(): Part[] {
    const { words, loadable, wantedWords } = this;
    const asked: Part[] = [];
    for (let i = 0; i < wantedWords.length; i++) {
      const word = wantedWords[i]!;
      if (words[word] === 0 || Atomics.exchange(words, word, 0) === 0) continue;
      const part = loadable[i]!;
      if (!part.at) asked.push(part);
    }
    return asked;
  }
  private bring(part: Part, bytes: Uint8Array): void {
    const { loadable } = part;
    // levels are large: among pieces there would seldom be room for one again
    const at = this.extents.take(loadable.bytes, loadable.kind === 'texture')!;
    loadable.put(bytes, at);
    part.at = at;
    part.round = this.round;
    part.order = this.inside.push(part) - 1;
    this.met.add(loadable);
    this.use(part, ASKED_FOR);
    this.loads++;
    if (loadable.kind === 'texture') this.textureBytes += loadable.bytes;
    if (this.extents.usedBytes === this.extents.mostBytes) this.mostTextureBytes = this.textureBytes;
    this.count(loadable.bytes);
  }

  /** Whether there is room for so many bytes, after taking out others than what was loaded in this round. */
  private async makeRoom(bytes: number): Promise<boolean> {
    if (this.extents.fits(bytes)) return true;
    await this.standStill();
    while (!this.extents.fits(bytes)) {
      const part = this.leastUsed();
      if (!part) return false;
      this.drop(part);
    }
    this.makeSpare();
    return true;
  }
  private makeSpare(): void {
    const most = this.plan.piecesBytes * (1 - SPARE_SHARE);
    while (this.extents.usedBytes > most) {
      const part = this.leastUsedOf(this.named());
      if (!part) return;
      this.drop(part);
    }
  }
  /**
   * One that was met seldom, of a few that chance names. What was loaded since a stage was done last is waited for: of
   * those the first goes, where there is nothing else.
   */
  private leastUsed(): Part | undefined {
    const free = this.leastUsedOf(this.named());
    if (free) return free;
    const [first, ...others] = this.inside.filter((p) => p.round < this.round);
    return first && others.reduce((a, b) => (b.round < a.round ? b : a), first);
  }
  private named(): Part[] {
    const named = Array.from({ length: Math.min(NAMED, this.inside.length) }, () => this.inside[this.chance()]!);
    if (this.drops % FORGET_EVERY === 0) for (const p of named) this.use(p, -this.used(p) / 2);
    return named;
  }
  /** Of those that nobody waits for. */
  private leastUsedOf(named: readonly Part[]): Part | undefined {
    const free = named.filter((p) => p.round <= this.stageRound);
    return free.length ? free.reduce((a, b) => (this.used(b) < this.used(a) ? b : a)) : undefined;
  }
  private chance(): number {
    this.random = (Math.imul(this.random, 1_664_525) + 1_013_904_223) >>> 0;
    return this.random % this.inside.length;
  }
  private used({ loadable }: Part): number {
    return this.words[loadable.usedWord]!;
  }
  private use(part: Part, more: number): void {
    this.words[part.loadable.usedWord] = this.used(part) + Math.ceil(more);
  }
  private drop(part: Part): void {
    const { loadable } = part;
    loadable.takeOut();
    this.extents.give(part.at);
    if (loadable.kind === 'texture') this.textureBytes -= loadable.bytes;
    part.at = 0;
    const last = this.inside.pop()!;
    if (last !== part) {
      this.inside[part.order] = last;
      last.order = part.order;
    }
    this.drops++;
  }

  private async standStill(): Promise<void> {
    Atomics.store(this.words, this.job('PAUSE'), 1);
    while (!this.allStand()) await this.nextStand();
  }
  private nextStand(): Promise<void> {
    return new Promise((resolve) => {
      const timer = setTimeout(resolve, STANDS_MS);
      this.onStand = () => {
        clearTimeout(timer);
        resolve();
      };
    });
  }
  private allStand(): boolean {
    const now = Atomics.load(this.words, this.job('LOADS')) + 1;
    for (let t = 0; t < this.threads; t++)
      if (Atomics.load(this.words, this.thread(t, 'RUNNING')) && this.stands(t) !== now) return false;
    return true;
  }
  private stands(thread: number): number {
    return Atomics.load(this.words, this.thread(thread, 'STANDS'));
  }

  /** @throws EngineError OUT_OF_MEMORY where what a single ray meets does not fit */
  private count(bytes: number): void {
    const stages = this.stages();
    if (stages !== this.lastStages) {
      this.loadedSinceStage = 0;
      this.stageRound = this.round - 1;
    }
    this.lastStages = stages;
    this.loadedSinceStage += bytes;
    if (this.loadedSinceStage > MOST_LOADED_A_STAGE * this.plan.piecesBytes) this.takeFewerRays(stages);
    else if (stages > this.changedAt + CALM_STAGES) this.takeMoreRays(stages);
  }
  private stages(): number {
    let stages = 0;
    for (let t = 0; t < this.threads; t++) stages += Atomics.load(this.words, this.thread(t, 'STAGES'));
    return stages;
  }
  /**
   * Fewer rays go together; then threads, which take out of memory what each other need, one by one; then fewer rays
   * still.
   */
  private takeFewerRays(stages: number): void {
    const rays = Atomics.load(this.words, this.job('GROUP'));
    if (rays > FEW_RAYS) this.groupOf(Math.max(FEW_RAYS, Math.floor(rays / 4)), stages);
    else if (this.alone === undefined) this.letOneGoOn(stages);
    else if (rays > 1) this.groupOf(Math.floor(rays / 4) || 1, stages);
    else throw this.tooSmall();
  }
  private takeMoreRays(stages: number): void {
    const rays = Atomics.load(this.words, this.job('GROUP'));
    if (this.alone !== undefined) {
      this.letAllGoOn();
      this.changedAt = stages;
    } else if (rays < this.plan.wavePaths) this.groupOf(Math.min(this.plan.wavePaths, rays * 2), stages);
  }
  private groupOf(rays: number, stages: number): void {
    Atomics.store(this.words, this.job('GROUP'), rays);
    this.changedAt = stages;
    this.loadedSinceStage = 0;
  }
  private letOneGoOn(stages: number): void {
    const isRunning = (t: number) => Atomics.load(this.words, this.thread(t, 'RUNNING')) !== 0;
    const one = Array.from({ length: this.threads }, (_, t) => t).find(isRunning) ?? 0;
    Atomics.store(this.words, this.job('ONLY'), this.plan.scratch + one * this.plan.scratchStride);
    this.changedAt = stages;
    this.loadedSinceStage = 0;
    this.alone = setInterval(() => {
      if (isRunning(one) && !this.fault && this.stages() <= stages + CALM_STAGES) return;
      this.letAllGoOn();
      this.release();
    }, ALONE_MS);
  }
  /** What was taken from all threads but one ends. */
  letAllGoOn(): void {
    clearInterval(this.alone);
    this.alone = undefined;
    Atomics.store(this.words, this.job('ONLY'), 0);
  }
  private tooSmall(): EngineError {
    const room = (this.plan.piecesBytes / 2 ** 20).toFixed(1);
    return new EngineError(
      'OUT_OF_MEMORY',
      `What a single light path meets does not fit in the ${room} MiB that are left for meshes and textures. Raise the budget of this machine, use fewer threads, or cull objects for this camera.`,
    );
  }

  private get words(): Uint32Array {
    return this.views.u32;
  }
  private job(word: 'LOADS' | 'PAUSE' | 'GROUP' | 'ONLY' | 'CANCEL'): number {
    return (this.plan.job + K.JOB[word]) >>> 2;
  }
  private thread(thread: number, word: 'RUNNING' | 'STANDS' | 'STAGES'): number {
    return (this.plan.scratch + thread * this.plan.scratchStride + K.SCRATCH[word]) >>> 2;
  }
}

/**
 * Some of them from the first on: few, and of little together, since each is held twice while it is put into memory.
 */
function readTogether(parts: readonly Part[], from: number): Part[] {
  const some: Part[] = [];
  let bytes = 0;
  for (const part of parts.slice(from, from + READ_AT_ONCE)) {
    bytes += part.loadable.bytes;
    if (some.length && bytes > READ_BYTES) break;
    some.push(part);
  }
  return some;
}
