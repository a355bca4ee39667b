// Renders one leased trace: fetches what it needs, loads the engine, reports, delivers files. Everything it holds is given back at the end.
import { unpackMap } from '@variscen/core/environment';
import type { Lease, TraceResult } from '@variscen/contract';
import { type Grade, type Lut, toDisplay, unpackLut, writeExr } from '@variscen/core/image';
import { type Change, SceneIndex, gradeOf, resolve } from '@variscen/core/looks';
import { type SceneDocument, animationData, croppedPx, poseFor, unpackDeform, unpackGeometry } from '@variscen/core/scene';
import { type Engine, EngineError, type MeshCache, attach, engineCamera, finish, platePixels, select, settingsOf } from '@variscen/engine';
import { openNodeEngine } from '@variscen/engine/node';
import sharp from 'sharp';
import { decodeTexture } from '../files/decodeTexture.ts';
import type { ServerClient } from './client.ts';
import { resetPeak, peakBytes } from './peakMemory.ts';

const REPORT_MS = 700, PREVIEW_MS = 1500, THUMBNAIL_PX = 480;

export interface Machine {
  readonly threads: number;
  /** What a job and what is kept from earlier jobs may take together. */
  readonly budgetBytes: number;
  readonly meshCache: MeshCache;
}

export async function renderTrace(client: ServerClient, lease: Lease, { threads, budgetBytes, meshCache }: Machine, stopped: AbortSignal): Promise<void> {
  const lost = new AbortController(), signal = AbortSignal.any([lost.signal, stopped]);
  let fraction = 0, samples = 0, lastPreview = 0, previewing: Promise<void> = Promise.resolve();
  const report = setInterval(() => void client.progress(lease, fraction, samples).then((goOn) => { if (!goOn) lost.abort(); }, () => undefined), REPORT_MS);
  let engine: Engine | undefined; // opened inside the try: a failure there must not leave the lease being renewed for ever
  try {
    await resetPeak();
    const opened = (engine = await openNodeEngine(threads, false, meshCache));
    const document = JSON.parse(new TextDecoder().decode(await client.asset(lease.sceneHash))) as SceneDocument, scene = new SceneIndex(document), stateOf = (changes: Change[]) => resolve(scene, [{ id: 'snapshot', name: '', kind: 'base', changes }]);
    const pose = poseFor(document, await animationData(document, (hash) => client.asset(hash)), lease.camera), selection = select(pose, stateOf(lease.changes as Change[]));
    const { widthPx, heightPx, profile } = lease, engineScene = await attach(selection, {
      geometry: async (i) => { const m = document.meshes[i]!; return unpackGeometry(await client.asset(m.blob), m); },
      deform: async (i) => { const m = document.meshes[i]!; return unpackDeform(await client.asset(m.deform!.blob), m.deform!, m.vertices); },
      pixels: async (t) => decodeTexture(t, await client.asset(t.blob)),
      environment: async (sky) => unpackMap(await client.asset(sky.hash), sky),
    }, profile.displacement, heightPx);
    const settings = settingsOf(profile, { widthPx, heightPx }, selection), part = croppedPx(lease, lease.camera.crop);
    const plan = await opened.load(engineScene, settings, budgetBytes);
    const grades = await Promise.all(lease.cells.map(async (c): Promise<Graded> => { const grade = gradeOf(stateOf(c.changes as Change[])); return { grade, lut: grade.lut ? unpackLut(await client.asset(grade.lut.hash), grade.lut) : undefined }; }));
    const stats = await opened.render({
      camera: engineCamera(pose.now.camera), nextCamera: pose.next && engineCamera(pose.next.camera), samples: profile.samples, timeLimitS: profile.timeLimitS ?? undefined, signal, onProgress: (p) => { fraction = p.fraction; samples = p.samplesDone; },
      onPass: async () => {
        if (Date.now() - lastPreview < PREVIEW_MS) return;
        lastPreview = Date.now();
        await previewing;
        const film = opened.picture().rgba;
        previewing = thumbnail(film, grades[0]!, part.widthPx, part.heightPx).then((png) => client.preview(lease, png)).catch(() => undefined);
      },
    });
    await previewing;
    const { film, channels, metadata } = await finish(opened, selection, profile, lease.camera, signal, await platePixels(selection, async (t) => decodeTexture(t, await client.asset(t.blob))));
    for (const [i, cell] of lease.cells.entries()) {
      signal.throwIfAborted();
      await client.file(lease, i, 'exr', writeExr({ width: part.widthPx, height: part.heightPx, within: { left: part.left, top: part.top, width: widthPx, height: heightPx }, channels, metadata: { ...cell.metadata, ...metadata, 'variscen:samples': String(stats.samples), 'variscen:meanSamples': stats.meanSamples.toFixed(2) } }));
      await client.file(lease, i, 'png', await sharp(toDisplay(film, grades[i]!.grade, grades[i]!.lut), { raw: { width: part.widthPx, height: part.heightPx, channels: 3 } }).png().toBuffer());
      await client.file(lease, i, 'thumbnail', await thumbnail(film, grades[i]!, part.widthPx, part.heightPx));
    }
    const result: TraceResult = { token: lease.token, samples: stats.samples, seconds: stats.seconds, rays: stats.rays, paths: stats.paths, plannedBytes: plan.bytes, peakBytes: await peakBytes(), droppedObjects: selection.verdicts.filter((v) => !v.keep && v.reason === 'off-frame').length };
    await client.complete(lease, result);
  } catch (e) {
    if (signal.aborted) return; // cancelled or taken over: nobody waits for this attempt
    await client.fail(lease, e instanceof EngineError || e instanceof Error ? e.message : String(e));
  } finally {
    clearInterval(report);
    await engine?.close();
  }
}

interface Graded { readonly grade: Grade; readonly lut: Lut | undefined }
const thumbnail = (film: Float32Array, { grade, lut }: Graded, width: number, height: number): Promise<Uint8Array> =>
  sharp(toDisplay(film, grade, lut), { raw: { width, height, channels: 3 } }).resize({ width: THUMBNAIL_PX, height: THUMBNAIL_PX, fit: 'inside', withoutEnlargement: true }).png().toBuffer();
