// What traces of a plan would load, drop and take, worked out in processes of their own.
import type { PlannedTrace, PlanTask } from '../work/tasks.ts';
import { runTask } from '../work/run.ts';

/** So many are worked out on two processors, each with half of the looks. */
const MANY = 300;

/** In the order of the task's traces. @throws AppError of what the task cannot read, or where it is cancelled */
export async function plannedTraces(task: PlanTask, signal?: AbortSignal): Promise<readonly PlannedTrace[]> {
  if (task.traces.length < MANY) return runTask(task, undefined, signal);
  const stop = new AbortController();
  const either = signal ? AbortSignal.any([signal, stop.signal]) : stop.signal;
  const halves = halvesOf(task.traces);
  try {
    const planned = await Promise.all(
      halves.map((places) => runTask({ ...task, traces: places.map((i) => task.traces[i]!) }, undefined, either)),
    );
    const out: PlannedTrace[] = [];
    halves.forEach((places, half) => places.forEach((place, i) => (out[place] = planned[half]![i]!)));
    return out;
  } catch (e) {
    stop.abort(); // of one that fails the other is of no use
    throw e;
  }
}

/** Places of traces. Those in one look, which is worked out once for all of them, stay together. */
function halvesOf(traces: PlanTask['traces']): readonly (readonly number[])[] {
  const byLook = new Map<unknown, number[]>();
  traces.forEach(({ changes }, place) => {
    const known = byLook.get(changes);
    if (known) known.push(place);
    else byLook.set(changes, [place]);
  });
  const halves: number[][] = [[], []];
  for (const places of byLook.values()) {
    const [one, other] = halves as [number[], number[]];
    (one.length <= other.length ? one : other).push(...places);
  }
  return halves.filter((places) => places.length > 0);
}
