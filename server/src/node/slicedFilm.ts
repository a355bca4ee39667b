// Brings a film to its last sample. A look at the whole frame comes first: a picture so far, and how fast it goes. What
// then takes less than a slice or so is rendered on in one; what takes longer is cut into slices of whole rows of
// tiles, more where its film is large, each of whose films the server keeps as soon as it is done: a node that ends
// loses the slice that it is at. Where even the look takes long, it is cut meanwhile: other machines begin at once.
//
// However it is cut, the film is the same to the bit (engine/test/slices.test.ts).
import { setTimeout as sleep } from 'node:timers/promises';
import type { Cut, Lease, SliceResult, SliceRows } from '@variscen/contract';
import { joinedMet } from '@variscen/core/cull';
import { type Engine, type EngineCamera, EngineError, type RenderStats, type TileRows } from '@variscen/engine';
import { type ServerClient, isRefusal } from './client.ts';
import type { SharedProgress } from './heartbeat/sharedProgress.ts';

/** Seconds; shorter ones only in tests. */
export interface SliceTimes {
  /** Of the look at the whole frame, about. */
  readonly lookS: number;
  /** Of a slice, about. */
  readonly sliceS: number;
}
export const SLICE_TIMES: SliceTimes = { lookS: 2, sliceS: 30 };
/** So many times a slice is still rendered in one. */
const UNCUT = 1.5;
/** About as large is the film of a slice at most: it is in memory several times while it is sent. */
const SLICE_BYTES = 32e6;
/** Samples a pass within a slice: after each the picture so far can be shown. */
const SLICE_PASS = 64;
/**
 * So much of a sample says about how long one takes; its upper rows may take less than others: slices are finer then.
 */
const EARLY_SHARE = 0.2;
const EARLY_FINER = 2;
const POLL_MS = 500;

export interface Shot {
  readonly camera: EngineCamera;
  readonly nextCamera: EngineCamera | undefined;
}
export interface FilmTask {
  readonly engine: Engine;
  readonly client: ServerClient;
  readonly lease: Lease;
  readonly shot: Shot;
  /** Which engine it is: films of different ones are never put together. */
  readonly engineBuild: string;
  readonly times: SliceTimes;
  readonly progress: SharedProgress;
  readonly signal: AbortSignal;
  /** The film may be looked at. */
  readonly onPass: () => Promise<void>;
  /** Which nodes of the scene this engine's rays may have met since it was loaded (core/cull/metNodes). */
  readonly met: () => string;
}
export type Work = Omit<SliceResult, 'token'>;

/** @returns what all of it took, earlier attempts included. @throws EngineError CANCELLED */
export async function bringFilm(task: FilmTask): Promise<Work> {
  const film = new SlicedFilm(task);
  if (task.lease.cut) return film.finishCut(task.lease.cut);
  const samples = await film.look();
  const cut = await film.cutInto(samples);
  return cut ? film.finishCut(cut) : film.finishInOne(samples);
}

/** Renders slices of a film that another node puts together, until none is left that nobody renders. */
export async function helpFilm(task: FilmTask): Promise<void> {
  await new SlicedFilm(task).help();
}

class SlicedFilm {
  private work: Work;
  /** Samples that every tile of the film in the engine has. */
  private looked = 0;
  private secondsPerSample = 0;
  /** Asked for while the look went on. */
  private early: Promise<Cut> | undefined;
  /** Slices whose film is in the engine. */
  private readonly here = new Set<string>();
  /** The last film on its way to the server. */
  private storing: Promise<void> = Promise.resolve();

  constructor(private readonly task: FilmTask) {
    this.work = { ...NOTHING, met: task.met() };
  }

  /** A few samples of the whole frame. @returns how many there will be, by how long these took */
  async look(): Promise<number> {
    const { profile } = this.task.lease;
    const { lookS } = this.task.times;
    while (this.looked < profile.samples && this.work.seconds < lookS) {
      const before = this.looked;
      const more = Math.min(Math.max(1, before), profile.samples - before);
      const began = performance.now();
      const { seconds } = await this.render(more, before, undefined, (fraction) => {
        this.tell((before + fraction * more) / profile.samples, profile.samples);
        this.cutEarly((performance.now() - began) / 1000, fraction * more);
      });
      this.looked += more;
      this.secondsPerSample = seconds / more;
    }
    return this.samplesWithin(this.secondsPerSample);
  }

  /** @returns undefined where what is left is rendered in one */
  async cutInto(samples: number): Promise<Cut | undefined> {
    return this.early ?? this.cut(samples, this.secondsPerSample);
  }
  /**
   * In the middle of a look that takes long. Not where a time limit decides how many samples there are: that is known
   * when it is over.
   * @param share of a sample that is there
   */
  private cutEarly(seconds: number, share: number): void {
    const { profile } = this.task.lease;
    if (this.early || profile.timeLimitS !== null || seconds < this.task.times.lookS || share < EARLY_SHARE) return;
    this.early = this.cut(profile.samples, seconds / share, EARLY_FINER);
    this.early?.catch(() => undefined); // who waits for it is told
  }
  private cut(samples: number, secondsPerSample: number, finer = 1): Promise<Cut> | undefined {
    const { engine, client, lease, engineBuild, signal, times } = this.task;
    const rest = (samples - this.looked) * secondsPerSample;
    if (rest <= UNCUT * times.sliceS) return undefined;
    const tileRows = engine.tileRows();
    const slices = cutRows(tileRows, Math.max((rest * finer) / times.sliceS, engine.filmBytes() / SLICE_BYTES));
    return client.cut(lease, { engine: engineBuild, samples, tileRows, slices }, signal);
  }

  /** All of the profile's, or as many whole steps as its time limit leaves after the look. */
  private samplesWithin(secondsPerSample: number): number {
    const { samples, timeLimitS } = this.task.lease.profile;
    if (timeLimitS === null) return samples;
    const more = Math.max(0, timeLimitS - this.work.seconds) / Math.max(secondsPerSample, 1e-9);
    return Math.min(samples, Math.max(this.looked, wholeStep(Math.floor(this.looked + more))));
  }

  async finishInOne(samples: number): Promise<Work> {
    const more = samples - this.looked;
    const before = this.looked;
    if (more > 0)
      await this.render(more, before, undefined, (f) => this.tell((before + f * more) / samples, samples), 8);
    return this.work;
  }

  async finishCut(first: Cut): Promise<Work> {
    const { client, lease, signal } = this.task;
    let cut = first;
    await this.fetchDone(cut);
    for (;;) {
      const next = await client.claim(lease, [...this.here], signal);
      cut = next.cut;
      if (next.claimed) await this.renderSlice(next.claimed, cut);
      else if (cut.slices.every((s) => s.state === 'done' || this.here.has(s.id))) break;
      else await sleep(POLL_MS, undefined, { signal });
    }
    await this.storing;
    await this.fetchDone(cut);
    await this.renderLost(cut);
    return this.work;
  }

  async help(): Promise<void> {
    const { client, lease, signal } = this.task;
    for (;;) {
      const { claimed, cut } = await client.claim(lease, [...this.here], signal);
      if (!claimed) break;
      await this.renderSlice(claimed, cut);
    }
    await this.storing;
  }

  private async renderSlice(slice: SliceRows & { id: string; token: string }, cut: Cut): Promise<void> {
    const { engine } = this.task;
    const rows = rowsOf(slice);
    // one whose lease ran out comes back to who has its film
    const { seconds, rays, paths } = this.here.has(slice.id) ? NOTHING : await this.renderRows(rows, cut);
    const { met } = this.work;
    this.here.add(slice.id);
    await this.storing;
    this.storing = this.store(slice.id, engine.band(rows), { token: slice.token, seconds, rays, paths, met });
  }
  private renderRows(rows: TileRows, cut: Cut): Promise<RenderStats> {
    const done = rowsIn(cut.slices.filter((s) => s.state === 'done' || this.here.has(s.id)));
    const more = cut.samples - this.looked;
    const showFraction = (fraction: number) =>
      this.tell((done + fraction * (rows.to - rows.from)) / cut.tileRows, cut.samples);
    return this.render(more, this.looked, rows, showFraction, SLICE_PASS);
  }

  /**
   * A film that the server does not take, or that does not reach it, stays in the engine: it is lost only with this
   * process. Never rejects: it is on its way while the next slice is rendered, and nobody waits for it then.
   */
  private async store(sliceId: string, film: Uint8Array<ArrayBuffer>, result: SliceResult): Promise<void> {
    const { client, signal } = this.task;
    await client.sliceDone(sliceId, film, result, signal).catch(() => undefined);
  }

  /** Films of slices that were done elsewhere or before. One that is gone or damaged is rendered here, at the end. */
  private async fetchDone(cut: Cut): Promise<void> {
    const { client, engine, signal } = this.task;
    for (const slice of cut.slices) {
      if (slice.state !== 'done' || this.here.has(slice.id) || !slice.filmSha256) continue;
      try {
        engine.putBand(rowsOf(slice), await client.sliceFilm(slice.id, slice.filmSha256, signal));
        this.here.add(slice.id);
        this.count(slice.work ?? NOTHING);
      } catch (e) {
        if (!isRefusal(e) && !(e instanceof EngineError)) throw e;
      }
    }
    await this.task.onPass();
  }
  private async renderLost(cut: Cut): Promise<void> {
    for (const slice of cut.slices)
      if (!this.here.has(slice.id)) {
        await this.renderRows(rowsOf(slice), cut);
        this.here.add(slice.id);
      }
  }

  private async render(
    samples: number,
    firstSample: number,
    rows: TileRows | undefined,
    tell: (fraction: number) => void,
    samplesPerPass = samples,
  ): Promise<RenderStats> {
    const { engine, shot, signal, onPass } = this.task;
    const stats = await engine.render(
      { ...shot, samples, samplesPerPass, rows, signal, onProgress: (p) => tell(p.fraction), onPass },
      firstSample,
    );
    this.count({ ...stats, met: this.task.met() });
    return stats;
  }
  private count({ seconds, rays, paths, met }: Work): void {
    const { work } = this;
    this.work = {
      seconds: work.seconds + seconds,
      rays: work.rays + rays,
      paths: work.paths + paths,
      met: joinedMet(work.met, met),
    };
  }
  private tell(fraction: number, samples: number): void {
    this.task.progress.traced(fraction, Math.floor(fraction * samples));
  }
}

/** From here on the samples that a time limit leaves are a multiple of so many; below, a power of two. */
const STEP = 8;
/** The step that is reached with so many samples: a little more or less speed ends at the same one. */
export const wholeStep = (samples: number): number =>
  samples >= STEP ? samples - (samples % STEP) : 2 ** Math.floor(Math.log2(Math.max(1, samples)));

const NOTHING: Work = { seconds: 0, rays: 0, paths: 0 };
const rowsOf = ({ fromRow, toRow }: SliceRows): TileRows => ({ from: fromRow, to: toRow });
const rowsIn = (slices: readonly SliceRows[]): number => slices.reduce((n, s) => n + s.toRow - s.fromRow, 0);

/** Of the rows, those that are cut finer: the last ones, at which nodes that share a trace wait for each other. */
const FINE_SHARE = 1 / 3;
const FINER = 3;

/** About so many slices of whole rows, as even as may be; the last third of the rows finer. */
export function cutRows(tileRows: number, wanted: number): SliceRows[] {
  const coarse = Math.round(tileRows * (1 - FINE_SHARE));
  const fine = tileRows - coarse;
  return [
    ...evenly(0, coarse, (wanted * coarse) / tileRows),
    ...evenly(coarse, tileRows, (wanted * FINER * fine) / tileRows),
  ];
}
function evenly(from: number, to: number, wanted: number): SliceRows[] {
  if (from === to) return [];
  const n = Math.max(1, Math.min(to - from, Math.round(wanted)));
  const edge = (i: number) => from + Math.round((i * (to - from)) / n);
  return Array.from({ length: n }, (_, i) => ({ fromRow: edge(i), toRow: edge(i + 1) }));
}
