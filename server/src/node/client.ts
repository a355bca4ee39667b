// What a render node says to the server, over HTTP only: the same on this machine and on another.
// A request whose connection is lost, or that the server could not answer just now, is made again with growing waits; a
// refusal is final.
import { openAsBlob } from 'node:fs';
import type { Cut, Lease, RenderFileKind, SliceResult, SliceRows, TraceResult } from '@variscen/contract';
import pRetry from 'p-retry';
import { sha256 } from '../files/store.ts';
import type { SharedProgress } from './heartbeat/sharedProgress.ts';

export interface Waits {
  /** Before the second try; doubled for each later one. */
  readonly firstMs: number;
  readonly mostMs: number;
  /** After so long no further try is made. */
  readonly altogetherMs: number;
}
/** For what a node needs to begin: another attempt is cheap. */
const FOR_ASSETS: Waits = { firstMs: 200, mostMs: 5_000, altogetherMs: 120_000 };
/** For what was paid for with a night: a server that is restarted, or a network that is away for a while. */
const FOR_RESULTS: Waits = { firstMs: 200, mostMs: 10_000, altogetherMs: 600_000 };

/** A word and its answer take so long at most; a network that swallows everything would hold the node for minutes. */
const ANSWER_MS = 20_000;
/** Of a finished trace: its files are compared and put to their places before the answer, perhaps on a slow disk. */
const STORED_MS = 180_000;

interface Request {
  readonly method: 'GET' | 'POST' | 'PUT';
  readonly path: string;
  readonly json?: unknown;
  /** Opened anew for each try. */
  readonly bytes?: () => Promise<Blob>;
  readonly type?: string;
  readonly signal?: AbortSignal | undefined;
  /** Of a request without bytes; absent: ANSWER_MS. */
  readonly answerMs?: number;
}

export class ServerClient {
  constructor(
    readonly base: string,
    readonly token: string,
    readonly name: string,
    private readonly waits = { assets: FOR_ASSETS, results: FOR_RESULTS },
  ) {}

  /** The name of the machine that the token was made for. */
  async whoami(): Promise<string> {
    const response = await this.once({ method: 'GET', path: '/api/node/me' });
    return ((await response.json()) as { name: string }).name;
  }
  async hello(hello: HelloOfNode): Promise<void> {
    await this.once({ method: 'POST', path: '/api/node/hello', json: { name: this.name, ...hello } });
  }
  /** What it was rendering waits again at once. */
  async leave(): Promise<void> {
    await this.once({ method: 'POST', path: '/api/node/leave', json: { name: this.name } });
  }

  /** @param engine which engine this node renders with @param usedBytes what its process takes */
  async lease(engine: string, usedBytes?: number): Promise<Lease | null> {
    const json = { name: this.name, engine, usedBytes };
    return (await (await this.once({ method: 'POST', path: '/api/node/lease', json })).json()) as Lease | null;
  }
  /** A trace of another node with slices left for this one. */
  async help(engine: string): Promise<Lease | null> {
    const json = { name: this.name, engine };
    return (await (await this.once({ method: 'POST', path: '/api/node/help', json })).json()) as Lease | null;
  }
  /** Renews what this node has claimed of it. */
  async helping(l: Attempt, threads?: number, usedBytes?: number): Promise<GoOn> {
    const json = { name: this.name, ...(threads !== undefined && { threads }), usedBytes };
    const response = await this.once({ method: 'POST', path: `${tracePath(l)}/helping`, json });
    return (await response.json()) as GoOn;
  }

  /** Cuts a trace into slices; where it is cut already, that is the answer. */
  async cut(l: Attempt, how: CutWish, signal?: AbortSignal): Promise<Cut> {
    const json = { token: l.token, ...how };
    const response = await this.untilDone(
      { method: 'POST', path: `${tracePath(l)}/cut`, json, signal },
      this.waits.results,
    );
    return (await response.json()) as Cut;
  }
  /** The next slice for this node, or null, and how it stands with all of them. */
  async claim(l: Attempt, holds: readonly string[], signal?: AbortSignal): Promise<Claim> {
    const json = { name: this.name, holds };
    const response = await this.untilDone(
      { method: 'POST', path: `${tracePath(l)}/claim`, json, signal },
      this.waits.results,
    );
    return (await response.json()) as Claim;
  }
  /** The film of a slice, and that it is done. */
  async sliceDone(
    sliceId: string,
    film: Uint8Array<ArrayBuffer>,
    result: SliceResult,
    signal?: AbortSignal,
  ): Promise<void> {
    const path = `/api/node/slices/${sliceId}`;
    const bytes = () => Promise.resolve(new Blob([film]));
    await this.untilDone(
      { method: 'PUT', path: `${path}/film?token=${result.token}`, bytes, signal },
      this.waits.results,
    );
    await this.untilDone({ method: 'POST', path: `${path}/done`, json: result, signal }, this.waits.results);
  }
  /** The film of a slice that is done, compared with its hash. */
  async sliceFilm(sliceId: string, hash: string, signal?: AbortSignal): Promise<Uint8Array> {
    return this.untilDone(
      { method: 'GET', path: `/api/node/slices/${sliceId}/film`, signal },
      this.waits.assets,
      (response) => bytesOf(response, hash),
    );
  }

  /** Which of the finished traces that this node holds nobody wants any more. */
  async unwanted(traceIds: readonly string[]): Promise<string[]> {
    const response = await this.once({ method: 'POST', path: '/api/node/held', json: { traceIds } });
    return ((await response.json()) as { unwanted: string[] }).unwanted;
  }

  /** Renews the lease. Whether to go on, and with how many threads. */
  async progress(
    l: Attempt,
    p: Pick<SharedProgress, 'fraction' | 'samplesDone' | 'stage' | 'noise'>,
    threads?: number,
    usedBytes?: number,
  ): Promise<GoOn> {
    const { fraction, samplesDone, stage, noise } = p;
    const response = await this.once({
      method: 'POST',
      path: `${tracePath(l)}/progress`,
      json: {
        token: l.token,
        fraction,
        samplesDone,
        stage,
        noise,
        usedBytes,
        ...(threads !== undefined && { threads }),
      },
    });
    return (await response.json()) as GoOn;
  }

  async preview(l: Attempt, png: Uint8Array): Promise<void> {
    const bytes = () => Promise.resolve(new Blob([png as Uint8Array<ArrayBuffer>]));
    await this.once({ method: 'PUT', path: `${tracePath(l)}/preview?token=${l.token}`, bytes, type: 'image/png' });
  }

  async file(l: Attempt, cell: number, kind: RenderFileKind, path: string, signal?: AbortSignal): Promise<void> {
    const to = `${tracePath(l)}/files?token=${l.token}&cell=${cell}&kind=${kind}`;
    await this.untilDone({ method: 'PUT', path: to, bytes: () => openAsBlob(path), signal }, this.waits.results);
  }

  async complete(l: Attempt, result: TraceResult, signal?: AbortSignal): Promise<void> {
    await this.untilDone(
      { method: 'POST', path: `${tracePath(l)}/complete`, json: result, signal, answerMs: STORED_MS },
      this.waits.results,
    );
  }

  /** @param finished whether the trace itself is finished and only its files could not be stored */
  async fail(l: Attempt, message: string, finished: boolean, signal?: AbortSignal): Promise<void> {
    const json = { token: l.token, message: message.slice(0, 4000), finished };
    await this.untilDone({ method: 'POST', path: `${tracePath(l)}/fail`, json, signal }, this.waits.results);
  }

  /** Content by its hash, compared with it: nothing is rendered from what is not what was stored. */
  async get(hash: string, signal?: AbortSignal): Promise<Uint8Array> {
    return this.untilDone({ method: 'GET', path: `/api/assets/${hash}`, signal }, this.waits.assets, (response) =>
      bytesOf(response, hash),
    );
  }

  private async once(request: Request): Promise<Response> {
    const { method, path, json, bytes, type = 'application/octet-stream' } = request;
    const body = bytes ? await bytes() : JSON.stringify(json); // of nothing: undefined
    const headers: Record<string, string> = { authorization: `Bearer ${this.token}` };
    if (body !== undefined) headers['content-type'] = bytes ? type : 'application/json';
    const response = await fetch(this.base + path, {
      method,
      headers,
      ...(body !== undefined && { body }),
      signal: signalOf(request),
    });
    if (!response.ok) throw await refusalOf(response);
    return response;
  }

  private untilDone(request: Request, waits: Waits): Promise<Response>;
  private untilDone<T>(request: Request, waits: Waits, read: (response: Response) => Promise<T>): Promise<T>;
  private untilDone(
    request: Request,
    waits: Waits,
    read: (response: Response) => Promise<unknown> = (response) => Promise.resolve(response),
  ): Promise<unknown> {
    return pRetry(async () => read(await this.once(request)), {
      retries: Number.POSITIVE_INFINITY,
      minTimeout: waits.firstMs,
      maxTimeout: waits.mostMs,
      maxRetryTime: waits.altogetherMs,
      randomize: true,
      shouldRetry: ({ error }) =>
        !isRefusal(error) && !request.signal?.aborted && (error as NodeJS.ErrnoException).code !== 'ENOENT',
      ...(request.signal && { signal: request.signal }),
    });
  }
}

/** Words are given up after a while; bytes take the time they take, within the limits of fetch itself. */
function signalOf({ json, signal, answerMs = ANSWER_MS }: Request): AbortSignal | null {
  if (json === undefined) return signal ?? null;
  const late = AbortSignal.timeout(answerMs);
  return signal ? AbortSignal.any([signal, late]) : late;
}

/** @throws ServerRefusal DAMAGED where the content is not that of the hash */
async function bytesOf(response: Response, hash: string): Promise<Uint8Array> {
  const bytes = new Uint8Array(await response.arrayBuffer());
  if (sha256(bytes) !== hash) throw new ServerRefusal('DAMAGED', 409, 'is not what was stored');
  return bytes;
}

/** What a node says of itself when it begins. */
export interface HelloOfNode {
  readonly threads: number;
  readonly restBytes: number;
  readonly engine: string;
  readonly budgetBytes: number;
  readonly instance: string;
}
/** Whether to go on, and with how many threads; null: with all. */
export interface GoOn {
  readonly goOn: boolean;
  readonly threads: number | null;
}
export interface CutWish {
  readonly engine: string;
  readonly samples: number;
  readonly tileRows: number;
  readonly slices: readonly SliceRows[];
}
export interface Claim {
  readonly claimed: (SliceRows & { readonly id: string; readonly token: string }) | null;
  readonly cut: Cut;
}
/** One attempt at a trace. */
export type Attempt = Pick<Lease, 'traceId' | 'token'>;
const tracePath = ({ traceId }: Attempt): string => `/api/node/traces/${traceId}`;

export class ServerRefusal extends Error {
  constructor(
    readonly code: string,
    readonly status: number,
    message: string,
    /** What to do, where the server said so. */
    readonly remedy = '',
  ) {
    super(message);
    this.name = 'ServerRefusal';
  }
}

async function refusalOf(response: Response): Promise<ServerRefusal> {
  const said = (await response.json().catch(() => ({}))) as { code?: string; message?: string; remedy?: string };
  const { code = String(response.status), message = response.statusText, remedy } = said;
  return new ServerRefusal(code, response.status, message, remedy);
}

const FOR_NOW: ReadonlySet<number> = new Set([408, 429, 500, 502, 503, 504]);
/** Whether the server has looked at a request and will say the same again. */
export const isRefusal = (e: unknown): e is ServerRefusal => e instanceof ServerRefusal && !FOR_NOW.has(e.status);
