// Whether a node that still runs has said nothing for so long that it hangs.
/** Seen so often in a row: after a machine that slept, everything seems silent once. */
const LOOKS = 3;

export class Silence {
  private looks = 0;
  constructor(
    private readonly silentMs: number,
    private readonly now: () => number = Date.now,
  ) {}

  /** @param seenAt when it was last heard of, ISO 8601; absent where the server does not know it */
  isHung(seenAt: string | undefined): boolean {
    const isSilent = seenAt !== undefined && this.now() - Date.parse(seenAt) > this.silentMs;
    this.looks = isSilent ? this.looks + 1 : 0;
    return this.looks >= LOOKS;
  }
}
