// One Variscen to a data folder: a second one is told who has it.
import { existsSync, readFileSync } from 'node:fs';
import { rm, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { StartError } from './postgres.ts';

interface Holder {
  readonly pid: number;
  readonly address: string | null;
}
const FILE = 'running.json';

/** @throws StartError where another one runs on this folder */
export async function claimFolder(home: string): Promise<void> {
  const holder = holderOf(home);
  if (holder && runs(holder.pid))
    throw new StartError(
      `Variscen already runs on the data folder ${home}: process ${holder.pid}${holder.address ? `, at ${holder.address}` : ''}. Open that, or stop it first, or set VARISCEN_HOME to another folder.`,
    );
  await tellFolder(home, null);
}
/** Where it can be opened, for who comes second. */
export async function tellFolder(home: string, address: string | null): Promise<void> {
  await writeFile(join(home, FILE), JSON.stringify({ pid: process.pid, address } satisfies Holder));
}
export async function leaveFolder(home: string): Promise<void> {
  if (holderOf(home)?.pid === process.pid) await rm(join(home, FILE), { force: true });
}

function holderOf(home: string): Holder | undefined {
  try {
    return JSON.parse(readFileSync(join(home, FILE), 'utf8')) as Holder;
  } catch {
    return undefined;
  }
}
/** Whether that process is one of ours: after a crash another may have its number. */
function runs(pid: number): boolean {
  if (pid === process.pid) return false;
  const command = `/proc/${pid}/cmdline`;
  try {
    return existsSync(command) && /supervisor|join/.test(readFileSync(command, 'utf8'));
  } catch {
    return false;
  }
}
