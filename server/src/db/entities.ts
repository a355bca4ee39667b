// Tables as TypeORM sees them. Their SQL is written by migrations; a test holds the two together.
import type { Change, Facet, Inputs, LooksFile } from '@variscen/core/looks';
import type { Profile, ProfileException } from '@variscen/core/plan';
import type { CameraHandling, CameraSettings, ImportReport } from '@variscen/core/scene';
import type {
  Cleaning,
  DeliveredFile,
  DeliveredPicture,
  Delivery,
  DeliveryAsked,
  Region,
  Mark,
  Project,
  Render,
  Revision,
  Slice,
  SliceResult,
  Tag,
  TraceResult,
  TraceState,
  Verdict,
} from '@variscen/contract';
import { EntitySchema } from 'typeorm';

export interface ProjectRow {
  id: string;
  name: string;
  nameTemplate: string;
  variantTemplate: string;
  base: Change[];
  revisionId: string | null;
  sets: Project['sets'];
  profiles: Profile[];
  exceptions: ProfileException[];
  acceptedWarnings: string[];
  /** Pictures stay up to date where only what none of their rays met has changed. */
  staysUnmet: boolean;
  createdAt: Date;
}
export interface RevisionRow {
  id: string;
  projectId: string;
  number: number;
  sceneHash: string;
  report: ImportReport;
  state: Revision['state'];
  match: Revision['match'];
  createdAt: Date;
}
export interface CameraRow {
  id: string;
  projectId: string;
  name: string;
  ordinal: number;
  settings: CameraSettings;
  handling: CameraHandling;
}
export interface OptionRow {
  id: string;
  projectId: string;
  facet: Facet;
  name: string;
  ordinal: number;
  notes: string;
  tag: Tag | null;
  changes: Change[];
}
export interface VariantRow {
  id: string;
  projectId: string;
  name: string;
  namedByHand: boolean;
  ordinal: number;
  optionIds: string[];
  excludedCameraIds: string[];
  notes: string;
}
export interface PatchRow {
  id: string;
  projectId: string;
  cameraId: string;
  variantId: string | null;
  changes: Change[];
}
export interface PendingRow {
  projectId: string;
  destination: string;
  changes: Change[];
}
export interface BatchRow {
  id: string;
  projectId: string;
  profile: Profile;
  createdAt: Date;
  /** Null while something of it is to come. */
  endedAt: Date | null;
  toldAt: Date | null;
}
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

const id = { type: 'uuid', primary: true } as const;
const uuid = (name: string) => ({ type: 'uuid', name }) as const;
const text = (name: string) => ({ type: 'text', name }) as const;
const json = (name: string) => ({ type: 'jsonb', name }) as const;
const int = (name: string) => ({ type: 'int', name }) as const;
const time = (name: string) => ({ type: 'timestamptz', name }) as const;
const nullable = <T extends object>(c: T) => ({ ...c, nullable: true }) as const;

export const Projects = new EntitySchema<ProjectRow>({
  name: 'project',
  tableName: 'project',
  columns: {
    id,
    name: text('name'),
    nameTemplate: text('name_template'),
    variantTemplate: text('variant_template'),
    base: json('base'),
    revisionId: nullable(uuid('revision_id')),
    sets: json('sets'),
    profiles: { ...json('profiles'), default: [] },
    exceptions: { ...json('exceptions'), default: [] },
    acceptedWarnings: { ...json('accepted_warnings'), default: [] },
    staysUnmet: { type: 'boolean', name: 'stays_unmet', default: true },
    createdAt: time('created_at'),
  },
});
export const Revisions = new EntitySchema<RevisionRow>({
  name: 'scene_revision',
  tableName: 'scene_revision',
  columns: {
    id,
    projectId: uuid('project_id'),
    number: int('number'),
    sceneHash: text('scene_hash'),
    report: json('report'),
    state: text('state'),
    match: nullable(json('match')),
    createdAt: time('created_at'),
  },
});
export const Cameras = new EntitySchema<CameraRow>({
  name: 'camera',
  tableName: 'camera',
  columns: {
    id,
    projectId: uuid('project_id'),
    name: text('name'),
    ordinal: int('ordinal'),
    settings: json('settings'),
    handling: json('handling'),
  },
});
export const Options = new EntitySchema<OptionRow>({
  name: 'look_option',
  tableName: 'look_option',
  columns: {
    id,
    projectId: uuid('project_id'),
    facet: text('facet'),
    name: text('name'),
    ordinal: int('ordinal'),
    notes: text('notes'),
    tag: nullable(text('tag')),
    changes: json('changes'),
  },
});
export const Variants = new EntitySchema<VariantRow>({
  name: 'variant',
  tableName: 'variant',
  columns: {
    id,
    projectId: uuid('project_id'),
    name: text('name'),
    namedByHand: { type: 'boolean', name: 'named_by_hand' },
    ordinal: int('ordinal'),
    optionIds: json('option_ids'),
    excludedCameraIds: json('excluded_camera_ids'),
    notes: text('notes'),
  },
});
export const Patches = new EntitySchema<PatchRow>({
  name: 'patch',
  tableName: 'patch',
  columns: {
    id,
    projectId: uuid('project_id'),
    cameraId: uuid('camera_id'),
    variantId: nullable(uuid('variant_id')),
    changes: json('changes'),
  },
});
export const Pendings = new EntitySchema<PendingRow>({
  name: 'pending',
  tableName: 'pending',
  columns: {
    projectId: { ...uuid('project_id'), primary: true },
    destination: { ...text('destination'), primary: true },
    changes: json('changes'),
  },
});
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
export interface EnvironmentMapRow {
  hash: string;
  name: string;
  width: number;
  height: number;
  createdAt: Date;
}
export const EnvironmentMaps = new EntitySchema<EnvironmentMapRow>({
  name: 'environment_map',
  tableName: 'environment_map',
  columns: {
    hash: { ...text('hash'), primary: true },
    name: { ...text('name'), primary: true },
    width: int('width'),
    height: int('height'),
    createdAt: time('created_at'),
  },
});
export interface LibraryRow {
  id: string;
  name: string;
  looks: LooksFile;
  createdAt: Date;
}
export const LibraryEntries = new EntitySchema<LibraryRow>({
  name: 'library_entry',
  tableName: 'library_entry',
  columns: { id, name: text('name'), looks: json('looks'), createdAt: time('created_at') },
});
export interface SettingRow {
  key: string;
  value: unknown;
}
/** What people set for the whole of Variscen. */
export const Settings = new EntitySchema<SettingRow>({
  name: 'setting',
  tableName: 'setting',
  columns: { key: { ...text('key'), primary: true }, value: json('value') },
});
export interface MachineRow {
  name: string;
  /** Null for the machine that Variscen runs on, whose token is in the data folder. */
  tokenHash: string | null;
  isDrained: boolean;
  budgetMib: number | null;
  /** What it has done: traces that it finished, slices of any, and what both took. */
  traces: number;
  slices: number;
  seconds: number;
  paths: number;
  seenAt: Date | null;
  createdAt: Date;
}
export const MachineRows = new EntitySchema<MachineRow>({
  name: 'machine',
  tableName: 'machine',
  columns: {
    name: { ...text('name'), primary: true },
    tokenHash: nullable(text('token_hash')),
    isDrained: { type: 'boolean', name: 'is_drained', default: false },
    budgetMib: nullable(int('budget_mib')),
    traces: { ...int('traces'), default: 0 },
    slices: { ...int('slices'), default: 0 },
    seconds: { type: 'double precision', name: 'seconds', default: 0 },
    paths: { type: 'double precision', name: 'paths', default: 0 },
    seenAt: nullable(time('seen_at')),
    createdAt: { ...time('created_at'), default: () => 'now()' },
  },
});
/** A picture of others that is compared with. */
export interface ReferenceRow {
  id: string;
  projectId: string;
  name: string;
  /** Its content: an OpenEXR file that core/image/exr reads, or a picture as a screen shows it. */
  hash: string;
  kind: 'exr' | 'shown';
  widthPx: number;
  heightPx: number;
  remarks: string[];
  createdAt: Date;
}
export const References = new EntitySchema<ReferenceRow>({
  name: 'reference',
  tableName: 'reference_picture',
  columns: {
    id,
    projectId: uuid('project_id'),
    name: text('name'),
    hash: text('hash'),
    kind: text('kind'),
    widthPx: int('width_px'),
    heightPx: int('height_px'),
    remarks: json('remarks'),
    createdAt: time('created_at'),
  },
});
export const ENTITIES = [
  References,
  Cleanings,
  Deliveries,
  Reviews,
  Regions,
  MachineRows,
  Settings,
  LibraryEntries,
  EnvironmentMaps,
  Projects,
  Revisions,
  Cameras,
  Options,
  Variants,
  Patches,
  Pendings,
  Batches,
  Traces,
  Slices,
  Outputs,
  Renders,
];
