// Edits that are captured but not kept, and values that are recorded: in the base, an option, or a patch.
import { randomUUID } from 'node:crypto';
import { AppError, type HistoryHead, type Project, type ValueKey } from '@variscen/contract';
import {
  type Change,
  type Facet,
  changeText,
  keyOf,
  mergeChanges,
  propertyOf,
  withoutChanges,
} from '@variscen/core/looks';
import type { EntityManager } from 'typeorm';
import { Cameras, Options, Patches, Pendings, Projects, Variants } from '../db/entities/index.ts';
import type { Edits } from './edits.ts';
import { checkFacet } from './options.ts';
import { insertOption } from './optionRows.ts';
import type { ProjectService } from './projects.ts';
import { insertVariantWith } from './variants.ts';

type Keys = readonly ValueKey[];
export interface KeepAs {
  readonly as?: readonly { readonly facet: Facet; readonly name: string }[] | undefined;
  readonly only?: Keys | undefined;
  readonly variant?: { readonly fromVariantId: string; readonly name?: string | undefined } | undefined;
}

export class PendingService {
  constructor(
    private readonly projects: ProjectService,
    private readonly edits: Edits,
  ) {}

  async edit(
    projectId: string,
    destination: string,
    set: readonly Change[],
    clear: Keys | 'all',
  ): Promise<HistoryHead> {
    await this.edits.write(
      projectId,
      labelOf(set, clear),
      async (m) => {
        await checkDestination(m, projectId, destination, set);
        const old = await pendingIn(m, projectId, destination);
        await putPending(
          m,
          projectId,
          destination,
          mergeChanges(clear === 'all' ? [] : withoutChanges(old, clear), set),
        );
      },
      { pending: true, drawn: true },
    );
    return this.edits.history.next(projectId);
  }

  /** They stay pending. What the other destination had pending for the same values goes. */
  move(projectId: string, from: string, to: string, only: Keys | undefined): Promise<Project> {
    return this.projects.write(projectId, 'Move pending edits', async (m) => {
      const old = await pendingIn(m, projectId, from);
      const moved = selected(old, only);
      if (!moved.length) throw new AppError('WRONG_STATE', 'There are no pending edits to move.');
      await checkDestination(m, projectId, to, moved);
      await putPending(m, projectId, from, withoutChanges(old, moved));
      await putPending(m, projectId, to, mergeChanges(await pendingIn(m, projectId, to), moved));
    });
  }

  /**
   * Into the destination itself, or into new options of the facets named; what belongs to no named facet stays pending.
   */
  async keep(
    projectId: string,
    destination: string,
    { as, only, variant }: KeepAs,
  ): Promise<{ project: Project; optionIds: string[]; variantId: string | null }> {
    const optionIds: string[] = [];
    let variantId: string | null = null;
    const project = await this.projects.write(
      projectId,
      as ? `Keep edits as ${as.map((a) => a.name).join(' and ')}` : 'Keep edits',
      async (m) => {
        const old = await pendingIn(m, projectId, destination);
        const wanted = selected(old, only);
        if (!wanted.length) throw new AppError('WRONG_STATE', 'There are no pending edits to keep.');
        let kept: readonly Change[] = wanted;
        if (as) {
          kept = [];
          for (const { facet, name } of as) {
            const changes = wanted.filter((x) => propertyOf(x.property)?.facet === facet);
            if (!changes.length) throw new AppError('INVALID', `None of the pending edits belongs to ${facet}.`);
            optionIds.push(await insertOption(m, projectId, facet, name, changes));
            kept = [...kept, ...changes];
          }
          if (variant) variantId = await insertVariantWith(m, projectId, variant, optionIds);
        } else await changeRecorded(m, projectId, destination, (recorded) => mergeChanges(recorded, wanted));
        await putPending(m, projectId, destination, withoutChanges(old, kept));
      },
    );
    return { project, optionIds, variantId };
  }

  /** Values of the grade for some cells alone, as one edit. */
  gradeCells(
    projectId: string,
    cells: readonly { readonly cameraId: string; readonly variantId: string }[],
    set: readonly Change[],
    clear: Keys,
  ): Promise<Project> {
    checkFacet('grade', set);
    const label = cells.length === 1 ? 'Grade a picture' : `Grade ${cells.length} pictures`;
    return this.projects.write(projectId, label, async (m) => {
      for (const { cameraId, variantId } of cells) {
        const destination = `cell:${cameraId}:${variantId}`;
        await checkDestination(m, projectId, destination, set);
        await changeRecorded(m, projectId, destination, (recorded) =>
          mergeChanges(withoutChanges(recorded, clear), set),
        );
      }
    });
  }

  /** Sets and clears what is recorded, without a stop among the pending edits. */
  editRecorded(projectId: string, destination: string, set: readonly Change[], clear: Keys): Promise<Project> {
    return this.projects.write(projectId, recordedLabel(set, clear), async (m) => {
      await checkDestination(m, projectId, destination, set);
      await changeRecorded(m, projectId, destination, (recorded) => mergeChanges(withoutChanges(recorded, clear), set));
    });
  }
}

const selected = (all: readonly Change[], only: Keys | undefined): readonly Change[] => {
  if (!only) return all;
  const keys = new Set(only.map((k) => keyOf(k.target, k.property)));
  return all.filter((c) => keys.has(keyOf(c.target, c.property)));
};
const pendingIn = async (m: EntityManager, projectId: string, destination: string): Promise<Change[]> =>
  (await m.findOneBy(Pendings, { projectId, destination }))?.changes ?? [];
async function putPending(m: EntityManager, projectId: string, destination: string, changes: Change[]): Promise<void> {
  if (changes.length) await m.upsert(Pendings, { projectId, destination, changes }, ['projectId', 'destination']);
  else await m.delete(Pendings, { projectId, destination });
}

/** What an edit is called in the history: the one value that it sets, or how many. */
function labelOf(set: readonly Change[], clear: Keys | 'all'): string {
  if (set.length) return set.length === 1 ? `Edit ${changeText(set[0]!)}` : `Edit ${set.length} values`;
  if (clear === 'all') return 'Discard the pending edits';
  return clear.length === 1 ? 'Discard an edit' : `Discard ${clear.length} edits`;
}

function recordedLabel(set: readonly Change[], clear: Keys): string {
  if (set.length) return set.length === 1 ? `Set ${changeText(set[0]!)}` : `Set ${set.length} recorded values`;
  return clear.length === 1
    ? `Clear ${changeText({ ...clear[0]!, value: 0 })}`
    : `Clear ${clear.length} recorded values`;
}

async function checkDestination(
  m: EntityManager,
  projectId: string,
  destination: string,
  changes: readonly Change[],
): Promise<void> {
  const [kind, a, b] = destination.split(':');
  const missing = () =>
    new AppError(
      'NOT_FOUND',
      'The destination of these edits no longer exists.',
      'Choose another destination in the sentence at the top.',
    );
  if (kind === 'option') {
    const o = await m.findOneBy(Options, { id: a!, projectId });
    if (!o) throw missing();
    checkFacet(o.facet, changes);
  }
  if ((kind === 'camera' || kind === 'cell') && !(await m.existsBy(Cameras, { id: a!, projectId }))) throw missing();
  if (kind === 'cell' && !(await m.existsBy(Variants, { id: b!, projectId }))) throw missing();
}
async function changeRecorded(
  m: EntityManager,
  projectId: string,
  destination: string,
  change: (recorded: readonly Change[]) => Change[],
): Promise<void> {
  const [kind, a, b] = destination.split(':');
  if (kind === 'base') {
    const p = await m.findOneByOrFail(Projects, { id: projectId });
    await m.update(Projects, { id: projectId }, { base: change(p.base) });
  } else if (kind === 'option') {
    const o = await m.findOneBy(Options, { id: a!, projectId });
    if (!o) throw new AppError('NOT_FOUND', 'The option of these edits no longer exists.');
    await m.update(Options, { id: o.id }, { changes: change(o.changes) });
  } else {
    const variantId = kind === 'cell' ? b! : null;
    const old = (await m.findBy(Patches, { projectId, cameraId: a! })).find((x) => x.variantId === variantId);
    const changes = change(old?.changes ?? []);
    if (!old) {
      if (changes.length) await m.insert(Patches, { id: randomUUID(), projectId, cameraId: a!, variantId, changes });
    } else if (changes.length) await m.update(Patches, { id: old.id }, { changes });
    else await m.delete(Patches, { id: old.id });
  }
}
