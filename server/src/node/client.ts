// What a render node says to the server, over HTTP only: the same on this machine and on another.
import type { Lease, TraceResult } from '@variscen/contract';

export class ServerClient {
  constructor(private readonly base: string, private readonly token: string, readonly name: string) {}

  private async call(method: string, path: string, body?: unknown, bytes?: Uint8Array, type = 'application/octet-stream'): Promise<Response> {
    const response = await fetch(this.base + path, {
      method, headers: { authorization: `Bearer ${this.token}`, ...(bytes ? { 'content-type': type } : body !== undefined ? { 'content-type': 'application/json' } : {}) }, ...(bytes ? { body: bytes as Uint8Array<ArrayBuffer> } : body !== undefined ? { body: JSON.stringify(body) } : {}),
    });
    if (!response.ok) {
      const e = (await response.json().catch(() => ({}))) as { code?: string; message?: string };
      throw new ServerRefusal(e.code ?? String(response.status), e.message ?? response.statusText);
    }
    return response;
  }
  async hello(threads: number): Promise<void> { await this.call('POST', '/api/node/hello', { name: this.name, threads }); }
  async lease(): Promise<Lease | null> { return (await (await this.call('POST', '/api/node/lease', { name: this.name })).json()) as Lease | null; }
  async progress(l: Lease, fraction: number, samplesDone: number): Promise<boolean> { return ((await (await this.call('POST', `/api/node/traces/${l.traceId}/progress`, { token: l.token, fraction: Math.min(1, fraction), samplesDone })).json()) as { goOn: boolean }).goOn; }
  async preview(l: Lease, png: Uint8Array): Promise<void> { await this.call('PUT', `/api/node/traces/${l.traceId}/preview?token=${l.token}`, undefined, png, 'image/png'); }
  async file(l: Lease, cell: number, kind: string, bytes: Uint8Array): Promise<void> { await this.call('PUT', `/api/node/traces/${l.traceId}/files?token=${l.token}&cell=${cell}&kind=${kind}`, undefined, bytes); }
  async complete(l: Lease, result: TraceResult): Promise<void> { await this.call('POST', `/api/node/traces/${l.traceId}/complete`, result); }
  async fail(l: Lease, message: string): Promise<void> { await this.call('POST', `/api/node/traces/${l.traceId}/fail`, { token: l.token, message: message.slice(0, 4000) }); }
  async asset(hash: string): Promise<Uint8Array> { return new Uint8Array(await (await this.call('GET', `/api/assets/${hash}`)).arrayBuffer()); }
}
export class ServerRefusal extends Error {
  constructor(readonly code: string, message: string) { super(message); }
}
