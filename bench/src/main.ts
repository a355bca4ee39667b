// npm run --silent bench -- <suite> [--json]: measured figures, one a line.
import type { Emit } from './figure.ts';
import { equalTimeSuite } from './equalTime.ts';
import { denoiseSuite, evidenceSuite, pathsSuite, threadsSuite } from './render.ts';
import { batchSuite } from './batch.ts';
import { cullSuite } from './cull.ts';
import { cullRulesSuite } from './cullRules.ts';
import { exrSuite } from './exr.ts';
import { finalSuite } from './final.ts';
import { importSuite } from './importing.ts';
import { clothesSuite } from './clothes.ts';
import { leanSuite } from './lean.ts';
import { machinesSuite } from './machines.ts';
import { nodesSuite } from './nodes.ts';
import { relightSuite } from './relight.ts';
import { reviewSuite } from './review.ts';
import { resolveSuite } from './resolve.ts';
import { startSuite } from './start.ts';
import { buildSuite, traceSuite } from './trace.ts';
import { uiSuite } from './ui.ts';

const SUITES: Readonly<Record<string, (emit: Emit) => Promise<void>>> = {
  trace: traceSuite,
  build: buildSuite,
  nodes: nodesSuite,
  threads: threadsSuite,
  paths: pathsSuite,
  denoise: denoiseSuite,
  'equal-time': equalTimeSuite,
  evidence: evidenceSuite,
  cull: cullSuite,
  'cull-rules': cullRulesSuite,
  clothes: clothesSuite,
  lean: leanSuite,
  batch: batchSuite,
  machines: machinesSuite,
  relight: relightSuite,
  exr: exrSuite,
  final: finalSuite,
  start: startSuite,
  resolve: resolveSuite,
  review: reviewSuite,
  import: importSuite,
  ui: uiSuite,
};
const [name, ...flags] = process.argv.slice(2);
const suite = name && SUITES[name];
if (!suite) {
  console.error(`Usage: npm run --silent bench -- <suite> [--json]. Suites: ${Object.keys(SUITES).join(', ')}.`);
  process.exit(2);
}
await suite((f) => {
  if (flags.includes('--json')) console.log(JSON.stringify({ suite: name, ...f }));
  else
    console.log(
      `${name} ${f.name}: ${Number(f.value.toPrecision(4)).toLocaleString('en')} ${f.unit}${f.ratio === undefined ? '' : ` (${f.ratio.toFixed(2)} × ${f.of})`}`,
    );
});
