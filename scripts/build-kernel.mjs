// Compiles the kernel to engine/dist/kernel.wasm (optimised) and engine/dist/kernel.debug.wasm (assertions on). Skips what
// is newer than its sources.
import asc from 'assemblyscript/asc';
import { existsSync, mkdirSync, readFileSync, readdirSync, statSync, writeFileSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';

const root = join(dirname(fileURLToPath(import.meta.url)), '..');
const kernel = join(root, 'engine/kernel');
mkdirSync(join(root, 'engine/dist'), { recursive: true });
const newest = Math.max(
  ...[kernel, join(root, 'bench/kernel')].flatMap((folder) =>
    readdirSync(folder, { recursive: true }).map((f) => statSync(join(folder, f)).mtimeMs),
  ),
  statSync(fileURLToPath(import.meta.url)).mtimeMs,
);
const shared = [
  '--enable',
  'simd',
  '--enable',
  'threads',
  '--sharedMemory',
  '--runtime',
  'stub',
  '--importMemory',
  '--initialMemory',
  '16',
  '--maximumMemory',
  '65536',
  '--exportRuntime',
];
const optimised = ['-O3', '--converge', '--noAssert'];
// --named: also engine/dist/kernel.named.wasm, optimised, with the names of functions, for profiles
// --without: also kernels in which one improvement each is switched off in the source, for the benchmark of equal times
// --nodes: also engine/dist/nodes.wasm, the kernel of the benchmark of builds with nodes of half the size (bench/kernel)
const without = {
  'kernel.no-sequence.wasm': ['LOW_DISCREPANCY: bool = true', 'LOW_DISCREPANCY: bool = false'],
  'kernel.by-power.wasm': ['BY_PLACE: bool = true', 'BY_PLACE: bool = false'],
  'kernel.both-samples.wasm': ['ONE_SAMPLE: bool = true', 'ONE_SAMPLE: bool = false'],
  'kernel.no-guide.wasm': ['GUIDED: bool = true', 'GUIDED: bool = false'],
};
const variants = {
  ...(process.argv.includes('--nodes') && { 'nodes.wasm': optimised }),
  ...(process.argv.includes('--without') && Object.fromEntries(Object.keys(without).map((name) => [name, optimised]))),
  ...(process.argv.includes('--named') && { 'kernel.named.wasm': [...optimised, '--debug'] }),
  'kernel.wasm': optimised,
  'kernel.debug.wasm': ['-O1', '--debug'],
};
for (const [name, flags] of Object.entries(variants)) {
  const out = join(root, 'engine/dist', name);
  if (existsSync(out) && statSync(out).mtimeMs > newest) continue;
  const switched = new Set();
  const [on, off] = without[name] ?? [];
  const read = (file, base) => {
    try {
      const text = readFileSync(join(base, file), 'utf8');
      return on && text.includes(on) ? (switched.add(file), text.replace(on, off)) : text;
    } catch {
      return null;
    }
  };
  const options = on && {
    readFile: read,
    writeFile: (file, content, base) => writeFileSync(join(base, file), content),
  };
  const { error, stderr } = await asc.main(
    [
      name === 'nodes.wasm' ? 'bench/kernel/nodes.ts' : 'engine/kernel/index.ts',
      '--outFile',
      on ? join('engine/dist', name) : out,
      '--baseDir',
      root,
      ...flags,
      '--disableWarning',
      '112',
      ...shared.slice(0, -1),
    ],
    options,
  );
  if (!error && on && switched.size !== 1) {
    console.error(`${name}: “${on}” stands in ${switched.size} files of the kernel instead of one`);
    process.exit(1);
  }
  if (error) {
    console.error(stderr.toString());
    process.exit(1);
  }
  console.log(`built engine/dist/${name}`);
}
