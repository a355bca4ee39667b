// A pool of kernel threads on one shared memory. The kind of worker is injected, so that Node and the browser share all
// of this.
import type { Call, KernelExports, Reply, Start } from './kernelThread.ts';
import { EngineError } from './scene.ts';

export interface ThreadHandle {
  post(call: Call): void;
  terminate(): Promise<void> | void;
}
export interface ThreadEvents {
  reply(reply: Reply): void;
  died(reason: string): void;
}
export type SpawnThread = (start: Start, events: ThreadEvents) => ThreadHandle;

interface Waiting {
  resolve(value: number): void;
  reject(e: Error): void;
}

class Thread {
  private readonly handle: ThreadHandle;
  private readonly waiting = new Map<number, Waiting>();
  private nextId = 0;
  private dead: EngineError | undefined;
  readonly ready: Promise<number>;

  /** @param onStand it waits in the middle of a call for something to be loaded */
  constructor(spawn: SpawnThread, start: Start, onStand: () => void) {
    this.ready = new Promise((resolve, reject) => this.waiting.set(0, { resolve, reject }));
    this.handle = spawn(start, {
      reply: (r) => {
        if ('stands' in r) {
          onStand();
          return;
        }
        const w = this.waiting.get(r.id);
        this.waiting.delete(r.id);
        if ('error' in r) w?.reject(new EngineError('KERNEL_FAILED', `The engine stopped: ${r.error}.`));
        else w?.resolve(r.value ?? 0);
      },
      died: (reason) => this.fail(new EngineError('KERNEL_FAILED', `A render thread ended unexpectedly: ${reason}.`)),
    });
  }

  /** A dead thread rejects everything that waits for it, now and later. */
  private fail(e: EngineError): void {
    this.dead ??= e;
    for (const w of this.waiting.values()) w.reject(this.dead);
    this.waiting.clear();
  }

  call<F extends keyof KernelExports>(fn: F, args: Parameters<KernelExports[F]>): Promise<number> {
    if (this.dead) return Promise.reject(this.dead);
    const id = ++this.nextId;
    return new Promise((resolve, reject) => {
      this.waiting.set(id, { resolve, reject });
      this.handle.post({ id, fn, args });
    });
  }

  async terminate(): Promise<void> {
    this.fail(new EngineError('CANCELLED', 'The engine was closed.'));
    await this.handle.terminate();
  }
}

export class KernelPool {
  /** A thread waits in the middle of a call for something to be loaded. */
  onStand: () => void = () => undefined;
  private readonly threads: readonly Thread[];
  private constructor(
    spawn: SpawnThread,
    module: WebAssembly.Module,
    threads: number,
    readonly memory: WebAssembly.Memory,
  ) {
    this.threads = Array.from({ length: threads }, () => new Thread(spawn, { module, memory }, () => this.onStand()));
  }

  static async open(spawn: SpawnThread, module: WebAssembly.Module, threads: number): Promise<KernelPool> {
    if (!(Number.isInteger(threads) && threads >= 1))
      throw new EngineError(
        'BAD_SETTINGS',
        `The engine needs a whole number of threads, at least one, not ${threads}.`,
      );
    const memory = new WebAssembly.Memory({ initial: 16, maximum: 65536, shared: true });
    const pool = new KernelPool(spawn, module, threads, memory);
    try {
      await Promise.all(pool.threads.map((t) => t.ready));
      return pool;
    } catch (e) {
      await pool.close();
      throw e;
    }
  }

  get size(): number {
    return this.threads.length;
  }

  /** Makes the memory at least so large; the kernel's threads see it at once, views on it must be made anew. */
  reserve(bytes: number): void {
    const missing = Math.ceil((bytes - this.memory.buffer.byteLength) / 65536);
    if (missing <= 0) return;
    try {
      this.memory.grow(missing);
    } catch {
      throw new EngineError(
        'OUT_OF_MEMORY',
        `The system did not give ${(bytes / 2 ** 20).toFixed(0)} MiB for this job. Close other programs, cull objects or render smaller.`,
      );
    }
  }

  call<F extends keyof KernelExports>(thread: number, fn: F, ...args: Parameters<KernelExports[F]>): Promise<number> {
    return this.threads[thread]!.call(fn, args);
  }

  /** Runs fn on every thread with arguments of its own and waits for all, also where one fails. */
  async all<F extends keyof KernelExports>(
    fn: F,
    args: (thread: number) => Parameters<KernelExports[F]>,
  ): Promise<void> {
    const done = await Promise.allSettled(this.threads.map((t, i) => t.call(fn, args(i))));
    for (const d of done) if (d.status === 'rejected') throw d.reason;
  }

  async close(): Promise<void> {
    await Promise.all(this.threads.map((t) => t.terminate()));
  }
}
