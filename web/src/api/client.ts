// Calls the HTTP API by the names of the contract's routes. Answers are trusted for their shape only after the schema
// said so.
import { type RouteAnswer, type RouteInput, type RouteName, type RouteSpec, ROUTES, pathOf } from '@variscen/contract';
import { beginWrite } from '../session/writes.ts';

export class ApiError extends Error {
  constructor(
    readonly code: string,
    message: string,
    readonly remedy: string,
  ) {
    super(message);
    this.name = 'ApiError';
  }
}

export { pathOf };

/** This window, as the history of a project knows it. */
export const TAB = `${Date.now().toString(36)}-${Math.random().toString(36).slice(2, 10)}`;
/**
 * By project: the last change in its history that this window has seen. A change of what another window did later is
 * refused.
 */
const seen = new Map<string, string>();
function noteSeen(answer: unknown): void {
  const o = answer as { project?: unknown; id?: unknown; history?: { last?: unknown } } | null;
  const p = (o && typeof o === 'object' && 'project' in o ? o.project : o) as
    { id?: unknown; history?: { last?: unknown } } | null | undefined;
  if (typeof p?.id === 'string' && typeof p.history?.last === 'string') seen.set(p.id, p.history.last);
}

/** They are posted since they carry much, and change nothing. */
const QUESTIONS: ReadonlySet<RouteName> = new Set([
  'plan',
  'planDelivery',
  'planDevelop',
  'fitCull',
  'matchLooks',
  'matchRevision',
]);

export async function call<N extends RouteName>(
  name: N,
  input: RouteInput<N> & { signal?: AbortSignal },
): Promise<RouteAnswer<N>> {
  const route: RouteSpec = ROUTES[name];
  const { body, params, query, signal } = input as {
    body?: unknown;
    params?: Record<string, string>;
    query?: Record<string, string>;
    signal?: AbortSignal;
  };
  const known = seen.get(params?.['projectId'] ?? '');
  const headers = {
    ...(body !== undefined && { 'content-type': 'application/json' }),
    ...(route.method !== 'get' && {
      'x-variscen-tab': TAB,
      ...(known !== undefined && { 'x-variscen-seen': known }),
    }),
  };
  const projectId = params?.['projectId'];
  const written =
    route.method !== 'get' && !QUESTIONS.has(name) && projectId !== undefined ? beginWrite(projectId) : undefined;
  const response = await fetch(pathOf(name, params) + (query ? `?${new URLSearchParams(query)}` : ''), {
    method: route.method.toUpperCase(),
    headers,
    ...(body !== undefined && { body: JSON.stringify(body) }),
    ...(signal && { signal }),
  })
    .catch((e: unknown) => {
      if (signal?.aborted) throw e;
      throw new ApiError('UNREACHABLE', 'The server does not answer.', 'See whether ./start still runs.');
    })
    .finally(written);
  return answer(name, response);
}

interface Download {
  readonly params: Record<string, string>;
  readonly query?: Record<string, string>;
  readonly body?: unknown;
  readonly signal?: AbortSignal;
}
/** What a route makes, as bytes. It changes nothing. */
export const download = async (name: RouteName, what: Download): Promise<ArrayBuffer> =>
  (await downloaded(name, what)).arrayBuffer();
/** As it is answered: a large one need not be in the page's memory. @throws ApiError of a refusal */
export async function downloaded(name: RouteName, { params, query, body, signal }: Download): Promise<Response> {
  const response = await fetch(pathOf(name, params) + (query ? `?${new URLSearchParams(query)}` : ''), {
    method: ROUTES[name].method.toUpperCase(),
    headers: { 'x-variscen-tab': TAB, ...(body !== undefined && { 'content-type': 'application/json' }) },
    ...(body !== undefined && { body: JSON.stringify(body) }),
    ...(signal && { signal }),
  }).catch((e: unknown) => {
    if (signal?.aborted) throw e;
    throw new ApiError('UNREACHABLE', 'The server does not answer.', 'See whether ./start still runs.');
  });
  if (!response.ok) throw await refusalOf(response);
  return response;
}

/** Sends a file that is soon read: a plate, an environment map. */
export async function sendFile<N extends 'importAsset' | 'importEnvironment' | 'importLut' | 'openReference'>(
  name: N,
  file: File,
  params: Record<string, string> = {},
): Promise<RouteAnswer<N>> {
  const r = await fetch(`${pathOf(name, params)}?fileName=${encodeURIComponent(file.name)}`, {
    method: 'POST',
    headers: { 'content-type': 'application/octet-stream' },
    body: file,
  }).catch(() => {
    throw new ApiError(
      'UNREACHABLE',
      `“${file.name}” could not be sent: the server does not answer.`,
      'See whether ./start still runs.',
    );
  });
  return answer(name, r);
}
async function refusalOf(response: Response): Promise<ApiError> {
  const said: unknown = await response.json().catch(() => undefined);
  const e = said as { code?: string; message?: string; remedy?: string } | undefined;
  return new ApiError(e?.code ?? 'INTERNAL', e?.message ?? `The server answered ${response.status}.`, e?.remedy ?? '');
}
async function answer<N extends RouteName>(name: N, response: Response): Promise<RouteAnswer<N>> {
  if (!response.ok) throw await refusalOf(response);
  const data: unknown = await response.json().catch(() => undefined);
  const parsed = (ROUTES[name] as RouteSpec).response!.parse(data) as RouteAnswer<N>;
  noteSeen(parsed);
  return parsed;
}

/** Sends a scene file, reporting 0…1 of the bytes sent. */
export function uploadScene(
  projectId: string,
  fileName: string,
  body: Blob,
  metresPerUnit: number | undefined,
  onSent: (fraction: number) => void,
  signal: AbortSignal,
): Promise<void> {
  return new Promise((resolve, reject) => {
    const request = new XMLHttpRequest();
    request.open(
      'POST',
      `${pathOf('importScene', { projectId })}?fileName=${encodeURIComponent(fileName)}${metresPerUnit === undefined ? '' : `&metresPerUnit=${metresPerUnit}`}`,
    );
    request.setRequestHeader('content-type', 'application/octet-stream');
    request.upload.onprogress = (e) => onSent(e.loaded / (e.total || 1));
    request.onload = () => {
      if (request.status < 300) {
        resolve();
        return;
      }
      let e: { code?: string; message?: string; remedy?: string } = {};
      try {
        e = JSON.parse(request.responseText) as typeof e;
      } catch {
        /* said below */
      }
      reject(new ApiError(e.code ?? 'INTERNAL', e.message ?? `The server answered ${request.status}.`, e.remedy ?? ''));
    };
    request.onerror = () =>
      reject(
        new ApiError(
          'UNREACHABLE',
          'The file could not be sent: the server does not answer.',
          'See whether ./start still runs.',
        ),
      );
    request.onabort = () => reject(new ApiError('CANCELLED', 'The upload was cancelled.', ''));
    signal.addEventListener('abort', () => request.abort());
    request.send(body);
  });
}
