// Compiles the kernel to engine/dist/kernel.wasm (optimised) and engine/dist/kernel.debug.wasm (assertions on). Skips what is newer than its sources.
import asc from 'assemblyscript/asc';
import { mkdirSync, readdirSync, statSync, existsSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';

const root = join(dirname(fileURLToPath(import.meta.url)), '..');
const kernel = join(root, 'engine/kernel');
mkdirSync(join(root, 'engine/dist'), { recursive: true });
const newest = Math.max(...readdirSync(kernel).map((f) => statSync(join(kernel, f)).mtimeMs), statSync(fileURLToPath(import.meta.url)).mtimeMs);
const shared = ['--enable', 'simd', '--enable', 'threads', '--sharedMemory', '--runtime', 'stub', '--importMemory', '--initialMemory', '16', '--maximumMemory', '65536', '--exportRuntime'];
// --named: also engine/dist/kernel.named.wasm, optimised, with the names of functions, for profiles
const variants = {
  ...(process.argv.includes('--named') && { 'kernel.named.wasm': ['-O3', '--converge', '--noAssert', '--debug'] }),
  'kernel.wasm': ['-O3', '--converge', '--noAssert'],
  'kernel.debug.wasm': ['-O1', '--debug'],
};
for (const [name, flags] of Object.entries(variants)) {
  const out = join(root, 'engine/dist', name);
  if (existsSync(out) && statSync(out).mtimeMs > newest) continue;
  const { error, stderr } = await asc.main([join('engine/kernel/index.ts'), '--outFile', out, '--baseDir', root, ...flags, '--disableWarning', '112', ...shared.slice(0, -1)]);
  if (error) { console.error(stderr.toString()); process.exit(1); }
  console.log(`built engine/dist/${name}`);
}
