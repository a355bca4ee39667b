// Entry of the thread for looks. It reads the database itself: what a project holds may be many megabytes, which nobody
// should copy between threads.
import { existsSync } from 'node:fs';
import { parentPort } from 'node:worker_threads';
import { AppError } from '@variscen/contract';
import { mergeEvidence } from '@variscen/core/cull';
import { type LooksFile, matchLooks, packLooks } from '@variscen/core/looks';
import type { LooksAsk, LooksReply } from './looksTasks.ts';
import { store } from './looks/reach.ts';
import { load } from './looks/loaded.ts';
import { board, rendersDiffer, counts } from './looks/changed.ts';
import { developable } from './looks/develop.ts';
import { cells } from './looks/cells.ts';
import { evidenceIn, cullPlan, standInsWanted } from './looks/cull.ts';

/** Options of a project as a file of looks. */
async function pack({ projectId, from, optionIds }: Extract<LooksAsk, { kind: 'pack' }>): Promise<LooksFile> {
  const { sources, index } = await load(projectId);
  const options = optionIds.map((id) => {
    const found = sources.options.find((o) => o.id === id);
    if (!found) throw new AppError('NOT_FOUND', 'One of these options is no longer there.');
    return found;
  });
  return packLooks(from, options, index);
}

async function answer(ask: LooksAsk): Promise<unknown> {
  switch (ask.kind) {
    case 'board':
      return board(ask);
    case 'cells':
      return cells(ask);
    case 'counts':
      return counts(ask.projectId);
    case 'develop':
      return developable(ask.projectId, ask.refs);
    case 'renders':
      return rendersDiffer(ask.was, ask.is);
    case 'evidence':
      return JSON.stringify(mergeEvidence(await evidenceIn(ask.evidence, (await load(ask.projectId)).index)));
    case 'cullPlan':
      return cullPlan(ask);
    case 'standIns':
      return standInsWanted(ask);
    case 'pack':
      return pack(ask);
    case 'match':
      return matchLooks(ask.looks, (await load(ask.projectId)).index, ask.byHand, (hash) =>
        existsSync(store.path(hash)),
      );
  }
}

// one after another: what is kept of a project belongs to one question at a time
let last: Promise<void> = Promise.resolve();
parentPort!.on('message', ({ id, ask }: { id: number; ask: LooksAsk }) => {
  last = last
    .then(() => answer(ask))
    .then(
      (value): LooksReply => ({ id, value }),
      (e: unknown): LooksReply => ({
        id,
        code: e instanceof AppError ? e.code : 'INTERNAL',
        message: e instanceof Error ? e.message : String(e),
      }),
    )
    .then((m) => {
      parentPort!.postMessage(m);
    });
});
