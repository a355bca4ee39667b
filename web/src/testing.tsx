// What component tests stand on: the providers of the application, and the parts of a browser that jsdom lacks.
import { MantineProvider } from '@mantine/core';
import { QueryClient, QueryClientProvider } from '@tanstack/react-query';
import type { Board, Camera, Project, ProjectSummary, Variant } from '@variscen/contract';
import { IDENTITY, PLAIN_HANDLING, cameraForScene } from '@variscen/core/scene';
import { render } from '@testing-library/react';
import type { ReactNode } from 'react';
import { BrowserRouter, MemoryRouter, useLocation } from 'react-router';
import { vi } from 'vitest';
import { keys } from './api/queries.ts';

class NoObserver {
  observe(): void {}
  unobserve(): void {}
  disconnect(): void {}
}
vi.stubGlobal('ResizeObserver', NoObserver);
vi.stubGlobal('matchMedia', () => ({ matches: false, addEventListener() {}, removeEventListener() {} }));
Element.prototype.scrollIntoView = () => undefined;
Element.prototype.scrollTo = () => undefined;
// jsdom lays nothing out; what draws only what is in sight needs a size
Object.defineProperties(HTMLElement.prototype, {
  clientWidth: { get: () => 1280 },
  clientHeight: { get: () => 800 },
  offsetHeight: { get: () => 100 },
  offsetWidth: { get: () => 1280 },
});

// fields that grow with their text listen for fonts
Object.defineProperty(window.document, 'fonts', { value: { addEventListener() {}, removeEventListener() {} } });

export const id = (n: number): string => `${n.toString(16).padStart(8, '0')}-0000-4000-8000-000000000000`;

const document = { version: 1, nodes: [], meshes: [], materials: [], textures: [], cameras: [], lights: [] } as const;
export const camera = (n: number, name: string): Camera =>
  ({
    id: id(n),
    name,
    settings: { ...cameraForScene(document as never), matrix: IDENTITY },
    handling: PLAIN_HANDLING,
  }) as unknown as Camera;
export const variant = (n: number, name: string): Variant =>
  ({ id: id(n), name, namedByHand: true, optionIds: [], excludedCameraIds: [], notes: '' }) as unknown as Variant;

/** A project in the list of projects. */
export const summary: ProjectSummary = {
  id: id(1),
  name: 'Tea stall',
  createdAt: '2026-11-01T10:00:00.000Z',
  changedAt: '2026-11-02T10:00:00.000Z',
  cameras: 2,
  variants: 2,
  renders: 3,
  coverRenderId: null,
  hasScene: true,
  isDemo: false,
};

export const project: Project = {
  id: id(1),
  name: 'Tea stall',
  nameTemplate: '{camera}',
  variantTemplate: '{options}',
  revision: { id: id(2), number: 1, sceneHash: 'f'.repeat(64) },
  history: { undo: null, redo: null, last: '1' },
  base: [],
  pending: [],
  patches: [],
  sets: [],
  options: [],
  profiles: [],
  exceptions: [],
  acceptedWarnings: [],
  staysUnmet: true,
  cameras: [camera(11, 'Counter, close'), camera(12, 'Kettle square')],
  variants: [variant(21, 'Base'), variant(22, 'Paper lanterns')],
} as unknown as Project;

/** The board of a project of which nothing was rendered yet. */
export const boardOf = (project: Project): Board => ({
  cells: project.cameras.flatMap((c) =>
    project.variants.map((v) => ({
      cameraId: c.id,
      variantId: v.id,
      status: 'never' as const,
      render: null,
      fileFault: null,
      stands: false,
      differences: [],
      hash: c.id.replaceAll('-', '') + v.id.replaceAll('-', ''),
      trace: null,
      frames: null,
    })),
  ),
});

/** Requests that were made, by method and path. Each gets what is answered, or waits for ever. */
export function stubServer(answer: (what: string, body: unknown) => unknown = () => undefined): string[] {
  const asked: string[] = [];
  vi.stubGlobal('fetch', (path: string, init?: { method?: string; body?: string }) => {
    const what = `${init?.method ?? 'GET'} ${path}`;
    asked.push(what);
    const value = answer(what, init?.body === undefined ? undefined : JSON.parse(init.body));
    if (value instanceof Error) return Promise.reject(value);
    if (value === undefined) return new Promise(() => undefined);
    const bytes = new TextEncoder().encode(JSON.stringify(value)).buffer;
    return Promise.resolve({
      ...{ ok: true, status: 200 },
      json: () => Promise.resolve(value),
      arrayBuffer: () => Promise.resolve(bytes),
    });
  });
  return asked;
}

function Address() {
  const { pathname, search } = useLocation();
  return <code aria-label="address">{pathname + search}</code>;
}

/** Shows something of a place as the application does. @param isInBrowser its address is that of the window */
export function show(what: ReactNode, at = '/', isInBrowser = false) {
  if (isInBrowser) window.history.replaceState(null, '', at);
  const client = new QueryClient({ defaultOptions: { queries: { retry: false } } });
  client.setQueryData(keys.project(project.id), project);
  client.setQueryData(keys.board(project.id), boardOf(project));
  const shown = render(
    <MantineProvider env="test">
      <QueryClientProvider client={client}>
        {isInBrowser ? (
          <BrowserRouter useTransitions={false}>{what}</BrowserRouter>
        ) : (
          <MemoryRouter initialEntries={[at]}>
            {what}
            <Address />
          </MemoryRouter>
        )}
      </QueryClientProvider>
    </MantineProvider>,
  );
  return { client, ...shown };
}
