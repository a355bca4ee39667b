// Peak resident memory of this process, as Linux counts it. Measured per trace: the count is reset before each.
import { readFile, writeFile } from 'node:fs/promises';

export async function resetPeak(): Promise<void> {
  await writeFile('/proc/self/clear_refs', '5').catch(() => undefined);
}
/** Bytes; where the system gives no peak, the present use. */
export async function peakBytes(): Promise<number> {
  const status = await readFile('/proc/self/status', 'utf8').catch(() => '');
  const line = /^VmHWM:\s+(\d+) kB$/m.exec(status);
  return line ? Number(line[1]) * 1024 : process.memoryUsage.rss();
}
