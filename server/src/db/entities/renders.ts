// Pictures that are rendered, what was said of them, and where they went.
import type { Inputs } from '@variscen/core/looks';
import type { Profile } from '@variscen/core/plan';
import type {
  Cleaning,
  DeliveredFile,
  DeliveredPicture,
  Delivery,
  DeliveryAsked,
  Mark,
  Region,
  Render,
  TraceResult,
  Verdict,
} from '@variscen/contract';
import { EntitySchema } from 'typeorm';
import { id, int, json, nullable, text, time, uuid } from './columns.ts';

export interface RenderRow {
  id: string;
  projectId: string;
  traceId: string;
  cameraId: string;
  variantId: string;
  /** Of a sequence; null: a single picture. */
  frame: number | null;
  version: number;
  hash: string;
  inputs: Inputs;
  profile: Profile;
  widthPx: number;
  heightPx: number;
  files: Render['files'];
  result: TraceResult;
  /** Which nodes of the scene its rays may have met (core/cull/metNodes); null: it is not known. */
  met: string | null;
  /** Which cleaning has put its files aside; null: they lie in their places. */
  cleaningId: string | null;
  createdAt: Date;
}
export const Renders = new EntitySchema<RenderRow>({
  name: 'render',
  tableName: 'render',
  columns: {
    id,
    projectId: uuid('project_id'),
    traceId: uuid('trace_id'),
    cameraId: uuid('camera_id'),
    variantId: uuid('variant_id'),
    frame: nullable(int('frame')),
    version: int('version'),
    hash: text('hash'),
    inputs: json('inputs'),
    profile: json('profile'),
    widthPx: int('width_px'),
    heightPx: int('height_px'),
    files: json('files'),
    result: json('result'),
    met: nullable(text('met')),
    cleaningId: nullable(uuid('cleaning_id')),
    createdAt: time('created_at'),
  },
});

/** Of a picture all but what it was rendered from, which may be much. */
export const STORED_RENDER = {
  id: true,
  projectId: true,
  traceId: true,
  cameraId: true,
  variantId: true,
  frame: true,
  version: true,
  profile: true,
  widthPx: true,
  heightPx: true,
  files: true,
  result: true,
  met: true,
  cleaningId: true,
  createdAt: true,
} as const;

export type StoredRender = Pick<RenderRow, keyof typeof STORED_RENDER>;
/** What somebody said of a picture. */
export interface ReviewRow {
  renderId: string;
  projectId: string;
  /** null: nobody has judged it. */
  verdict: Verdict | null;
  note: string;
  marks: Mark[];
  saidAt: Date;
}
export const Reviews = new EntitySchema<ReviewRow>({
  name: 'review',
  tableName: 'review',
  columns: {
    renderId: { ...uuid('render_id'), primary: true },
    projectId: uuid('project_id'),
    verdict: nullable(text('verdict')),
    note: text('note'),
    marks: json('marks'),
    saidAt: time('said_at'),
  },
});

export interface RegionRow {
  id: string;
  projectId: string;
  cameraId: string;
  name: string;
  corners: Pick<Region, 'from' | 'to'>;
  createdAt: Date;
}
export const Regions = new EntitySchema<RegionRow>({
  name: 'region',
  tableName: 'region',
  columns: {
    id,
    projectId: uuid('project_id'),
    cameraId: uuid('camera_id'),
    name: text('name'),
    corners: json('corners'),
    createdAt: time('created_at'),
  },
});

export interface DeliveryRow {
  id: string;
  projectId: string;
  /** 1, 2, … of its project. */
  number: number;
  asked: DeliveryAsked;
  state: Delivery['state'];
  error: string | null;
  /** Relative to the output folder. */
  path: string;
  pictures: DeliveredPicture[];
  /** Empty until it is done. */
  files: DeliveredFile[];
  createdAt: Date;
}
export const Deliveries = new EntitySchema<DeliveryRow>({
  name: 'delivery',
  tableName: 'delivery',
  columns: {
    id,
    projectId: uuid('project_id'),
    number: int('number'),
    asked: json('asked'),
    state: text('state'),
    error: nullable(text('error')),
    path: text('path'),
    pictures: json('pictures'),
    files: { ...json('files'), default: [] },
    createdAt: time('created_at'),
  },
});

export interface CleaningRow {
  id: string;
  projectId: string;
  state: Cleaning['state'];
  /** Ids of pictures. */
  renders: string[];
  files: { path: string; bytes: number }[];
  createdAt: Date;
}
export const Cleanings = new EntitySchema<CleaningRow>({
  name: 'cleaning',
  tableName: 'cleaning',
  columns: {
    id,
    projectId: uuid('project_id'),
    state: text('state'),
    renders: json('renders'),
    files: json('files'),
    createdAt: time('created_at'),
  },
});
