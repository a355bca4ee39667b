// States as they are read.
import type { RenderNode, TraceStage, TraceState } from '@variscen/contract';

export const MARKS = {
  waiting: 'waiting',
  paused: 'waiting',
  rendering: 'rendering',
  done: 'current',
  failed: 'failed',
  undelivered: 'failed',
  cancelled: 'never',
} as const satisfies Record<TraceState, string>;
export const STATE_WORDS: Readonly<Record<TraceState, string>> = {
  waiting: 'Waiting',
  paused: 'Paused',
  rendering: 'Rendering',
  done: 'Done',
  failed: 'Failed',
  undelivered: 'Rendered, not stored',
  cancelled: 'Cancelled',
};
export const STAGE_WORDS: Readonly<Record<TraceStage, string>> = {
  tracing: 'Rendering',
  writing: 'Writing files',
  delivering: 'Storing files',
};
export const NODE_WORDS: Readonly<Record<RenderNode['state'], string>> = {
  idle: 'Ready',
  rendering: 'Rendering',
  gone: 'Offline',
  never: 'Not joined yet',
};
