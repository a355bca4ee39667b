// Seconds until the application is ready, on an empty data folder and on a filled one (everything installed and built).
import { type ChildProcess, spawn } from 'node:child_process';
import { mkdtemp, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import type { Figure } from './figure.ts';

const root = fileURLToPath(new URL('../../', import.meta.url));

/** Starts the application on a data folder. */
export function ready(
  home: string,
  { env = {} }: { readonly env?: Readonly<Record<string, string>> } = {},
  ...flags: string[]
): Promise<{ seconds: number; child: ChildProcess; base: string }> {
  const began = performance.now();
  const child = spawn(join(root, 'start'), ['--port', '0', ...flags], {
    env: { ...process.env, ...env, VARISCEN_HOME: home },
    stdio: ['ignore', 'pipe', 'inherit'],
  });
  return new Promise((resolve, reject) => {
    let text = '';
    child.stdout.on('data', (d: Buffer) => {
      text += d.toString();
      const at = /Variscen is ready at (http:\S+)/.exec(text);
      if (at) resolve({ seconds: (performance.now() - began) / 1000, child, base: at[1]! });
    });
    child.on('exit', (code) => reject(new Error(`start ended with ${code} before it was ready:\n${text}`)));
  });
}
export const stop = (child: ChildProcess) =>
  new Promise<void>((resolve) => {
    child.removeAllListeners('exit');
    child.once('exit', () => resolve());
    child.kill('SIGINT');
  });

export async function startSuite(emit: (f: Omit<Figure, 'suite'>) => void): Promise<void> {
  const home = await mkdtemp(join(tmpdir(), 'variscen-bench-'));
  try {
    for (const name of ['first-start', 'second-start']) {
      const { seconds, child } = await ready(home);
      emit({ name, value: seconds, unit: 's' });
      await stop(child);
    }
  } finally {
    await rm(home, { recursive: true, force: true });
  }
}
