// One trace that is long enough to be cut, and machines that render it as processes of their own.
import type { ChildProcess } from 'node:child_process';
import { randomUUID } from 'node:crypto';
import { readFile } from 'node:fs/promises';
import { join } from 'node:path';
import { setTimeout as sleep } from 'node:timers/promises';
import type { Batch, MachineToken, Project, Queue, QueueTrace, Render, RenderNode } from '@variscen/contract';
import sharp from 'sharp';
import { expect } from 'vitest';
import { exrData } from './exrData.ts';
import { type Fixture, cellOf, projectWithScene } from './fixture.ts';
import { end, startNode } from './nodeProcess.ts';

const SHORT = { VARISCEN_LOOK_S: '0.01', VARISCEN_SLICE_S: '0.1', VARISCEN_THREADS: '1' };

export interface Taken {
  readonly shown: Buffer;
  readonly pixels: Buffer;
}

export class LargeTrace {
  private readonly nodes: ChildProcess[] = [];
  private batchId = '';
  private constructor(
    readonly f: Fixture,
    readonly p: Project,
    private readonly profileId: string,
  ) {}

  static async of(f: Fixture, name: string): Promise<LargeTrace> {
    const small = await projectWithScene(f, name);
    const camera = small.cameras[0]!;
    await f.ok('PATCH', `/api/projects/${small.id}/cameras/${camera.id}`, {
      settings: { ...camera.settings, widthPx: 210, heightPx: 280 },
    });
    const profiles = await f.ok<{ own: Record<string, unknown>[] }>('GET', '/api/profiles');
    const { id: _, ...sketch } = profiles.own[0]!;
    const large = { ...sketch, name: 'Large', widthPx: 210, samples: 18, timeLimitS: null, denoise: 0, noise: 0.001 };
    const profileId = randomUUID();
    await f.ok('PUT', `/api/projects/${small.id}/profiles/${profileId}`, large);
    return new LargeTrace(f, await f.ok('GET', `/api/projects/${small.id}`), profileId);
  }

  async submit(profileId = this.profileId): Promise<void> {
    const body = { cells: [cellOf(this.p)], profileId };
    this.batchId = (await this.f.ok<Batch>('POST', `/api/projects/${this.p.id}/batches`, body)).id;
  }
  /** The one that was submitted last. */
  async newest(): Promise<QueueTrace> {
    const { traces } = await this.f.ok<Queue>('GET', '/api/queue');
    return traces.find((trace) => trace.batchId === this.batchId)!;
  }
  async doneSlices(): Promise<number> {
    return (await this.newest()).slices.filter((s) => s.state === 'done').length;
  }
  async done(seconds = 120): Promise<void> {
    await until(async () => (await this.newest()).state === 'done', seconds);
  }
  /** The latest picture, shown and as it was traced. */
  async picture(): Promise<Taken> {
    const { cameraId, variantId } = cellOf(this.p);
    const renders = await this.f.ok<Render[]>('GET', `/api/projects/${this.p.id}/cells/${cameraId}/${variantId}`);
    const files = renders[0]!.files;
    const file = (kind: string) => readFile(join(this.f.home, 'output', files.find((x) => x.kind === kind)!.path));
    const shown = await sharp(await file('png'))
      .raw()
      .toBuffer();
    return { shown, pixels: exrData(await file('exr')) };
  }
  async isAs(before: Taken): Promise<void> {
    const now = await this.picture();
    expect(now.shown.equals(before.shown)).toBe(true);
    expect(now.pixels.equals(before.pixels)).toBe(true);
    // they go when the trace is done
    await until(async () => (await this.f.running.db.query<unknown[]>('SELECT id FROM slice')).length === 0);
  }

  machines(): Promise<RenderNode[]> {
    return this.f.ok<RenderNode[]>('GET', '/api/nodes');
  }
  async machine(name: string): Promise<RenderNode | undefined> {
    return (await this.machines()).find((m) => m.name === name);
  }
  add(name: string): Promise<MachineToken> {
    return this.f.ok<MachineToken>('POST', '/api/nodes', { name });
  }
  /** @param base by which it reaches the server */
  async joined(name: string, more: Record<string, string> = {}, base = this.f.base): Promise<ChildProcess> {
    const { token } = await this.add(name);
    const own = { VARISCEN_NODE_TOKEN: token, VARISCEN_NODE_NAME: name };
    const node = startNode(join(this.f.home, name), base, { ...SHORT, ...own, ...more });
    this.nodes.push(node);
    await until(async () => (await this.machine(name))?.state === 'idle');
    return node;
  }
  /** Ends all that joined, and withdraws their tokens. */
  async leaveAll(): Promise<void> {
    for (const node of this.nodes.splice(0)) if (node.exitCode === null && node.signalCode === null) await end(node);
    for (const { name, isOwn } of await this.machines())
      if (!isOwn) await this.f.call('DELETE', `/api/nodes?name=${name}`);
  }
}

export async function until(what: () => Promise<boolean>, seconds = 60): Promise<void> {
  for (const over = performance.now() + seconds * 1000; performance.now() < over; await sleep(50))
    if (await what()) return;
  throw new Error('It did not come to that.');
}
