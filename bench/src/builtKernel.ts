// Kernels that are built for measuring alone.
import { execFileSync } from 'node:child_process';
import { readFile } from 'node:fs/promises';
import { fileURLToPath } from 'node:url';

export async function builtKernel(flag: string, name: string): Promise<WebAssembly.Module> {
  execFileSync(process.execPath, [fileURLToPath(new URL('../../scripts/build-kernel.mjs', import.meta.url)), flag], {
    stdio: ['ignore', 'ignore', 'inherit'],
  });
  return WebAssembly.compile(await readFile(new URL(`../../engine/dist/${name}`, import.meta.url)));
}
