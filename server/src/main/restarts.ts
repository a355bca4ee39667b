// How often something that ended is started again: a few times, then somebody has to look.
const MOST = 5;
const WITHIN_MS = 10 * 60_000;

export class Restarts {
  private readonly at: number[] = [];
  constructor(private readonly now: () => number = () => performance.now()) {}

  /** Whether to start it once more. */
  again(): boolean {
    const now = this.now();
    while (this.at.length && now - this.at[0]! > WITHIN_MS) this.at.shift();
    this.at.push(now);
    return this.at.length <= MOST;
  }
}
