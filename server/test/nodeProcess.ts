// A render node as a process of its own, as the supervisor starts it.
import { type ChildProcess, spawn } from 'node:child_process';
import { join } from 'node:path';
import { TOKEN } from './fixture.ts';

export function startNode(folder: string, server: string, more: Record<string, string> = {}): ChildProcess {
  const env = {
    ...process.env,
    VARISCEN_SERVER: server,
    VARISCEN_NODE_TOKEN: TOKEN,
    VARISCEN_NODE_NAME: 'test node',
    VARISCEN_NODE_FOLDER: folder,
    VARISCEN_MEMORY_MB: '2048',
    VARISCEN_NICENESS: '1', // other tests are at work, for which nobody waits
    ...more,
  };
  return spawn(process.execPath, [join(import.meta.dirname, '../dist/main/node.js')], {
    env,
    stdio: ['ignore', 'inherit', 'inherit', 'ipc'],
  });
}
export async function end(node: ChildProcess): Promise<void> {
  const ended = new Promise((done) => node.once('exit', done));
  node.kill('SIGKILL');
  await ended;
}
