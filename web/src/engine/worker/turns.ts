// One at a time: who is more urgent goes first, and among equals who came first. Pure.
export interface Turn {
  /** The higher, the sooner. Whoever holds the turn may become less urgent while it holds it. */
  urgency: number;
  /** Aborted as soon as somebody more urgent waits; another one after each give. */
  readonly wanted: AbortSignal;
  /** Lets the more urgent go first; resolves when it is the holder's turn again. */
  give(): Promise<void>;
  end(): void;
}

interface Claim {
  readonly urgency: number;
  readonly go: () => void;
}

export class Turns {
  private holder: Holder | undefined;
  private readonly waiting: Claim[] = [];

  /** Resolves when it is the caller's turn. It holds it until end. */
  async take(urgency: number, signal?: AbortSignal): Promise<Turn> {
    const holder = new Holder(urgency, this);
    await this.wait(holder, signal);
    return holder;
  }

  /** @throws the signal's reason */
  async wait(holder: Holder, signal?: AbortSignal): Promise<void> {
    signal?.throwIfAborted();
    if (this.holder) {
      await new Promise<void>((go, fail) => {
        const claim: Claim = { urgency: holder.urgency, go };
        this.waiting.push(claim);
        signal?.addEventListener('abort', () => {
          const at = this.waiting.indexOf(claim);
          if (at < 0) return;
          this.waiting.splice(at, 1);
          fail(signal.reason as Error);
        });
        this.look();
      });
    }
    this.holder = holder;
    holder.begin();
    this.look();
  }
  /** Whether the holder should give its turn. */
  look(): void {
    if (this.holder && this.waiting.some((w) => w.urgency > this.holder!.urgency)) this.holder.want();
  }
  pass(holder: Holder): void {
    if (this.holder !== holder) return;
    this.holder = undefined;
    let next = 0;
    this.waiting.forEach((w, i) => {
      if (w.urgency > this.waiting[next]!.urgency) next = i;
    });
    const [claim] = this.waiting.splice(next, 1);
    if (!claim) return;
    // nobody slips in between: the place is taken until the one that is called comes
    this.holder = new Holder(claim.urgency, this);
    claim.go();
  }
}

class Holder implements Turn {
  private controller = new AbortController();
  private isEnded = false;
  constructor(
    private level: number,
    private readonly turns: Turns,
  ) {}

  get urgency(): number {
    return this.level;
  }
  set urgency(level: number) {
    this.level = level;
    this.turns.look();
  }
  get wanted(): AbortSignal {
    return this.controller.signal;
  }
  begin(): void {
    this.controller = new AbortController();
  }
  want(): void {
    this.controller.abort();
  }
  async give(): Promise<void> {
    this.turns.pass(this);
    await this.turns.wait(this);
  }
  end(): void {
    if (this.isEnded) return;
    this.isEnded = true;
    this.turns.pass(this);
  }
}
