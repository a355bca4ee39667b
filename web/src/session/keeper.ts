// Keeps and moves pending edits: what is on its way to the server first, then as one edit.
import type { QueryClient } from '@tanstack/react-query';
import type { Project } from '@variscen/contract';
import type { Change, Facet } from '@variscen/core/looks';
import { call } from '../api/client.ts';
import { keys, setProject } from '../api/queries.ts';
import { sayError } from '../ui/notify.ts';
import type { PendingWriter } from './edits.ts';

export interface KeepHow {
  readonly only?: readonly Change[] | undefined;
  readonly as?: readonly { readonly facet: Facet; readonly name: string }[] | undefined;
  readonly variant?: { readonly fromVariantId: string; readonly name?: string } | undefined;
}
export interface Kept {
  readonly optionIds: readonly string[];
  readonly variantId: string | null;
}
const keysOf = (changes: readonly Change[]) => changes.map(({ target, property }) => ({ target, property }));

export class Keeper {
  constructor(
    private readonly client: QueryClient,
    private readonly projectId: string,
    private readonly writer: PendingWriter,
  ) {}

  /** undefined: it was not kept, and the person was told why. What follows is shown together with what was kept. */
  keep(destination: string, { only, as, variant }: KeepHow, follows?: (kept: Kept) => void): Promise<Kept | undefined> {
    return this.run(async () => {
      const { project, optionIds, variantId } = await call('keepPending', {
        params: { projectId: this.projectId },
        body: {
          destination,
          ...(only && { only: keysOf(only) }),
          ...(as && { as: [...as] }),
          ...(variant && { variant }),
        },
      });
      return { project, answer: { optionIds, variantId } };
    }, follows);
  }
  move(from: string, to: string, only: readonly Change[] | undefined): Promise<true | undefined> {
    return this.run(async () => ({
      project: await call('movePending', {
        params: { projectId: this.projectId },
        body: { from, to, ...(only && { only: keysOf(only) }) },
      }),
      answer: true as const,
    }));
  }
  /** Sets and clears what is recorded. */
  recorded(
    destination: string,
    set: readonly Change[],
    clear: readonly Pick<Change, 'target' | 'property'>[],
  ): Promise<true | undefined> {
    return this.run(async () => ({
      project: await call('editRecorded', {
        params: { projectId: this.projectId },
        body: { destination, set: set as never, clear: clear.map(({ target, property }) => ({ target, property })) },
      }),
      answer: true as const,
    }));
  }
  private async run<T>(
    work: () => Promise<{ project: Project; answer: T }>,
    follows?: (answer: T) => void,
  ): Promise<T | undefined> {
    await this.writer.settled();
    try {
      const { project, answer } = await work();
      setProject(this.client, project);
      follows?.(answer);
      void this.client.invalidateQueries({ queryKey: keys.board(this.projectId) });
      return answer;
    } catch (e) {
      sayError(e);
      await this.client.invalidateQueries({ queryKey: keys.project(this.projectId) });
      return undefined;
    }
  }
}
