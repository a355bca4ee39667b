// Bad requests of every kind, at every route: a clear answer, nothing half-written, and the process stays up.
import { ROUTES, type RouteSpec, type Project } from '@variscen/contract';
import { request } from 'node:http';
import fc from 'fast-check';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { type Fixture, TOKEN, projectWithScene, smallScene, startFixture } from './fixture.ts';

let f: Fixture, p: Project, before: Project;
const routes = (Object.entries(ROUTES) as [string, RouteSpec][]).filter(([, r]) => !r.node && r.path !== '/api/events');
const STRANGER = '00000000-0000-4000-8000-000000000000';
const HOSTILE_TEXT = [
  "'; DROP TABLE renders; --",
  '../../../etc/passwd',
  '\u0000',
  '\ud800',
  '<script>alert(1)</script>',
  '𝔗𝔢𝔞'.repeat(200),
  '%00',
  '{{constructor}}',
  '__proto__',
];

/** What a parameter of that name is in this project. */
const known = (name: string): string =>
  ({
    projectId: p.id,
    cameraId: p.cameras[0]!.id,
    variantId: p.variants[0]!.id,
    optionId: p.options[0]!.id,
    revisionId: p.revision!.id,
    hash: p.revision!.sceneHash,
    stepId: '1',
    kind: 'png',
  })[name] ?? STRANGER;
const addressOf = (r: RouteSpec, value: (name: string) => string): string =>
  r.path.replace(/\{(\w+)\}/g, (_, name: string) => encodeURIComponent(value(name)));
const now = async (): Promise<Project> => f.ok<Project>('GET', `/api/projects/${p.id}`);

/** A refusal as it should be: of the asker's making, in words. */
async function refused(method: string, path: string, body?: unknown, what = ''): Promise<void> {
  const r = await f.call<{ code: string; message: string; remedy: string }>(method.toUpperCase(), path, body);
  expect(r.status, `${method} ${path} ${what} ${JSON.stringify(r.data)}`).toBeGreaterThanOrEqual(400);
  expect(r.status, `${method} ${path} ${what} ${JSON.stringify(r.data)}`).toBeLessThan(500);
  expect(r.data.message).toMatch(/\S/);
  expect(r.data.remedy).toMatch(/\S/);
  expect(r.data.message).not.toMatch(/\bat .*\.(ts|js):\d+|syntax error at|ENOENT|QueryFailed|undefined/);
}

beforeAll(async () => {
  f = await startFixture();
  p = await projectWithScene(f, 'Besieged');
  await f.ok('POST', `/api/projects/${p.id}/options`, {
    facet: 'lighting',
    name: 'Dim',
    changes: [{ target: 'light:Lamp', property: 'light.intensity', value: 2 }],
  });
  before = p = await now();
});
afterAll(async () => {
  // whatever was asked: what is kept is what was kept before, and the server is well
  expect(await now()).toEqual(before);
  expect(
    (await f.call<{ parts: { name: string; ok: boolean }[] }>('GET', '/api/health')).data.parts
      .filter((x) => x.name !== 'render node')
      .every((x) => x.ok),
  ).toBe(true);
  await f?.close();
});

describe('a body of another shape', () => {
  it.each(routes.filter(([, r]) => r.body))('is refused by %s', async (_name, r) => {
    for (const junk of [
      'null',
      '[]',
      '7',
      '"text"',
      '{"name":{"$ne":null}}',
      '{"__proto__":{"x":1}}',
      '{"kettle":1}',
      '{',
    ])
      await refused(r.method, addressOf(r, known), junk, junk);
  });
  it('is refused by routes that set values, whatever JSON it is', async () => {
    const paths = [
      ['post', `/api/projects/${p.id}/pending`],
      ['post', `/api/projects/${p.id}/recorded`],
      ['put', `/api/projects/${p.id}/options/order`],
      ['post', `/api/projects/${p.id}/variants/combine`],
      ['post', `/api/projects/${p.id}/plan`],
    ] as const;
    await fc.assert(
      fc.asyncProperty(fc.constantFrom(...paths), fc.jsonValue(), async ([method, path], junk) => {
        await refused(method, path, JSON.stringify({ junk }));
      }),
      { numRuns: 40 },
    );
  });
  it('that is not text is refused', async () => {
    await refused('post', '/api/projects', new Uint8Array([0xff, 0xfe, 0x00, 0x7b]));
  });
  it('that is nested a hundred thousand deep is refused', async () => {
    const deep = `${'['.repeat(100_000)}${']'.repeat(100_000)}`;
    await refused('post', '/api/projects', `{"name":${deep}}`);
    await refused('patch', `/api/projects/${p.id}`, `{"kettle":${deep}}`);
  });
  it('that is far too long is refused', async () => {
    const r = await f.call('POST', '/api/projects', JSON.stringify({ name: 'x'.repeat(80_000_000) }));
    expect(r.status).toBe(413);
    expect(r.data.message).toMatch(/large|long/i);
  });
});

describe('an address', () => {
  it.each(routes.filter(([, r]) => r.params && r.path.includes('{')))(
    'of something that is not there is refused by %s',
    async (_name, r) => {
      const names = [...r.path.matchAll(/\{(\w+)\}/g)].map((m) => m[1]!);
      for (const text of HOSTILE_TEXT.filter((t) => t !== '\ud800'))
        await refused(
          r.method,
          addressOf(r, (name) => (name === names.at(-1) ? text : known(name))),
          r.body && {},
          text,
        );
    },
  );
  it.each(
    routes
      .filter(([, r]) => r.method === 'delete' || r.method === 'get')
      .filter(([, r]) => r.path.includes('{projectId}')),
  )('of a project that is not there is refused by %s', async (_name, r) => {
    await refused(
      r.method,
      `${addressOf(r, (name) => (name === 'projectId' ? STRANGER : known(name)))}${r.path.endsWith('/looks') ? `?options=${STRANGER}` : ''}`,
    );
  });
  it('that leads out of the folder of contents is refused', async () => {
    for (const path of [
      '/api/assets/..%2f..%2f..%2fetc%2fpasswd',
      '/api/assets/%2e%2e/%2e%2e',
      '/api/../../etc/passwd',
      '/api/assets/' + '0'.repeat(63),
      '/api/renders/..%2f..%2f/files/png',
    ]) {
      expect((await fetch(f.base + path)).status).toBeGreaterThanOrEqual(400);
    }
  });
});

describe('names and notes', () => {
  it.each(HOSTILE_TEXT)('%j are either refused or kept to the letter', async (text) => {
    const at = `/api/projects/${p.id}/options`;
    const r = await f.call<{ id: string; name: string; message?: string }>('POST', at, { facet: 'grade', name: text });
    if (r.status !== 200) {
      expect(r.status).toBe(400);
      return;
    }
    const kept = (await now()).options.find((o) => o.id === r.data.id)!;
    expect(kept.name).toBe(text.trim());
    await f.ok('POST', `/api/projects/${p.id}/undo`);
    expect((await now()).options).toEqual(before.options);
    before = { ...before, history: (await now()).history }; // it could be done again
  });
});

describe('values', () => {
  const bad: readonly (readonly [string, unknown])[] = [
    ['not a number', 'bright'],
    ['below its range', -1],
    ['beyond what there can be', 1e308],
    ['three where one is meant', [1, 2, 3]],
    ['none', null],
  ];
  it.each(bad)('%s are refused, with the range or kind that is meant', async (_what, value) => {
    for (const route of ['pending', 'recorded'])
      await refused('post', `/api/projects/${p.id}/${route}`, {
        destination: 'base',
        set: [{ target: 'light:Lamp', property: 'light.intensity', value }],
      });
  });
  it('of which one is bad are refused together', async () => {
    const good = { target: 'light:Lamp', property: 'light.on', value: false };
    await refused('post', `/api/projects/${p.id}/recorded`, {
      destination: 'base',
      set: [good, { ...good, property: 'light.intensity', value: -2 }],
    });
    expect((await now()).base).toEqual([]);
  });
  it('of cameras that no lens has are refused by name', async () => {
    const c = p.cameras[0]!;
    const at = `/api/projects/${p.id}/cameras/${c.id}`;
    for (const wrong of [
      { focalLengthMm: 0 },
      { focalLengthMm: 1e9 },
      { widthPx: 0 },
      { widthPx: 1.5 },
      { widthPx: 1e7 },
      { nearM: 0 },
      { nearM: 50, farM: 2 },
      { fStop: -1 },
      { matrix: [1, 2, 3] },
      { matrix: Array(16).fill(null) },
      { projection: 'fisheye' },
      { crop: { left: 60, right: 40, top: 0, bottom: 100 } },
    ]) {
      await refused('patch', at, { settings: { ...c.settings, ...wrong } }, JSON.stringify(wrong));
    }
  });
  it('that lead file names out of their folder are refused', async () => {
    for (const nameTemplate of [
      '../{camera}',
      '/etc/{camera}',
      '{camera}/../../x',
      'C:\\{camera}',
      '',
      '{nothing}',
      'a\u0000b',
      '{camera}'.repeat(400),
    ])
      await refused('patch', `/api/projects/${p.id}`, { nameTemplate }, nameTemplate);
  });
  it('of other projects are refused', async () => {
    const other = await f.ok<Project>('POST', '/api/projects', { name: 'Neighbour' });
    const theirs = await f.ok<{ id: string }>('POST', `/api/projects/${other.id}/options`, {
      facet: 'lighting',
      name: 'Theirs',
    });
    await refused('post', `/api/projects/${p.id}/variants`, { optionIds: [theirs.id] });
    await refused('post', `/api/projects/${p.id}/pending`, {
      destination: `option:${theirs.id}`,
      set: [{ target: 'light:Lamp', property: 'light.on', value: false }],
    });
    await refused('delete', `/api/projects/${p.id}/options/${theirs.id}`);
    await refused('patch', `/api/projects/${p.id}/options/${theirs.id}`, { name: 'Mine' });
    await refused('post', `/api/projects/${p.id}/plan`, {
      cells: [
        {
          cameraId: p.cameras[0]!.id,
          variantId: (await f.ok<Project>('GET', `/api/projects/${other.id}`)).variants[0]!.id,
        },
      ],
      profileId: 'sketch',
    });
    await f.ok('DELETE', `/api/projects/${other.id}`);
  });
});

describe('files', () => {
  const send = (path: string, fileName: string, bytes: Uint8Array) =>
    refused('post', `${path}?fileName=${encodeURIComponent(fileName)}`, bytes, fileName);
  const text = (s: string) => new TextEncoder().encode(s);
  it('that are not what they are called are refused by name, whatever they are brought in as', async () => {
    const junk = Uint8Array.from({ length: 5000 }, (_, i) => (i * 7919) & 255);
    for (const bytes of [
      new Uint8Array(0),
      junk,
      text('#?RADIANCE\nFORMAT=32-bit_rle_rgbe\n\n-Y 99999999 +X 99999999\n'),
      text('LUT_3D_SIZE 4096\n0 0 0\n'),
    ]) {
      await send('/api/assets', 'plate.png', bytes);
      await send('/api/environments', 'sky.hdr', bytes);
      await send('/api/environments', 'sky.exr', bytes);
      await send('/api/luts', 'evening.cube', bytes);
    }
  });
  it('with names that lead elsewhere are refused or kept under their last part', async () => {
    for (const name of ['', 'x'.repeat(300)])
      expect(
        (await f.call('POST', `/api/luts?fileName=${encodeURIComponent(name)}`, text('LUT_3D_SIZE 2\n'))).status,
      ).toBe(400);
    const cube = `LUT_3D_SIZE 2\n${Array.from({ length: 8 }, (_, i) => `${i & 1} ${(i >> 1) & 1} ${i >> 2}`).join('\n')}\n`;
    const kept = await f.ok<{ name: string }>(
      'POST',
      `/api/luts?fileName=${encodeURIComponent('../../evening.cube')}`,
      text(cube),
    );
    expect(kept.name).not.toMatch(/\.\.\//);
  });
  it('as scenes leave the project as it was, and it takes the next', async () => {
    const at = `/api/projects/${p.id}/scene`;
    const glb = new Uint8Array(await smallScene());
    const torn = glb.slice(0, glb.length >> 1);
    const claims = glb.slice();
    new DataView(claims.buffer).setUint32(8, 0xffffffff, true);
    await send(at, 'torn.glb', torn);
    await send(at, 'claims.glb', claims);
    await send(
      at,
      'words.gltf',
      text('{"asset":{"version":"2.0"},"buffers":[{"uri":"../../../etc/passwd","byteLength":10}]}'),
    );
    await send(at, 'old.gltf', text('{"asset":{"version":"1.0"}}'));
    await send(at, 'empty.zip', text('PK\u0005\u0006'));
    expect((await f.ok<unknown[]>('GET', `/api/projects/${p.id}/revisions`)).length).toBe(1);
  });
});

it('many at once, good and bad, are each answered', async () => {
  const asked = await Promise.all(
    Array.from({ length: 60 }, (_, i) => {
      if (i % 3 === 0) return f.call('GET', `/api/projects/${p.id}`);
      if (i % 3 === 1) return f.call('POST', '/api/projects', '{');
      return f.call('GET', `/api/projects/${STRANGER}`);
    }),
  );
  expect(asked.map((r) => r.status)).toEqual(Array.from({ length: 60 }, (_, i) => [200, 400, 404][i % 3]));
});

describe('any request', () => {
  const SEED = 20261128;
  const TRIES = 1000;
  const MOST_MS = 20_000;
  const all = (Object.entries(ROUTES) as [string, RouteSpec][]).filter(
    ([, r]) => !['/api/events', '/api/health'].includes(r.path),
  );
  const strange = fc.oneof(
    fc.constantFrom<unknown>(null, '', 0, -1, 1e300, true, [], {}, [null], 'x'.repeat(5000), ['a'], { a: 1 }, STRANGER),
    fc.jsonValue({ maxDepth: 2 }),
  );
  const keysOf = (schema: unknown): string[] => Object.keys((schema as { shape?: object } | undefined)?.shape ?? {});
  /** What is given for a key: often what is there, sometimes anything. */
  const given = (key: string) =>
    fc.oneof(
      fc.constant(known(key)),
      strange.map((v) => (typeof v === 'string' ? v : JSON.stringify(v))),
      fc.string(),
    );

  it('is answered in time, by a code that is not INTERNAL, and in plain words', { timeout: 300_000 }, async () => {
    await fc.assert(
      fc.asyncProperty(
        fc.constantFrom(...all.map(([name]) => name)),
        fc.infiniteStream(fc.nat()),
        strange,
        fc.boolean(),
        async (name, n, body, asNode) => {
          const r = ROUTES[name as keyof typeof ROUTES] as RouteSpec;
          // deletes nothing that the others need
          if (r.method === 'delete' || name === 'goToStep' || name === 'undo' || name === 'redo') return;
          const pick = <T>(arbitrary: fc.Arbitrary<T>): T =>
            fc.sample(arbitrary, { seed: n.next().value as number, numRuns: 1 })[0]!;
          const path = addressOf(r, (key) => pick(given(key)) || 'x');
          const query = keysOf(r.query).map((k) => `${k}=${encodeURIComponent(pick(given(k)))}`);
          const fields = keysOf(r.body).map((k) => [k, pick(strange)] as const);
          const some = pick(fc.boolean()) ? Object.fromEntries(fields) : body;
          const sent = r.body && r.method !== 'get' ? some : undefined;
          const controller = new AbortController();
          const late = setTimeout(() => controller.abort(), MOST_MS);
          const response = await fetch(`${f.base}${path}${query.length ? `?${query.join('&')}` : ''}`, {
            method: r.method.toUpperCase(),
            headers: {
              ...(sent !== undefined && { 'content-type': 'application/json' }),
              ...(asNode && { authorization: `Bearer ${TOKEN}` }),
            },
            ...(sent !== undefined && { body: JSON.stringify(sent) }),
            signal: controller.signal,
          }).finally(() => clearTimeout(late));
          const text = await response.text();
          if (response.status < 400) return;
          const said = JSON.parse(text) as { code: string; message: string };
          expect(said.code, `${name} ${path} ${query.join('&')} ${JSON.stringify(sent)?.slice(0, 300)}`).not.toBe(
            'INTERNAL',
          );
          expect(said.message).not.toMatch(/undefined|is not a function|read properties|\bat \/|QueryFailed/);
        },
      ),
      { numRuns: TRIES, seed: SEED },
    );
    // what a request may have made is taken away again, so that what was there is there
    for (const { id } of await f.ok<{ id: string }[]>('GET', '/api/projects'))
      if (id !== p.id) await f.ok('DELETE', `/api/projects/${id}`);
    for (let now = await f.ok<Project>('GET', `/api/projects/${p.id}`); now.history.undo !== before.history.undo;) {
      await f.ok('POST', `/api/projects/${p.id}/undo`);
      now = await f.ok<Project>('GET', `/api/projects/${p.id}`);
    }
    // it could be done again
    before = { ...before, history: (await f.ok<Project>('GET', `/api/projects/${p.id}`)).history };
  });

  it.each<[string, string, RequestInit & { raw?: true }, number]>([
    ['with a lone percent sign', '/api/projects/%', {}, 400],
    ['with half a letter', '/api/projects/%E0%A4%A', {}, 400],
    ['for a part past the end', '/', { headers: { range: 'bytes=99999999-' } }, 0],
    [
      'in a character set that nobody knows',
      '/api/projects',
      { method: 'POST', body: '{}', headers: { 'content-type': 'application/json; charset=klingon' } },
      400,
    ],
    [
      'packed in a way that nobody knows',
      '/api/projects',
      { method: 'POST', body: '{}', headers: { 'content-type': 'application/json', 'content-encoding': 'squeeze' } },
      400,
    ],
    [
      'with a damaged gzip',
      '/api/projects',
      { method: 'POST', body: 'not gzip', headers: { 'content-type': 'application/json', 'content-encoding': 'gzip' } },
      400,
    ],
  ])('%s is refused in words', async (_what, path, init, status) => {
    const response = await fetch(`${f.base}${path}`, init);
    const said = (await response.json().catch(() => ({ code: 'none', message: '' }))) as {
      code: string;
      message: string;
    };
    expect(said.code).not.toBe('INTERNAL');
    if (status) expect([response.status, said.message.length > 10]).toEqual([status, true]);
  });

  it('under another name than this machine’s own is refused, whatever it asks for', async () => {
    for (const headers of [
      { host: 'evil.example' },
      { host: 'evil.example', origin: 'http://evil.example' },
      { origin: 'http://evil.example' },
    ]) {
      const status = await new Promise<number>((resolve, reject) => {
        const { port } = new URL(f.base);
        request({ host: '127.0.0.1', port, path: '/api/projects', headers }, (r) => {
          r.resume();
          resolve(r.statusCode!);
        })
          .on('error', reject)
          .end();
      });
      expect([headers, status]).toEqual([headers, 403]);
    }
  });
});

describe('things that were just deleted', () => {
  it('are said to be gone by whatever still works on them', async () => {
    const gone = await projectWithScene(f, 'Soon gone');
    const at = `/api/projects/${gone.id}`;
    const offered = await f.ok<{ id: string }>('POST', `${at}/scene?fileName=newer.glb`, await smallScene());
    const asked = [
      f.call('POST', `${at}/revisions/${offered.id}/match`, { byHand: [] }),
      f.call('POST', `${at}/revisions/${offered.id}/accept`, { byHand: [], addCameras: [], moveCameraIds: [] }),
      f.call('POST', `${at}/scene?fileName=again.glb`, await smallScene()),
    ];
    await f.ok('DELETE', at);
    for (const answer of await Promise.all(asked)) {
      if (answer.status === 200) continue; // it was quicker
      expect(answer.data.code).not.toBe('INTERNAL');
      expect(answer.status).toBeLessThan(500);
    }
    expect((await f.call('POST', `${at}/pending`, { destination: 'base', set: [] })).data.code).toBe('NOT_FOUND');
  });
});
