// What this window is writing: a project that is asked for meanwhile would come back without it.
interface Writes {
  open: number;
  begun: number;
  idle: (() => void)[];
}
const of = new Map<string, Writes>();
const writesOf = (projectId: string): Writes => {
  let w = of.get(projectId);
  if (!w) of.set(projectId, (w = { open: 0, begun: 0, idle: [] }));
  return w;
};

/**
 * Something of the project is about to be written, or waits for its turn. The function that is returned says that it is
 * done, whatever became of it.
 */
export function beginWrite(projectId: string): () => void {
  const w = writesOf(projectId);
  w.open++;
  w.begun++;
  let done = false;
  return () => {
    if (done) return;
    done = true;
    if (--w.open === 0) for (const go of w.idle.splice(0)) go();
  };
}
/** Asks for a project when nothing of it is under way, and again where something was begun while the answer was. */
export async function readSettled<T>(projectId: string, read: () => Promise<T>, signal?: AbortSignal): Promise<T> {
  const w = writesOf(projectId);
  for (;;) {
    while (w.open > 0) {
      await new Promise<void>((go) => {
        w.idle.push(go);
      });
      signal?.throwIfAborted();
    }
    const begun = w.begun;
    const answer = await read();
    if (w.begun === begun) return answer;
    signal?.throwIfAborted();
  }
}
