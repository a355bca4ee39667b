// Calls the HTTP API by the names of the contract's routes.
import { openAsBlob } from 'node:fs';
import { basename } from 'node:path';
import { type RouteAnswer, type RouteInput, type RouteName, type RouteSpec, ROUTES, pathOf } from '@variscen/contract';
import { CommandError, EXIT } from './exit.ts';

export interface Connection {
  readonly server: string;
  /** Null where Variscen is opened on its own machine alone. */
  readonly token: string | null;
}

export class Api {
  constructor(private readonly to: Connection) {}

  async call<N extends RouteName>(name: N, input: RouteInput<N>): Promise<RouteAnswer<N>> {
    const { body, params, query } = input as {
      body?: unknown;
      params?: Record<string, string>;
      query?: Record<string, string>;
    };
    const response = await this.send(name, params, query, {
      ...(body !== undefined && { body: JSON.stringify(body), type: 'application/json' }),
    });
    return (ROUTES[name] as RouteSpec).response!.parse(await response.json()) as RouteAnswer<N>;
  }

  /** @param file that can be read */
  async upload<N extends 'importScene'>(
    name: N,
    params: Record<string, string>,
    file: string,
    query: Record<string, string> = {},
  ): Promise<RouteAnswer<N>> {
    const body = await openAsBlob(file);
    const asked = { fileName: basename(file), ...query };
    const response = await this.send(name, params, asked, { body, type: 'application/octet-stream' });
    return (ROUTES[name] as RouteSpec).response!.parse(await response.json()) as RouteAnswer<N>;
  }

  /** Bytes, as they come. */
  async download(name: RouteName, params: Record<string, string>, query: Record<string, string>): Promise<Response> {
    return this.send(name, params, query, {});
  }

  private async send(
    name: RouteName,
    params: Record<string, string> | undefined,
    query: Record<string, string> | undefined,
    { body, type }: { readonly body?: BodyInit; readonly type?: string },
  ): Promise<Response> {
    const { server, token } = this.to;
    const url = server + pathOf(name, params) + (query ? `?${new URLSearchParams(query)}` : '');
    const response = await fetch(url, {
      method: (ROUTES[name] as RouteSpec).method.toUpperCase(),
      headers: {
        ...(type !== undefined && { 'content-type': type }),
        ...(token !== null && { authorization: `Bearer ${token}` }),
      },
      ...(body !== undefined && { body }),
    }).catch((e: Error & { cause?: { message?: string } }) => {
      throw new CommandError(
        EXIT.UNREACHABLE,
        `${server} does not answer: ${e.cause?.message ?? e.message}. See whether ./start runs, or give --server.`,
      );
    });
    if (!response.ok) throw await refusalOf(response);
    return response;
  }
}

async function refusalOf(response: Response): Promise<CommandError> {
  const said = (await response.json().catch(() => ({}))) as { code?: string; message?: string; remedy?: string };
  const message = said.message ?? `The server answered ${response.status}.`;
  return new CommandError(EXIT.FAILED, [message, said.remedy].filter(Boolean).join(' '), said.code);
}
