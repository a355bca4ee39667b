// Calls the HTTP API by the names of the contract's routes. Answers are trusted for their shape only after the schema said so.
import { ROUTES, type RouteName, type RouteSpec } from '@variscen/contract';
import type * as z from 'zod';
import { pathOf } from './paths.ts';

type Routes = typeof ROUTES;
type Out<R> = R extends { response: infer S extends z.ZodType } ? z.infer<S> : never;
type In<R> = R extends { body: infer S extends z.ZodType } ? { body: z.input<S> } : object;
type Params<R> = R extends { params: infer S extends z.ZodType } ? { params: { [K in keyof z.infer<S>]: string } } : object;

export class ApiError extends Error {
  constructor(readonly code: string, message: string, readonly remedy: string) { super(message); this.name = 'ApiError'; }
}

export { pathOf };

export async function call<N extends RouteName>(name: N, input: In<Routes[N]> & Params<Routes[N]> & { signal?: AbortSignal }): Promise<Out<Routes[N]>> {
  const route: RouteSpec = ROUTES[name], { body, params, signal } = input as { body?: unknown; params?: Record<string, string>; signal?: AbortSignal };
  const response = await fetch(pathOf(name, params), { method: route.method.toUpperCase(), ...(body !== undefined && { headers: { 'content-type': 'application/json' }, body: JSON.stringify(body) }), ...(signal && { signal }) }).catch((e: unknown) => {
    if (signal?.aborted) throw e;
    throw new ApiError('UNREACHABLE', 'The server does not answer.', 'See whether ./start still runs.');
  });
  return answer(name, response);
}

/** Sends a file that is soon read: a plate, an environment map. */
export async function sendFile<N extends 'importAsset' | 'importEnvironment'>(name: N, file: File): Promise<Out<Routes[N]>> {
  const r = await fetch(`${pathOf(name)}?fileName=${encodeURIComponent(file.name)}`, { method: 'POST', headers: { 'content-type': 'application/octet-stream' }, body: file }).catch(() => { throw new ApiError('UNREACHABLE', `“${file.name}” could not be sent: the server does not answer.`, 'See whether ./start still runs.'); });
  return answer(name, r);
}
async function answer<N extends RouteName>(name: N, response: Response): Promise<Out<Routes[N]>> {
  const data: unknown = await response.json().catch(() => undefined);
  if (!response.ok) { const e = data as { code?: string; message?: string; remedy?: string } | undefined; throw new ApiError(e?.code ?? 'INTERNAL', e?.message ?? `The server answered ${response.status}.`, e?.remedy ?? ''); }
  return (ROUTES[name] as RouteSpec).response!.parse(data) as Out<Routes[N]>;
}

/** Sends a scene file, reporting 0…1 of the bytes sent. */
export function uploadScene(projectId: string, fileName: string, body: Blob, metresPerUnit: number | undefined, onSent: (fraction: number) => void, signal: AbortSignal): Promise<void> {
  return new Promise((resolve, reject) => {
    const request = new XMLHttpRequest();
    request.open('POST', `${pathOf('importScene', { projectId })}?fileName=${encodeURIComponent(fileName)}${metresPerUnit === undefined ? '' : `&metresPerUnit=${metresPerUnit}`}`);
    request.setRequestHeader('content-type', 'application/octet-stream');
    request.upload.onprogress = (e) => onSent(e.loaded / (e.total || 1));
    request.onload = () => {
      if (request.status < 300) { resolve(); return; }
      let e: { code?: string; message?: string; remedy?: string } = {};
      try { e = JSON.parse(request.responseText) as typeof e; } catch { /* said below */ }
      reject(new ApiError(e.code ?? 'INTERNAL', e.message ?? `The server answered ${request.status}.`, e.remedy ?? ''));
    };
    request.onerror = () => reject(new ApiError('UNREACHABLE', 'The file could not be sent: the server does not answer.', 'See whether ./start still runs.'));
    request.onabort = () => reject(new ApiError('CANCELLED', 'The upload was cancelled.', ''));
    signal.addEventListener('abort', () => request.abort());
    request.send(body);
  });
}
