// A server on a PostgreSQL and a data folder of its own, and a small scene to bring in.
import { randomUUID } from 'node:crypto';
import { existsSync } from 'node:fs';
import { mkdtemp, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import type { Project } from '@variscen/contract';
import sharp from 'sharp';
import { Document, WebIO } from '@gltf-transform/core';
import { KHRLightsPunctual, KHRMaterialsTransmission, KHRMaterialsVolume, Light } from '@gltf-transform/extensions';
import type { Config } from '../src/config.ts';
import { Cameras, Projects } from '../src/db/entities/index.ts';
import { History } from '../src/domain/history.ts';
import { startPostgres } from '../src/main/postgres.ts';
import { MeshCache } from '@variscen/engine';
import { type HelloOfNode, ServerClient } from '../src/node/client.ts';
import { ExrFiles } from '../src/node/encode/exrFile.ts';
import { FinishedTraces } from '../src/node/finishedTraces.ts';
import type { Machine } from '../src/node/machine.ts';
import { SLICE_TIMES } from '../src/node/slicedFilm.ts';
import { StoredParts } from '../src/files/storedParts.ts';
import { type Running, startServer } from '../src/serve.ts';
import { emptyDatabase, type OwnDatabase } from './databases.ts';

export const TOKEN = 'a-token-for-tests';
export const ENGINE = 'the engine of the tests';

/** What a node of the tests says of itself. */
export const helloOf = (threads: number, restBytes: number, engine = ENGINE): HelloOfNode => ({
  threads,
  restBytes,
  engine,
  budgetBytes: 2 ** 31,
  instance: randomUUID(),
});

/* eslint-disable @typescript-eslint/no-explicit-any -- tests look at what comes back */
export interface Fixture {
  readonly home: string;
  readonly base: string;
  readonly running: Running;
  readonly node: ServerClient;
  readonly machine: Machine;
  database: OwnDatabase;
  call<T = any>(
    method: string,
    path: string,
    body?: unknown,
    headers?: Record<string, string>,
  ): Promise<{ status: number; data: T }>;
  ok<T = any>(method: string, path: string, body?: unknown): Promise<T>;
  close(): Promise<void>;
}

/* eslint-enable @typescript-eslint/no-explicit-any */

/** Of a fixture whose PostgreSQL is its own. */
export const clusterFolder = (home: string): string => join(home, 'database');

const configOf = (home: string, databaseUrl: string): Config => ({
  home,
  port: 0,
  databaseUrl,
  nodeToken: TOKEN,
  webFolder: null,
  engineBuild: null,
  memoryBudgetBytes: 2 ** 31,
  taskNiceness: 0, // other tests are at work, for which nobody waits
});
const logErrors = (message: string, error?: unknown): void => {
  if (error) process.stderr.write(`${message}: ${String(error)}\n`);
};

/** Makes the tables of a database as the server does at its first start. */
async function fill(databaseUrl: string): Promise<void> {
  const home = await mkdtemp(join(tmpdir(), 'variscen-test-'));
  const first = await startServer(configOf(home, databaseUrl), logErrors);
  await first.close();
  await rm(home, { recursive: true });
}

/** @param more settings of the server @param hasCluster whether its PostgreSQL is its own, for tests that end it */
export async function startFixture(more: Partial<Config> = {}, hasCluster = false): Promise<Fixture> {
  const home = await mkdtemp(join(tmpdir(), 'variscen-test-'));
  const database = hasCluster ? await startPostgres(clusterFolder(home), () => undefined) : await emptyDatabase(fill);
  const running = await startServer({ ...configOf(home, database.url), ...more }, logErrors);
  const base = `http://127.0.0.1:${running.port}`;
  const call: Fixture['call'] = async (method, path, body, headers) => {
    const bytes = body instanceof Uint8Array;
    const r = await fetch(base + path, {
      method,
      headers: {
        ...(body !== undefined && { 'content-type': bytes ? 'application/octet-stream' : 'application/json' }),
        ...headers,
      },
      ...(body !== undefined && {
        body: bytes || typeof body === 'string' ? (body as string | Uint8Array<ArrayBuffer>) : JSON.stringify(body),
      }),
    });
    return { status: r.status, data: await r.json() };
  };
  const finished = new FinishedTraces(join(home, 'node'));
  await finished.open();
  const node = new ServerClient(base, TOKEN, 'test node');
  const storedParts = new StoredParts(join(home, 'node'), ENGINE, 2 ** 30, () => undefined);
  await storedParts.open();
  const machine: Machine = {
    threads: 2,
    budgetBytes: 2 ** 31,
    content: node,
    meshCache: new MeshCache(2 ** 26),
    storedParts,
    exrFiles: new ExrFiles(2),
    finished,
    engineBuild: ENGINE,
    sliceTimes: SLICE_TIMES,
  };
  const fixture: Fixture = {
    home,
    base,
    running,
    machine,
    database,
    node,
    call,
    ok: async (method, path, body) => {
      const r = await call(method, path, body);
      if (r.status !== 200) throw new Error(`${method} ${path}: ${r.status} ${JSON.stringify(r.data)}`);
      return r.data as never;
    },
    close: async () => {
      await machine.exrFiles.close();
      await running.close();
      await fixture.database.stop();
      await rm(home, { recursive: true, force: true });
    },
  };
  return fixture;
}

/**
 * A sheet on a floor under a lamp, and a crate far outside the frame; one camera, 48 × 27 pixels in the Sketch profile.
 * Moving: in a second the sheet goes a metre to the right and twice as wide, and the camera half a metre back. With
 * relief: the wall has a texture “dents”. Bulb: the lamp stands in glass with a volume. Hills: the wall is 20,000
 * triangles. Ball: one of 18,432 triangles throws its shadow on the wall from outside the frame; alone: it is in the
 * frame, and there is nothing else; behind: but the sheet, which hides it. Painted: the wall shows a tenth of “dents”,
 * which has 1024 × 1024 pixels then.
 */
export async function smallScene({
  moving = false,
  relief = false,
  bulb = false,
  hills = false,
  painted = false,
  ball = false,
  alone = false,
  behind = false,
}: {
  moving?: boolean;
  relief?: boolean;
  bulb?: boolean;
  hills?: boolean;
  painted?: boolean;
  ball?: boolean;
  alone?: boolean;
  behind?: boolean;
} = {}): Promise<Uint8Array> {
  const doc = new Document();
  const buffer = doc.createBuffer();
  const lights = doc.createExtension(KHRLightsPunctual);
  const square = (name: string, material: string, color: [number, number, number]) =>
    doc.createMesh(name).addPrimitive(
      doc
        .createPrimitive()
        .setMaterial(
          doc
            .createMaterial(material)
            .setBaseColorFactor([...color, 1])
            .setMetallicFactor(0),
        )
        .setAttribute(
          'POSITION',
          doc
            .createAccessor()
            .setType('VEC3')
            .setArray(new Float32Array([-1, -1, 0, 1, -1, 0, 1, 1, 0, -1, 1, 0]))
            .setBuffer(buffer),
        )
        .setIndices(
          doc
            .createAccessor()
            .setType('SCALAR')
            .setArray(new Uint16Array([0, 1, 2, 0, 2, 3]))
            .setBuffer(buffer),
        ),
    );
  const scene = doc.createScene();
  scene.addChild(
    doc
      .createNode('Wall')
      .setMesh(square('Wall', 'Plaster', [0.6, 0.6, 0.6]))
      .setScale([4, 4, 4])
      .setTranslation([0, 0, -2]),
  );
  scene.addChild(
    doc
      .createNode('Sheet')
      .setMesh(square('Sheet', 'Cloth', [0.8, 0.1, 0.1]))
      .setScale([0.4, 0.4, 0.4]),
  );
  scene.addChild(
    doc
      .createNode('Crate far away')
      .setMesh(square('Crate', 'Wood', [0.4, 0.3, 0.2]))
      .setTranslation([200, 0, -5]),
  );
  scene.addChild(
    doc
      .createNode('Lamp')
      .setExtension('KHR_lights_punctual', lights.createLight('Lamp').setType(Light.Type.POINT!).setIntensity(20))
      .setTranslation([0.5, 1, 2]),
  );
  scene.addChild(
    doc
      .createNode('Front')
      .setTranslation([0, 0, 3])
      .setCamera(
        doc
          .createCamera('Front')
          .setType('perspective')
          .setYFov(0.8)
          .setAspectRatio(16 / 9)
          .setZNear(0.1)
          .setZFar(100),
      )
      .setExtras({ variscen_camera: { widthPx: 144, heightPx: 81 } }),
  );
  if (hills) {
    const wall = scene.listChildren()[0]!.getMesh()!.listPrimitives()[0]!;
    const { positions, indices } = hilly(100);
    wall.getAttribute('POSITION')!.setArray(positions);
    wall.getIndices()!.setArray(indices);
  }
  if (ball) {
    const mesh = square('Ball', 'Clay', [0.7, 0.5, 0.4]);
    const [part] = mesh.listPrimitives();
    const { positions, indices } = roundBall(96);
    part!.getAttribute('POSITION')!.setArray(positions);
    part!.getIndices()!.setArray(indices);
    scene.addChild(doc.createNode('Ball').setMesh(mesh).setScale([0.15, 0.15, 0.15]).setTranslation([0.6, 1.1, 1.6]));
  }
  if (alone) {
    const stays = behind ? ['Ball', 'Sheet'] : ['Ball'];
    for (const node of scene.listChildren()) if (node.getMesh() && !stays.includes(node.getName())) node.dispose();
    const named = (name: string) => scene.listChildren().find((n) => n.getName() === name);
    named('Ball')!.setTranslation([0, 0, 1]).setScale([0.6, 0.6, 0.6]);
    named('Sheet')?.setTranslation([0, 0, 2.2]);
  }
  if (relief || painted) {
    const wall = scene.listChildren()[0]!.getMesh()!.listPrimitives()[0]!;
    const px = painted ? 1024 : 8;
    const top = painted ? 0.1 : 1;
    const dents = await sharp(
      Uint8Array.from({ length: px * px * 3 }, (_, i) => (Math.floor(i / 3) % 3) * 127),
      { raw: { width: px, height: px, channels: 3 } },
    )
      .png()
      .toBuffer();
    wall
      .setAttribute(
        'TEXCOORD_0',
        doc
          .createAccessor()
          .setType('VEC2')
          .setArray(new Float32Array([0, top, top, top, top, 0, 0, 0]))
          .setBuffer(buffer),
      )
      .getMaterial()!
      .setBaseColorTexture(doc.createTexture('dents').setImage(new Uint8Array(dents)).setMimeType('image/png'));
  }
  if (bulb) {
    const mesh = square('Bulb', 'Glass', [1, 1, 1]);
    const part = mesh.listPrimitives()[0]!;
    part.getAttribute('POSITION')!.setArray(new Float32Array([-1, -1, -1, 1, -1, -1, 1, 1, 1, -1, 1, 1]));
    part
      .getMaterial()!
      .setRoughnessFactor(0)
      .setExtension(
        'KHR_materials_transmission',
        doc.createExtension(KHRMaterialsTransmission).createTransmission().setTransmissionFactor(1),
      )
      .setExtension(
        'KHR_materials_volume',
        doc.createExtension(KHRMaterialsVolume).createVolume().setThicknessFactor(0.01),
      );
    scene.addChild(
      doc
        .createNode('Bulb')
        .setMesh(mesh)
        .setScale([0.1, 0.1, 0.1])
        .setRotation([0, 0.6, 0, 0.8])
        .setTranslation([0.5, 1, 2]),
    );
  }
  if (moving) {
    const put = (values: number[], type: 'SCALAR' | 'VEC3') =>
      doc.createAccessor().setType(type).setArray(new Float32Array(values)).setBuffer(buffer);
    const animation = doc.createAnimation('Unroll');
    const node = (name: string) => scene.listChildren().find((n) => n.getName() === name)!;
    const move = (name: string, path: 'translation' | 'weights', values: number[]) => {
      const sampler = doc
        .createAnimationSampler()
        .setInput(put([0, 1], 'SCALAR'))
        .setOutput(put(values, path === 'weights' ? 'SCALAR' : 'VEC3'))
        .setInterpolation('LINEAR');
      animation
        .addSampler(sampler)
        .addChannel(doc.createAnimationChannel().setTargetNode(node(name)).setTargetPath(path).setSampler(sampler));
    };
    node('Sheet')
      .getMesh()!
      .listPrimitives()[0]!
      .addTarget(
        doc.createPrimitiveTarget('Wide').setAttribute('POSITION', put([-1, 0, 0, 1, 0, 0, 1, 0, 0, -1, 0, 0], 'VEC3')),
      );
    move('Sheet', 'translation', [0, 0, 0, 1, 0, 0]);
    move('Sheet', 'weights', [0, 1]);
    move('Front', 'translation', [0, 0, 3, 0, 0, 3.5]);
  }
  return new WebIO()
    .registerExtensions([KHRLightsPunctual, KHRMaterialsTransmission, KHRMaterialsVolume])
    .writeBinary(doc);
}

/** What an import made: the project as it was then, and the row of its revision. */
interface Imported {
  readonly project: Project;
  readonly revision: object;
}
const imported = new WeakMap<Fixture, Map<string, Imported>>();

/**
 * A project with the small scene, as an import makes it. A process that reads a scene takes most of a second: the
 * second project of a server with the same scene gets the rows that the import of the first one made.
 */
export async function projectWithScene(
  f: Fixture,
  name: string,
  what: Parameters<typeof smallScene>[0] = {},
): Promise<Project> {
  const { id } = await f.ok<Project>('POST', '/api/projects', { name });
  const read = () => f.ok<Project>('GET', `/api/projects/${id}`);
  const key = JSON.stringify(what);
  const known = imported.get(f) ?? new Map<string, Imported>();
  imported.set(f, known);
  const first = known.get(key);
  if (first && existsSync(assetPath(f, first.project.revision!.sceneHash))) {
    await takeOver(f, first, id);
    return read();
  }
  await f.ok('POST', `/api/projects/${id}/scene?fileName=small.glb`, await smallScene(what));
  const project = await read();
  const [row] = await f.running.db.query<{ revision: object }[]>(
    'SELECT to_jsonb(r) AS revision FROM scene_revision r WHERE project_id = $1',
    [id],
  );
  known.set(key, { project, revision: row!.revision });
  return project;
}
const assetPath = (f: Fixture, hash: string) => join(f.home, 'assets', hash.slice(0, 2), hash);

/** One step of the history, as RevisionService makes it of a first scene. */
async function takeOver(f: Fixture, { project, revision }: Imported, to: string): Promise<void> {
  const row = { ...revision, id: randomUUID(), project_id: to, created_at: new Date().toISOString() };
  await new History(f.running.db, () => new Date()).record(to, 'Import the scene small.glb', async (m) => {
    await m.query(`INSERT INTO scene_revision SELECT * FROM jsonb_populate_record(NULL::scene_revision, $1)`, [
      JSON.stringify(row),
    ]);
    await m.update(Projects, { id: to }, { revisionId: row.id });
    for (const camera of project.cameras)
      await m.insert(Cameras, { ...camera, id: randomUUID(), projectId: to } as never);
  });
}
export const cellOf = (p: Project, variant = 0, camera = 0) => ({
  cameraId: p.cameras[camera]!.id,
  variantId: p.variants[variant]!.id,
});

/** Of radius 1, in so many rows of so many squares. */
function roundBall(rows: number): { positions: Float32Array<ArrayBuffer>; indices: Uint16Array<ArrayBuffer> } {
  const positions: number[] = [];
  const indices: number[] = [];
  for (let j = 0; j <= rows; j++)
    for (let i = 0; i <= rows; i++) {
      const [down, about] = [(Math.PI * j) / rows, (2 * Math.PI * i) / rows];
      positions.push(Math.sin(down) * Math.cos(about), Math.cos(down), Math.sin(down) * Math.sin(about));
      const a = j * (rows + 1) + i;
      if (i < rows && j < rows) indices.push(a, a + 1, a + rows + 1, a + 1, a + rows + 2, a + rows + 1);
    }
  return { positions: Float32Array.from(positions), indices: Uint16Array.from(indices) };
}

/** A square of n × n squares with hills on it. */
function hilly(n: number): { positions: Float32Array<ArrayBuffer>; indices: Uint32Array<ArrayBuffer> } {
  const positions: number[] = [];
  const indices: number[] = [];
  for (let y = 0; y <= n; y++)
    for (let x = 0; x <= n; x++)
      positions.push((2 * x) / n - 1, (2 * y) / n - 1, 0.02 * Math.sin(x * 0.7) * Math.cos(y * 0.9));
  for (let y = 0; y < n; y++)
    for (let x = 0; x < n; x++) {
      const a = y * (n + 1) + x;
      indices.push(a, a + 1, a + n + 2, a, a + n + 2, a + n + 1);
    }
  return { positions: new Float32Array(positions), indices: new Uint32Array(indices) };
}
