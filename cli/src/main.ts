#!/usr/bin/env node
// The command line of Variscen. It says what it does over the HTTP API, as the interface does.
import { runCommand } from './program.ts';

process.exitCode = await runCommand(process.argv.slice(2), {
  out: (text) => process.stdout.write(text),
  err: (text) => process.stderr.write(text),
  isTerminal: process.stderr.isTTY,
});
