// The page's one engine: takes jobs, lets the urgent go first, and says what comes of them.
import type { FromEngine, Job, Said, ToEngine } from '../messages.ts';
import { makeBalls } from './ballsJob.ts';
import { cull } from './cullJob.ts';
import { drop } from './dropJob.ts';
import { PictureJob } from './pictureJob.ts';
import { Workshop } from './workshop.ts';

const port = self as unknown as Worker;
const workshop = new Workshop();
interface Running {
  readonly stop: AbortController;
  readonly picture?: PictureJob;
}
const running = new Map<number, Running>();

port.addEventListener('message', ({ data: m }: MessageEvent<ToEngine>) => {
  switch (m.kind) {
    case 'ask':
      begin(m.id, m.job);
      return;
    case 'regrade':
      void running
        .get(m.id)
        ?.picture?.regrade(m.grade)
        .catch((e: unknown) => fail(m.id, e));
      return;
    case 'relight':
      running.get(m.id)?.picture?.relight(m.changes);
      return;
    case 'forget':
      running.get(m.id)?.stop.abort(new Error('Nobody waits for it any more.'));
      running.delete(m.id);
  }
});

function tellOf(id: number): (said: Said, transfer?: Transferable[]) => void {
  return (said, transfer = []) => {
    if (running.has(id)) port.postMessage({ id, said } satisfies FromEngine, transfer);
  };
}
function fail(id: number, e: unknown): void {
  tellOf(id)({ kind: 'failed', message: e instanceof Error ? e.message : String(e) });
}

function begin(id: number, job: Job): void {
  const stop = new AbortController();
  const tell = tellOf(id);
  const work = (): Promise<void> => {
    switch (job.kind) {
      case 'picture': {
        const picture = new PictureJob(workshop, job.wish, job.urgency, tell, stop.signal);
        running.set(id, { stop, picture });
        return picture.run();
      }
      case 'balls':
        return makeBalls(workshop, job.wish, tell, stop.signal);
      case 'cull':
        return cull(workshop.scenes, job.wish).then((culled) => tell({ kind: 'culled', culled }));
      case 'drop':
        return drop(workshop.scenes, job.wish).then((heights) => tell({ kind: 'dropped', heights }));
    }
  };
  running.set(id, { stop });
  void work().catch((e: unknown) => {
    if (!stop.signal.aborted) fail(id, e);
  });
}
