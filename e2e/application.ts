// The real application on a data folder of its own, and a headless browser.
import { type ChildProcess, execFile, spawn } from 'node:child_process';
import { randomUUID } from 'node:crypto';
import { mkdtemp, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { promisify } from 'node:util';
import { type Node, WebIO } from '@gltf-transform/core';
import { ALL_EXTENSIONS } from '@gltf-transform/extensions';
import { makeTeaStall } from '@variscen/demo';
import { type Browser, type Page, chromium } from 'playwright-core';

/** A quarter of the pixels: rendering them is most of what a test waits for. */
export const FRAMES_BY = 0.5;
const run = promisify(execFile);
const root = join(import.meta.dirname, '..');

export interface Application {
  readonly home: string;
  readonly base: string;
  readonly process: ChildProcess;
  stop(): Promise<void>;
}

/** As ./start does once everything is installed and built. */
export async function startApplication(home: string, ...flags: string[]): Promise<Application> {
  const child = spawn('node', [join(root, 'server/dist/main/supervisor.js'), '--port', '0', ...flags], {
    env: { ...process.env, VARISCEN_HOME: home },
    stdio: ['ignore', 'pipe', 'pipe'],
  });
  let text = '';
  const base = await new Promise<string>((resolve, reject) => {
    const read = (d: Buffer) => {
      text += d.toString();
      const m = /Variscen is ready at (http:\S+)/.exec(text);
      if (m) resolve(m[1]!);
    };
    child.stdout.on('data', read);
    child.stderr.on('data', read);
    child.once('exit', (code) => reject(new Error(`It ended with ${code}: ${text}`)));
  });
  return {
    home,
    base,
    process: child,
    stop: () =>
      new Promise((done) => {
        if (child.exitCode !== null) {
          done();
          return;
        }
        child.once('exit', () => done());
        child.kill('SIGINT');
      }),
  };
}
/** Runs it until it ends by itself; gives what it said. */
export async function tryToStart(
  home: string,
  env: Record<string, string>,
  ...flags: string[]
): Promise<{ code: number | null; text: string }> {
  const child = spawn('node', [join(root, 'server/dist/main/supervisor.js'), ...flags], {
    env: { ...process.env, VARISCEN_HOME: home, ...env },
    stdio: ['ignore', 'pipe', 'pipe'],
  });
  let text = '';
  child.stdout.on('data', (d: Buffer) => {
    text += d.toString();
  });
  child.stderr.on('data', (d: Buffer) => {
    text += d.toString();
  });
  return new Promise((resolve) => child.once('exit', (code) => resolve({ code, text })));
}
export const makeHome = (): Promise<string> => mkdtemp(join(tmpdir(), 'variscen-e2e-'));
export const dropHome = (home: string): Promise<void> => rm(home, { recursive: true, force: true });

/** Command lines of processes that belong to a data folder. */
export async function processesOf(home: string): Promise<string[]> {
  const { stdout } = await run('ps', ['-eo', 'pid=,args=', 'e']).catch(() => ({ stdout: '' }));
  return stdout
    .split('\n')
    .filter(
      (l) => l.includes(home) && !l.includes('ps -eo') && /postgres|supervisor\.js|main\/(server|node)\.js/.test(l),
    );
}
/** Process ids of a part of an application, by what its command says. */
export async function pidsOf(home: string, command: RegExp): Promise<number[]> {
  return (await processesOf(home)).filter((l) => command.test(l)).map((l) => Number.parseInt(l.trim(), 10));
}
/** Process ids of an application's render node. */
export const nodePids = (home: string): Promise<number[]> => pidsOf(home, /main\/node\.js/);

export function openBrowser(): Promise<Browser> {
  return chromium.launch({
    executablePath: '/usr/bin/chromium',
    args: [
      '--no-sandbox',
      '--use-angle=swiftshader',
      '--enable-unsafe-swiftshader',
      '--disable-gpu-compositing',
      '--disable-background-networking',
      '--disable-component-update',
      '--disable-sync',
      '--no-first-run',
      '--disable-quic',
      '--host-resolver-rules=MAP * ~NOTFOUND, EXCLUDE 127.0.0.1, EXCLUDE localhost',
    ],
  });
}
/**
 * A page as large as a small window, whose pictures have a quarter of the pixels each way: without a GPU, drawing them
 * is most of what a test waits for.
 */
export async function openPage(browser: Browser): Promise<Page> {
  return (await browser.newContext({ viewport: { width: 1280, height: 800 }, deviceScaleFactor: 0.25 })).newPage();
}
/** What went wrong in the page, or was refused to it: a test says at its end that there is none. */
export function watch(page: Page): string[] {
  const errors: string[] = [];
  page.on('pageerror', (e) => errors.push(e.message));
  page.on('console', (m) => {
    if (m.type() === 'error' && !/GPU stall|WebGL|the server responded with/.test(m.text())) errors.push(m.text());
  });
  // of what the server refuses, the console does not say the reason
  page.on('response', (r) => {
    if (r.status() < 400) return;
    const said = `${r.request().method()} ${r.url()}: ${r.status()}`;
    const at = errors.push(said) - 1;
    r.text().then(
      (text) => {
        errors[at] = `${said} ${text}`;
      },
      () => undefined,
    );
  });
  return errors;
}

/** The stall without its lane, trees and flags: a machine without a GPU draws the rest in a moment. */
export async function smallStall(): Promise<Uint8Array> {
  const io = new WebIO().registerExtensions(ALL_EXTENSIONS);
  const d = await io.readBinary(await makeTeaStall('light', FRAMES_BY));
  const gone = ['Cobbles', 'Lane', 'Quince tree', 'Fallen leaves', 'Bunting', 'Dressing', 'Mirror'];
  const drop = (n: Node): void => {
    for (const c of n.listChildren()) drop(c);
    n.dispose();
  };
  for (const n of d
    .getRoot()
    .listNodes()
    .filter((x) => gone.includes(x.getName())))
    drop(n);
  return io.writeBinary(d);
}

/** Asks the server as a program does. @throws Error with what it said where it refused */
export async function ask<T>(base: string, method: string, path: string, body?: unknown): Promise<T> {
  const isBytes = body instanceof Uint8Array;
  const r = await fetch(base + path, {
    method,
    headers: { 'content-type': isBytes ? 'application/octet-stream' : 'application/json' },
    ...(body !== undefined && { body: isBytes ? (body as Uint8Array<ArrayBuffer>) : JSON.stringify(body) }),
  });
  if (!r.ok) throw new Error(`${method} ${path}: ${r.status} ${await r.text()}`);
  return (await r.json()) as T;
}
/** Makes a profile of a project that renders in a second what is looked at for its light alone. @returns its id */
export async function smallProfile(base: string, projectId: string): Promise<string> {
  const { own } = await ask<{ own: Record<string, unknown>[] }>(base, 'GET', '/api/profiles');
  const { id: _, ...sketch } = own[0]!;
  const profileId = randomUUID();
  const settings = { ...sketch, name: 'Small', widthPx: 240, samples: 8 };
  await ask(base, 'PUT', `/api/projects/${projectId}/profiles/${profileId}`, settings);
  return profileId;
}
export async function until(what: () => Promise<boolean>, seconds = 60): Promise<void> {
  for (const end = Date.now() + seconds * 1000; Date.now() < end; await new Promise((r) => setTimeout(r, 200)))
    if (await what()) return;
  throw new Error('It did not come to that in time.');
}
