// How far a trace is, in memory that the thread which works and the thread which reports share.
import { STAGES, type TraceStage } from '@variscen/contract';

//   bytes  0 … 7   fraction, float64
//   bytes  8 … 11  samples done, int32
//   bytes 12 … 15  stage, index into STAGES, int32
//   bytes 16 … 19  signs of life of the working thread, int32, wraps
//   bytes 20 … 23  threads that may work and one, int32; −1: all
//   bytes 24 … 31  relative noise of the film so far, float64; NaN: not known
const BYTES = 32;
const ALL = -1;
const SAMPLES = 2;
const STAGE = 3;
const LIFE = 4;
const THREADS = 5;
const NOISE_AT = 24;

export class SharedProgress {
  private readonly fractions: Float64Array;
  private readonly noises: Float64Array;
  private readonly counts: Int32Array;

  constructor(readonly memory = new SharedArrayBuffer(BYTES)) {
    this.fractions = new Float64Array(memory, 0, 1);
    this.noises = new Float64Array(memory, NOISE_AT, 1);
    this.counts = new Int32Array(memory);
    // before the first word of the server
    Atomics.compareExchange(this.counts, THREADS, 0, ALL);
  }

  /** 0 … 1 of the tracing. */
  get fraction(): number {
    return this.fractions[0]!;
  }
  get samplesDone(): number {
    return Atomics.load(this.counts, SAMPLES);
  }
  /** Relative, of the film so far; null: not known. */
  get noise(): number | null {
    const noise = this.noises[0]!;
    return noise > 0 ? noise : null;
  }
  get stage(): TraceStage {
    return STAGES[Atomics.load(this.counts, STAGE)]!;
  }
  get life(): number {
    return Atomics.load(this.counts, LIFE);
  }

  traced(fraction: number, samplesDone: number): void {
    this.fractions[0] = Math.min(1, Math.max(0, fraction));
    Atomics.store(this.counts, SAMPLES, samplesDone);
  }
  judged(noise: number | null): void {
    this.noises[0] = noise ?? NaN;
  }
  enter(stage: TraceStage): void {
    Atomics.store(this.counts, STAGE, STAGES.indexOf(stage));
  }
  /** How many of so many threads may work. */
  threadsOf(all: number): number {
    const allowed = Atomics.load(this.counts, THREADS);
    return allowed < 0 ? all : allowed - 1;
  }
  /** Said by the server; null: all. */
  allow(threads: number | null): void {
    Atomics.store(this.counts, THREADS, threads === null ? ALL : threads + 1);
  }
  isAlive(): void {
    Atomics.add(this.counts, LIFE, 1);
  }
}
