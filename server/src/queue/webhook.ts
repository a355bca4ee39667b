// Posts what came of a batch to an address that people have set. A word that does not arrive is said again, with
// growing waits, and after a restart too.
import { createHmac, randomUUID } from 'node:crypto';
import { AppError, type BatchSummary, type WebhookSettings, type WebhookState } from '@variscen/contract';
import pRetry from 'p-retry';
import type { DataSource } from 'typeorm';
import { Settings } from '../db/entities/index.ts';

const KEY = 'webhook';
const ANSWER_MS = 10_000;
const RETRIES = 4;
const FIRST_WAIT_MS = 1000;
/** After tries that came to nothing, the next ones. */
const AGAIN_MS = 5 * 60_000;

type Word =
  { readonly event: 'batch-ended'; readonly summary: BatchSummary; readonly link: string } | { readonly event: 'try' };

export class Webhook {
  private settings: WebhookSettings = { url: null, secret: null };
  private last: WebhookState['last'] = null;
  private notBefore = 0;
  /** Aborted when the settings change: what is being tried goes to an address that is not wanted any more. */
  private changed = new AbortController();

  constructor(
    private readonly db: DataSource,
    private readonly now: () => Date,
    /** Where Variscen is opened. */
    private readonly address: () => string,
    private readonly firstWaitMs = FIRST_WAIT_MS,
  ) {}

  async open(): Promise<void> {
    const row = await this.db.getRepository(Settings).findOneBy({ key: KEY });
    if (row) this.settings = row.value as WebhookSettings;
  }
  state(): WebhookState {
    const { url, secret } = this.settings;
    return { url, isSigned: secret !== null, last: this.last };
  }
  /** @param secret absent: as it is */
  async set({
    url,
    secret = this.settings.secret,
  }: Partial<WebhookSettings> & Pick<WebhookSettings, 'url'>): Promise<void> {
    const settings = { url, secret };
    await this.db.getRepository(Settings).upsert({ key: KEY, value: settings as never }, ['key']);
    this.settings = settings;
    this.last = null;
    this.notBefore = 0;
    this.changed.abort();
    this.changed = new AbortController();
  }

  /** @returns whether it is told, or nobody is to be told */
  async tell(summary: BatchSummary): Promise<boolean> {
    if (this.settings.url === null) return true;
    if (performance.now() < this.notBefore) return false;
    const link = `${this.address()}/queue`;
    const { signal } = this.changed;
    const isTold = await this.post(this.settings.url, { event: 'batch-ended', summary, link }, RETRIES);
    if (!isTold && !signal.aborted) this.notBefore = performance.now() + AGAIN_MS;
    return isTold;
  }
  /** @throws AppError INVALID where no address is set */
  async attempt(): Promise<WebhookState> {
    if (this.settings.url === null)
      throw new AppError('INVALID', 'No address is set.', 'Write one, keep it, and try again.');
    await this.post(this.settings.url, { event: 'try' }, 0);
    return this.state();
  }

  private async post(url: string, word: Word, retries: number): Promise<boolean> {
    const body = JSON.stringify(word);
    const id = randomUUID(); // the same for each try: who gets it twice can tell
    const { signal } = this.changed;
    const waits = { retries, minTimeout: this.firstWaitMs, randomize: true, signal };
    const error = await pRetry(() => this.once(url, id, body), waits).then(() => null, faultOf);
    if (!signal.aborted) this.last = { at: this.now().toISOString(), error };
    return error === null;
  }
  private async once(url: string, id: string, body: string): Promise<void> {
    const { secret } = this.settings;
    const response = await fetch(url, {
      method: 'POST',
      redirect: 'error',
      signal: AbortSignal.timeout(ANSWER_MS),
      headers: {
        'content-type': 'application/json',
        'x-variscen-delivery': id,
        ...(secret !== null && {
          'x-variscen-signature': `sha256=${createHmac('sha256', secret).update(body).digest('hex')}`,
        }),
      },
      body,
    });
    await response.body?.cancel();
    if (!response.ok) throw new Error(`It answered ${response.status}.`);
  }
}

function faultOf(e: unknown): string {
  const { message, cause, name } = e as { message?: string; cause?: { message?: string }; name?: string };
  if (name === 'TimeoutError') return `It did not answer within ${ANSWER_MS / 1000} s.`;
  return cause?.message ? `It cannot be reached: ${cause.message}` : (message ?? 'It failed.');
}
