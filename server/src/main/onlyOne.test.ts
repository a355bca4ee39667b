import { spawn } from 'node:child_process';
import { mkdtemp, readFile, readdir, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import { claimFolder, leaveFolder, tellFolder } from './onlyOne.ts';
import { Restarts } from './restarts.ts';

let home: string;
beforeEach(async () => {
  home = await mkdtemp(join(tmpdir(), 'variscen-claim-'));
});
afterEach(() => rm(home, { recursive: true }));

describe('a data folder', () => {
  it('is refused to a second Variscen, which hears who has it and where', async () => {
    // a process whose command names it as a supervisor
    const other = spawn(process.execPath, ['-e', 'setInterval(() => {}, 1000)', 'supervisor'], { stdio: 'ignore' });
    try {
      // it has no command of its own before it is started
      await expect.poll(() => readFile(`/proc/${other.pid}/cmdline`, 'utf8')).toContain('supervisor');
      await writeFile(join(home, 'running.json'), JSON.stringify({ pid: other.pid, address: 'http://127.0.0.1:4460' }));
      await expect(claimFolder(home)).rejects.toThrow(
        `already runs on the data folder ${home}: process ${other.pid}, at http://127.0.0.1:4460. Open that`,
      );
    } finally {
      other.kill('SIGKILL');
    }
  });
  it('is free again after a crash, and after an end', async () => {
    await writeFile(join(home, 'running.json'), JSON.stringify({ pid: 2 ** 30, address: null }));
    await claimFolder(home);
    await tellFolder(home, 'http://127.0.0.1:4460');
    await claimFolder(home); // by the same one
    await leaveFolder(home);
    expect(await readdir(home)).toEqual([]);
    await writeFile(join(home, 'running.json'), 'cut sho');
    await claimFolder(home);
  });
});

it('what ends again and again is started a few times in ten minutes, and a few times more later', () => {
  let now = 0;
  const restarts = new Restarts(() => now);
  const minutes = (n: number) => (now += n * 60_000);
  expect(Array.from({ length: 6 }, () => restarts.again())).toEqual([true, true, true, true, true, false]);
  minutes(11);
  expect(restarts.again()).toBe(true);
});
