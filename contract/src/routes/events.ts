// Which parts are up, and what changed.
import { healthSchema } from '../events.ts';
import { type RouteSpec } from './spec.ts';

export const EVENTS_ROUTES = {
  health: { method: 'get', path: '/api/health', summary: 'Which parts are up.', node: 'also', response: healthSchema },
  events: {
    method: 'get',
    path: '/api/events',
    summary: 'What changes, as server-sent events (Event).',
    download: 'text/event-stream',
  },
} as const satisfies Record<string, RouteSpec>;
