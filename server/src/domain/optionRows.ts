// Options as rows, for every service that makes or reads them.
import { randomUUID } from 'node:crypto';
import { AppError, type Tag } from '@variscen/contract';
import type { Change, Facet } from '@variscen/core/looks';
import type { EntityManager } from 'typeorm';
import { type OptionRow, Options } from '../db/entities/index.ts';
import { nextOrdinal } from './edits.ts';

export async function insertOption(
  m: EntityManager,
  projectId: string,
  facet: Facet,
  name: string,
  changes: readonly Change[],
  more: { notes: string; tag: Tag | null } = { notes: '', tag: null },
): Promise<string> {
  const id = randomUUID();
  await m.insert(Options, {
    id,
    projectId,
    facet,
    name,
    notes: more.notes,
    tag: more.tag,
    changes: [...changes],
    ordinal: await nextOrdinal(m, Options, projectId),
  });
  return id;
}
export async function optionOf(m: EntityManager, projectId: string, id: string): Promise<OptionRow> {
  const option = await m.findOneBy(Options, { id, projectId });
  if (!option) throw new AppError('NOT_FOUND', 'There is no such option.');
  return option;
}
