// Which parts are up, and what changed.
import type { EVENTS_ROUTES } from '@variscen/contract';
import { VERSION } from '../../config.ts';
import type { Handlers } from '../handler.ts';
import type { Services } from '../services.ts';

/** Of events that a page has not taken. */
const MOST_UNREAD_BYTES = 2 ** 20;

export const eventsHandlers = ({ c, health }: Services): Handlers<typeof EVENTS_ROUTES> => ({
  health: async ({ res }) => {
    const parts = await health();
    const ok = parts.every((x) => x.ok);
    res.status(ok ? 200 : 503);
    return { ok, version: VERSION, parts };
  },
  events: ({ req, res }) => {
    res
      .set({ 'Content-Type': 'text/event-stream', 'Cache-Control': 'no-store', Connection: 'keep-alive' })
      .flushHeaders();
    const stop = c.events.listen((e) => {
      // who does not listen any more asks anew when it does, and reads everything again
      if (res.writableLength > MOST_UNREAD_BYTES) res.destroy();
      else res.write(`data: ${JSON.stringify(e)}\n\n`);
    });
    const alive = setInterval(() => res.write(': alive\n\n'), 15_000);
    req.on('close', () => {
      stop();
      clearInterval(alive);
    });
    return Promise.resolve(undefined);
  },
});
