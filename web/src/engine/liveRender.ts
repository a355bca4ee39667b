// A picture by the engine that follows what is shown: says what it wants to see, hears of pictures.
import type { Said, Urgency, Wish } from './messages.ts';
import { propertyOf } from '@variscen/core/looks';
import { engineService } from './engineService.ts';
import { type Shown, wishOf } from './wish.ts';

export class LiveRender {
  private asked: { readonly id: number; readonly light: string; readonly lightless: string } | undefined;
  private isMuted = false;

  constructor(
    private readonly urgency: Urgency,
    private readonly heard: (said: Said) => void,
  ) {}

  /**
   * Shows what is asked for in other lights at once, where nothing but lights differs; what comes of it is heard of.
   * @returns whether it may come to that
   */
  relight(shown: Shown): boolean {
    if (!this.asked) return false;
    const wish = wishOf(shown);
    if (withoutLights(wish) !== this.asked.lightless) return false;
    this.isMuted = false;
    engineService.relight(this.asked.id, wish.changes);
    return true;
  }
  /** @param quiet what is shown is in these lights already */
  show(shown: Shown, quiet = false): void {
    const wish = { ...wishOf(shown), ...(quiet && { quiet }) };
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
    this.asked = { id, light, lightless: withoutLights(wish) };
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
function lightOf({ grade: _, quiet: __, ...light }: Wish): string {
  return JSON.stringify(light);
}
/** And but for what light scales with. */
function withoutLights({ grade: _, quiet: __, changes, ...others }: Wish): string {
  const kept = changes.filter((c) => !propertyOf(c.property)?.linearInLight);
  return JSON.stringify([others, kept]);
}
