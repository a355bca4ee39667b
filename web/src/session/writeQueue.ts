// The one queue of what this window writes to a project: edits, cameras, order, undo, in the order in which hands made
// them. What the server could not be reached for is sent again until it can, and nothing behind it overtakes it; what
// it refuses is told to whoever asked for it, and the rest goes on.
import { ApiError } from '../api/client.ts';
import { beginWrite } from './writes.ts';

/**
 * saved: everything is with the server; sending; unreachable: the server does not answer, and what is unsent waits for
 * it.
 */
export type QueueState =
  | { readonly kind: 'saved' }
  | { readonly kind: 'sending'; readonly unsent: number }
  | { readonly kind: 'unreachable'; readonly unsent: number };

interface Entry {
  readonly work: () => Promise<unknown>;
  /** Whether sending it twice is as good as once: only then it is sent again where nobody knows whether it arrived. */
  readonly again: boolean;
  readonly done: (value: unknown) => void;
  readonly failed: (e: unknown) => void;
}

const FIRST_WAIT_MS = 500;
const MOST_WAIT_MS = 8_000;

export class WriteQueue {
  private readonly entries: Entry[] = [];
  private readonly listeners = new Set<() => void>();
  private state: QueueState = { kind: 'saved' };
  private holds = 0;
  private running: Promise<void> | undefined;
  private written: (() => void) | undefined;
  private nudge: () => void = () => undefined;

  constructor(private readonly projectId: string) {
    open.add(this);
  }

  current = (): QueueState => this.state;
  subscribe = (listener: () => void): (() => void) => {
    this.listeners.add(listener);
    return () => this.listeners.delete(listener);
  };

  /** Puts something at the end. @param again whether sending it twice is as good as once */
  push<T>(work: () => Promise<T>, again: boolean): Promise<T> {
    const outcome = new Promise<T>((resolve, reject) => {
      this.entries.push({ work, again, done: resolve as (value: unknown) => void, failed: reject });
    });
    this.begin();
    this.running ??= this.run();
    return outcome;
  }

  /**
   * Something is on the page that will be pushed later: until release is called, nothing older is taken for the truth.
   */
  hold(): () => void {
    this.holds++;
    this.begin();
    let released = false;
    return () => {
      if (released) return;
      released = true;
      this.holds--;
      this.settle();
    };
  }

  /** Everything that was pushed so far was sent or refused when this resolves. */
  async settled(): Promise<void> {
    while (this.running) await this.running;
  }

  /** The server may be there again: what waits for it is sent now. */
  tryNow(): void {
    this.nudge();
  }

  private async run(): Promise<void> {
    for (let entry = this.entries[0]; entry; entry = this.entries[0]) {
      await this.send(entry);
      this.entries.shift();
      this.tell(this.unsent() ? { kind: 'sending', unsent: this.unsent() } : this.state);
    }
    this.running = undefined;
    this.settle();
  }

  private async send(entry: Entry): Promise<void> {
    for (let wait = FIRST_WAIT_MS; ; wait = Math.min(MOST_WAIT_MS, wait * 2)) {
      try {
        entry.done(await entry.work());
        return;
      } catch (e) {
        if (!(entry.again && isUnreachable(e))) {
          entry.failed(e);
          return;
        }
        this.tell({ kind: 'unreachable', unsent: this.unsent() });
        await this.pause(wait);
      }
    }
  }

  private async pause(ms: number): Promise<void> {
    let timer: ReturnType<typeof setTimeout> | undefined;
    await new Promise<void>((go) => {
      this.nudge = go;
      timer = setTimeout(go, ms);
    });
    clearTimeout(timer);
  }

  private unsent(): number {
    return this.entries.length + this.holds;
  }
  private begin(): void {
    this.written ??= beginWrite(this.projectId);
    const { kind } = this.state;
    this.tell({ kind: kind === 'unreachable' ? kind : 'sending', unsent: this.unsent() });
  }
  private settle(): void {
    if (this.unsent()) return;
    this.written?.();
    this.written = undefined;
    this.tell({ kind: 'saved' });
  }
  private tell(state: QueueState): void {
    this.state = state;
    for (const listener of this.listeners) listener();
  }
}

const isUnreachable = (e: unknown): boolean => e instanceof ApiError && e.code === 'UNREACHABLE';

const open = new Set<WriteQueue>();
/** Of all projects of this window. */
export const isAnythingUnsent = (): boolean => [...open].some((queue) => queue.current().kind !== 'saved');
export const tryAllNow = (): void => {
  for (const queue of open) queue.tryNow();
};
