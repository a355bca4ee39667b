// A picture by the engine that follows what is shown: says what it wants to see, hears of pictures.
import type { Said, Urgency, Wish } from './messages.ts';
import { engineService } from './engineService.ts';
import { type Shown, wishOf } from './wish.ts';

export class LiveRender {
  private asked: { readonly id: number; readonly light: string } | undefined;
  private isMuted = false;

  constructor(
    private readonly urgency: Urgency,
    private readonly heard: (said: Said) => void,
  ) {}

  show(shown: Shown): void {
    const wish = wishOf(shown);
    const light = lightOf(wish);
    this.isMuted = false;
    if (this.asked?.light === light) {
      engineService.regrade(this.asked.id, wish.grade);
      return;
    }
    this.forget();
    const job = { kind: 'picture', urgency: this.urgency, wish } as const;
    const id = engineService.ask(job, (said) => {
      if (this.asked?.id !== id) return;
      if (said.kind === 'failed') this.forget(); // asked for again, it is tried again
      if (!this.isMuted) this.heard(said);
    });
    this.asked = { id, light };
  }
  /** What comes now is of no use, though what is wanted next is not known yet: it may be the same in another grade. */
  mute(): void {
    this.isMuted = true;
  }
  forget(): void {
    if (this.asked) engineService.forget(this.asked.id);
    this.asked = undefined;
  }
}

/** All but the grade, which costs no trace. */
function lightOf({ grade: _, ...light }: Wish): string {
  return JSON.stringify(light);
}
