// Asks the engine how far things drop.
import { engineService } from './engineService.ts';
import type { DropWish } from './messages.ts';

/** Metres down for each node; null where nothing lies below. @throws Error where it could not be looked at */
export function heightsBelow(wish: DropWish): Promise<readonly (number | null)[]> {
  let id: number | undefined;
  return new Promise<readonly (number | null)[]>((resolve, reject) => {
    id = engineService.ask({ kind: 'drop', wish }, (said) => {
      if (said.kind === 'failed') reject(new Error(said.message));
      if (said.kind === 'dropped') resolve(said.heights);
    });
  }).finally(() => {
    if (id !== undefined) engineService.forget(id);
  });
}
