// What is rendered: batches, their traces and the slices of these.
import type { Inputs } from '@variscen/core/looks';
import type { Profile } from '@variscen/core/plan';
import type { Slice, SliceResult, TraceResult, TraceState } from '@variscen/contract';
import { EntitySchema } from 'typeorm';
import { id, int, json, nullable, text, time, uuid } from './columns.ts';

export interface BatchRow {
  id: string;
  projectId: string;
  profile: Profile;
  createdAt: Date;
  /** Null while something of it is to come. */
  endedAt: Date | null;
  toldAt: Date | null;
}
export const Batches = new EntitySchema<BatchRow>({
  name: 'batch',
  tableName: 'batch',
  columns: {
    id,
    projectId: uuid('project_id'),
    profile: json('profile'),
    createdAt: time('created_at'),
    endedAt: nullable(time('ended_at')),
    toldAt: nullable(time('told_at')),
  },
});

/** A cell that a trace serves, as it was when the batch was made. */
export interface TraceCell {
  cameraId: string;
  variantId: string;
  cameraName: string;
  variantName: string;
  /** Of a sequence; absent in older rows and null: a single picture. */
  frame?: number | null;
  version: number;
  path: string;
  inputs: Inputs;
  hash: string;
  /** Which lighting of its trace it shows; absent: the only one. */
  lighting?: number;
}
/** The same for all slices of a trace. */
export interface TraceCut {
  engine: string;
  samples: number;
  tileRows: number;
}
export interface TraceRow {
  id: string;
  batchId: string;
  projectId: string;
  ordinal: number;
  state: TraceState;
  inputs: Inputs;
  profile: Profile;
  cells: TraceCell[];
  widthPx: number;
  heightPx: number;
  plannedBytes: number;
  jobId: string | null;
  token: string | null;
  nodeName: string | null;
  leaseUntil: Date | null;
  /** Above 0 is handed out before 0, below after. */
  priority: number;
  /** Within its priority. */
  position: number;
  /** What the plan expected; null: nothing was measured before. */
  expectedS: number | null;
  attempts: number;
  /** Of a sequence, and which one; null: it is none. */
  frame: number | null;
  sequenceId: string | null;
  /** How it was cut into slices; null: it is rendered in one. */
  cut: TraceCut | null;
  /** Of them those in which the node ended by itself. */
  crashes: number;
  fraction: number;
  samplesDone: number;
  error: string | null;
  result: TraceResult | null;
  createdAt: Date;
  startedAt: Date | null;
  finishedAt: Date | null;
}
export const Traces = new EntitySchema<TraceRow>({
  name: 'trace',
  tableName: 'trace',
  columns: {
    id,
    batchId: uuid('batch_id'),
    projectId: uuid('project_id'),
    ordinal: int('ordinal'),
    state: text('state'),
    inputs: json('inputs'),
    profile: json('profile'),
    cells: json('cells'),
    widthPx: int('width_px'),
    heightPx: int('height_px'),
    plannedBytes: { type: 'double precision', name: 'planned_bytes' },
    jobId: nullable(uuid('job_id')),
    token: nullable(uuid('token')),
    nodeName: nullable(text('node_name')),
    leaseUntil: nullable(time('lease_until')),
    attempts: int('attempts'),
    priority: { type: 'int', name: 'priority', default: 0 },
    position: { type: 'double precision', name: 'position', default: 0 },
    expectedS: nullable({ type: 'double precision', name: 'expected_s' } as const),
    frame: nullable(int('frame')),
    sequenceId: nullable(uuid('sequence_id')),
    cut: nullable(json('cut')),
    crashes: { type: 'int', name: 'crashes', default: 0 },
    fraction: { type: 'double precision', name: 'fraction' },
    samplesDone: int('samples_done'),
    error: nullable(text('error')),
    result: nullable(json('result')),
    createdAt: time('created_at'),
    startedAt: nullable(time('started_at')),
    finishedAt: nullable(time('finished_at')),
  },
});

export interface SliceRow {
  id: string;
  traceId: string;
  fromRow: number;
  toRow: number;
  state: Slice['state'];
  token: string | null;
  nodeName: string | null;
  leaseUntil: Date | null;
  /** How often a node ended by itself while it rendered this. */
  crashes: number;
  filmSha256: string | null;
  result: Omit<SliceResult, 'token'> | null;
}
export const Slices = new EntitySchema<SliceRow>({
  name: 'slice',
  tableName: 'slice',
  columns: {
    id,
    traceId: uuid('trace_id'),
    fromRow: int('from_row'),
    toRow: int('to_row'),
    state: text('state'),
    token: nullable(uuid('token')),
    nodeName: nullable(text('node_name')),
    leaseUntil: nullable(time('lease_until')),
    crashes: { type: 'int', name: 'crashes', default: 0 },
    filmSha256: nullable(text('film_sha256')),
    result: nullable(json('result')),
  },
});

/** A version number and path promised to a trace; never given twice. */
export interface OutputRow {
  id: string;
  traceId: string;
  cameraId: string;
  variantId: string;
  /** Of a sequence; null: a single picture. */
  frame: number | null;
  version: number;
  path: string;
}
export const Outputs = new EntitySchema<OutputRow>({
  name: 'output',
  tableName: 'output',
  columns: {
    id,
    traceId: uuid('trace_id'),
    cameraId: uuid('camera_id'),
    variantId: uuid('variant_id'),
    frame: nullable(int('frame')),
    version: int('version'),
    path: text('path'),
  },
});
