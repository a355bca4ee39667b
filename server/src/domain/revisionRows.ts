// Revisions as the API gives them.
import type { Revision } from '@variscen/contract';
import type { RevisionRow } from '../db/entities/index.ts';

export const asRevision = (r: RevisionRow): Revision => ({
  id: r.id,
  number: r.number,
  sceneHash: r.sceneHash,
  state: r.state,
  createdAt: r.createdAt.toISOString(),
  report: r.report as Revision['report'],
  match: r.match,
});
