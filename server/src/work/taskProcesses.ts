// The processes in which tasks are done, one task at a time. One that has done its task is kept a while for the next:
// starting it and loading what reads scenes takes longer than most tasks. One whose task failed, was cancelled or
// ended, or that has come to hold much, does nothing more.
import { type ChildProcess, spawn } from 'node:child_process';
import { fileURLToPath } from 'node:url';
import { residentBytes } from './limits.ts';

const entry = fileURLToPath(
  new URL(import.meta.url.endsWith('.ts') ? '../../dist/work/worker.js' : './worker.js', import.meta.url),
); // always the build, whatever loader the parent runs under

/** What a task's process is told of this one's surroundings: no password, no token. */
const TOLD = ['PATH', 'HOME', 'LANG', 'LC_ALL', 'TZ', 'TMPDIR'];
const environment = (): Record<string, string> =>
  Object.fromEntries(TOLD.flatMap((name) => (process.env[name] === undefined ? [] : [[name, process.env[name]]])));

const MIB = 2 ** 20;
const KEPT = 2;
const KEPT_MS = 60_000;
/** One that holds more when its task is done is not kept. */
const KEPT_BYTES = 320 * MIB;

interface Kept {
  readonly child: ChildProcess;
  readonly heapMib: number;
  readonly late: NodeJS.Timeout;
}
let kept: readonly Kept[] = [];

export const LOWEST_PRIORITY = 19;
let niceness = LOWEST_PRIORITY;
/** Of processes that are started from now on. */
export function setTaskNiceness(n: number): void {
  niceness = n;
}

/** @param heapMib what its heap may hold */
export function takeProcess(heapMib: number): ChildProcess {
  const free = kept.find((k) => k.heapMib === heapMib);
  if (!free) return start(heapMib);
  forget(free);
  free.child.ref();
  free.child.channel?.ref();
  return free.child;
}

/** Its task is done: it may do another. */
export async function keepProcess(child: ChildProcess, heapMib: number): Promise<void> {
  child.removeAllListeners();
  child.on('error', () => undefined);
  child.unref();
  child.channel?.unref();
  const bytes = await residentBytes(child.pid ?? 0);
  const hasEnded = child.exitCode !== null || child.signalCode !== null || !child.connected;
  if (hasEnded || bytes === 0 || bytes > KEPT_BYTES || kept.length >= KEPT) {
    child.kill('SIGKILL');
    return;
  }
  const late = setTimeout(() => {
    forget(one);
    child.kill('SIGKILL');
  }, KEPT_MS);
  late.unref();
  const one = { child, heapMib, late };
  kept = [...kept, one];
  child.once('exit', () => forget(one));
}
export function endProcess(child: ChildProcess): void {
  child.removeAllListeners();
  child.on('error', () => undefined);
  child.kill('SIGKILL');
}
function forget(one: Kept): void {
  clearTimeout(one.late);
  one.child.removeAllListeners('exit');
  kept = kept.filter((k) => k !== one);
}

function start(heapMib: number): ChildProcess {
  // the engine's and the decoders' memory is not of this heap, and is looked at from outside
  const node = [process.execPath, `--max-old-space-size=${heapMib}`, entry];
  const [command, ...args] = process.platform === 'linux' ? ['nice', '-n', `${niceness}`, ...node] : node;
  return spawn(command!, args, {
    stdio: ['ignore', 'inherit', 'inherit', 'ipc'],
    serialization: 'advanced',
    env: environment(),
  });
}
