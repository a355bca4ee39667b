// What changed, told to every open page.
import type { ServerEvent } from '@variscen/contract';

export class Events {
  private readonly listeners = new Set<(e: ServerEvent) => void>();
  emit(e: ServerEvent): void {
    for (const l of this.listeners) l(e);
  }
  listen(l: (e: ServerEvent) => void): () => void {
    this.listeners.add(l);
    return () => this.listeners.delete(l);
  }
}
