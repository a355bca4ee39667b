// Every route of the HTTP API, declared once: the server mounts them from here, so that what is described is what there is.
import * as z from 'zod';
import {
  changesSchema,
  destinationSchema,
  facetSchema,
  hashSchema,
  idSchema,
  nameSchema,
  optionSchema,
  valueKeysSchema,
  variantSchema,
} from './looks.ts';
import {
  cameraHandlingSchema,
  cameraSchema,
  cameraSettingsSchema,
  cameraValuesSchema,
  environmentMapSchema,
  handMatchSchema,
  historyHeadSchema,
  historyStepSchema,
  matchPreviewSchema,
  projectSchema,
  projectSummarySchema,
  revisionSchema,
  selectionSetSchema,
} from './project.ts';
import { byHandSchema, libraryEntrySchema, looksFileSchema, looksMatchSchema, looksSourceSchema } from './looksFile.ts';
import {
  batchSchema,
  boardSchema,
  healthSchema,
  leaseSchema,
  planRequestSchema,
  planSchema,
  profileSchema,
  queueSchema,
  renderFileKindSchema,
  renderSchema,
  traceResultSchema,
  traceStageSchema,
} from './render.ts';

export interface RouteSpec {
  readonly method: 'get' | 'post' | 'put' | 'patch' | 'delete';
  /** OpenAPI form: /api/projects/{projectId} */
  readonly path: string;
  readonly summary: string;
  readonly params?: z.ZodObject;
  readonly query?: z.ZodObject;
  readonly body?: z.ZodType;
  /** The body is bytes of this media type. */
  readonly upload?: string;
  readonly response?: z.ZodType;
  /** The response is bytes or a stream of this media type. */
  readonly download?: string;
  /** Only render nodes, by their token. */
  readonly node?: boolean;
}

const project = z.object({ projectId: idSchema });
const none = z.object({});
const part = (name: string) => z.object({ projectId: idSchema, [name]: idSchema });
const trace = z.object({ traceId: idSchema });
/** Names of files are kept without the folders that a program may put before them. */
const fileNameSchema = z
  .string()
  .min(1)
  .max(255)
  .overwrite((s) => s.replace(/^.*[\\/]/s, ''))
  .check(z.minLength(1, 'A file needs a name.'));
const keptSchema = z.object({ project: projectSchema, optionIds: z.array(idSchema), variantId: idSchema.nullable() });

export const ROUTES = {
  health: { method: 'get', path: '/api/health', summary: 'Which parts are up.', response: healthSchema },
  listProjects: {
    method: 'get',
    path: '/api/projects',
    summary: 'All projects.',
    response: z.array(projectSummarySchema),
  },
  createProject: {
    method: 'post',
    path: '/api/projects',
    summary: 'Makes an empty project.',
    body: z.object({ name: nameSchema }),
    response: projectSchema,
  },
  getProject: {
    method: 'get',
    path: '/api/projects/{projectId}',
    summary: 'A project with its cameras, looks and pending edits.',
    params: project,
    response: projectSchema,
  },
  updateProject: {
    method: 'patch',
    path: '/api/projects/{projectId}',
    summary: 'Renames a project or changes the templates of its files and variants.',
    params: project,
    body: z.object({
      name: nameSchema.optional(),
      nameTemplate: z.string().optional(),
      variantTemplate: z.string().optional(),
    }),
    response: projectSchema,
  },
  deleteProject: {
    method: 'delete',
    path: '/api/projects/{projectId}',
    summary: 'Deletes a project. Rendered files stay on disk.',
    params: project,
    response: none,
  },
  importScene: {
    method: 'post',
    path: '/api/projects/{projectId}/scene',
    summary:
      'Brings a scene file in (.glb, .gltf, .obj, .zip). Answers when it is stored: in force in a project without a scene, offered as a newer revision in one that has.',
    params: project,
    query: z.object({ fileName: fileNameSchema, metresPerUnit: z.coerce.number().min(1e-6).max(1e6).optional() }),
    upload: 'application/octet-stream',
    response: revisionSchema,
  },
  importAsset: {
    method: 'post',
    path: '/api/assets',
    summary: 'Stores a picture (PNG, JPEG, TIFF, WebP): a plate of a camera, a map of a material.',
    query: z.object({ fileName: fileNameSchema }),
    upload: 'application/octet-stream',
    response: z.object({
      hash: hashSchema,
      name: z.string(),
      widthPx: z.int(),
      heightPx: z.int(),
      mediaType: z.string(),
    }),
  },
  importLut: {
    method: 'post',
    path: '/api/luts',
    summary: 'Brings a LUT in (.cube, three-dimensional). A grade refers to it by its value.',
    query: z.object({ fileName: fileNameSchema }),
    upload: 'application/octet-stream',
    response: z.object({ value: z.string(), name: z.string(), size: z.int() }),
  },
  listEnvironments: {
    method: 'get',
    path: '/api/environments',
    summary: 'Environment maps that were brought in.',
    response: z.array(environmentMapSchema),
  },
  importEnvironment: {
    method: 'post',
    path: '/api/environments',
    summary: 'Brings an environment map in (Radiance HDR, OpenEXR; latitude-longitude).',
    query: z.object({ fileName: fileNameSchema }),
    upload: 'application/octet-stream',
    response: environmentMapSchema.extend({ remarks: z.array(z.string()) }),
  },
  exportScene: {
    method: 'get',
    path: '/api/projects/{projectId}/scene.glb',
    summary:
      'The scene as GLB, with options of Materials as its material variants. Without animation, skins and morph targets.',
    params: project,
    query: z.object({
      options: z
        .string()
        .regex(/^([0-9a-f-]{36}(,[0-9a-f-]{36}){0,499})?$/, 'Up to 500 options, with commas between.')
        .default(''),
    }),
    download: 'model/gltf-binary',
  },
  listRevisions: {
    method: 'get',
    path: '/api/projects/{projectId}/revisions',
    summary: 'Every revision of the scene with its report, newest first.',
    params: project,
    response: z.array(revisionSchema),
  },
  matchRevision: {
    method: 'post',
    path: '/api/projects/{projectId}/revisions/{revisionId}/match',
    summary: 'What an offered revision holds of what is known, and what is gone, moved and new. Changes nothing.',
    params: part('revisionId'),
    body: z.object({ byHand: z.array(handMatchSchema).max(20_000) }),
    response: matchPreviewSchema,
  },
  acceptRevision: {
    method: 'post',
    path: '/api/projects/{projectId}/revisions/{revisionId}/accept',
    summary: 'Puts an offered revision in force.',
    params: part('revisionId'),
    body: z.object({
      byHand: z.array(handMatchSchema).max(20_000),
      addCameras: z.array(z.string()).max(1000),
      moveCameraIds: z.array(idSchema).max(1000),
    }),
    response: projectSchema,
  },
  useRevision: {
    method: 'post',
    path: '/api/projects/{projectId}/revisions/{revisionId}/use',
    summary: 'Goes to another accepted revision.',
    params: part('revisionId'),
    response: projectSchema,
  },
  discardRevision: {
    method: 'delete',
    path: '/api/projects/{projectId}/revisions/{revisionId}',
    summary: 'Discards an offered revision.',
    params: part('revisionId'),
    response: projectSchema,
  },
  retarget: {
    method: 'post',
    path: '/api/projects/{projectId}/retarget',
    summary:
      'Moves what is recorded for one thing to another of its kind. Where both set the same value, the other keeps its own.',
    params: project,
    body: z.object({ from: z.string().max(4000), to: z.string().max(4000) }),
    response: projectSchema,
  },
  putSets: {
    method: 'put',
    path: '/api/projects/{projectId}/sets',
    summary: 'Replaces the named selections.',
    params: project,
    body: z.object({ sets: z.array(selectionSetSchema).max(500) }),
    response: projectSchema,
  },
  history: {
    method: 'get',
    path: '/api/projects/{projectId}/history',
    summary: 'Edits that can be taken back or done again, newest first.',
    params: project,
    response: z.array(historyStepSchema),
  },
  undo: {
    method: 'post',
    path: '/api/projects/{projectId}/undo',
    summary: 'Takes the last edit back.',
    params: project,
    response: z.object({ label: z.string(), project: projectSchema }),
  },
  redo: {
    method: 'post',
    path: '/api/projects/{projectId}/redo',
    summary: 'Does the last edit again that was taken back.',
    params: project,
    response: z.object({ label: z.string(), project: projectSchema }),
  },
  goToStep: {
    method: 'post',
    path: '/api/projects/{projectId}/history/{stepId}',
    summary: 'Takes back or does again until this step is the last that is done; 0 takes all back.',
    params: z.object({ projectId: idSchema, stepId: z.string().regex(/^\d{1,18}$/) }),
    response: projectSchema,
  },
  createCamera: {
    method: 'post',
    path: '/api/projects/{projectId}/cameras',
    summary: 'Adds a camera, after another where one is named.',
    params: project,
    body: z.object({
      name: nameSchema,
      settings: cameraSettingsSchema,
      handling: cameraHandlingSchema.optional(),
      afterId: idSchema.optional(),
    }),
    response: cameraSchema,
  },
  updateCamera: {
    method: 'patch',
    path: '/api/projects/{projectId}/cameras/{cameraId}',
    summary: 'Changes a camera. A locked one is not moved.',
    params: part('cameraId'),
    body: z.object({
      name: nameSchema.optional(),
      settings: cameraSettingsSchema.optional(),
      handling: cameraHandlingSchema.optional(),
    }),
    response: cameraSchema,
  },
  updateCameras: {
    method: 'patch',
    path: '/api/projects/{projectId}/cameras',
    summary: 'Sets the same values of several cameras, as one edit.',
    params: project,
    body: z.object({
      cameraIds: z.array(idSchema).min(1).max(1000),
      settings: cameraValuesSchema.optional(),
      handling: cameraHandlingSchema.partial().optional(),
    }),
    response: projectSchema,
  },
  orderCameras: {
    method: 'put',
    path: '/api/projects/{projectId}/cameras/order',
    summary: 'Puts the cameras in order.',
    params: project,
    body: z.object({ cameraIds: z.array(idSchema).max(1000) }),
    response: projectSchema,
  },
  deleteCamera: {
    method: 'delete',
    path: '/api/projects/{projectId}/cameras/{cameraId}',
    summary: 'Deletes a camera. Its renders stay on disk.',
    params: part('cameraId'),
    response: none,
  },
  createOption: {
    method: 'post',
    path: '/api/projects/{projectId}/options',
    summary: 'Makes an option.',
    params: project,
    body: z.object({ facet: facetSchema, name: nameSchema, changes: changesSchema.optional() }),
    response: optionSchema,
  },
  duplicateOption: {
    method: 'post',
    path: '/api/projects/{projectId}/options/{optionId}/duplicate',
    summary: 'Makes an option with the same changes, after the first.',
    params: part('optionId'),
    body: z.object({ name: nameSchema.optional() }),
    response: optionSchema,
  },
  orderOptions: {
    method: 'put',
    path: '/api/projects/{projectId}/options/order',
    summary: 'Puts options of one facet in order.',
    params: project,
    body: z.object({ optionIds: z.array(idSchema).max(2000) }),
    response: projectSchema,
  },
  updateOption: {
    method: 'patch',
    path: '/api/projects/{projectId}/options/{optionId}',
    summary: 'Renames an option, sets its notes or tag, or replaces its changes.',
    params: part('optionId'),
    body: z.object({
      name: nameSchema.optional(),
      changes: changesSchema.optional(),
      notes: optionSchema.shape.notes.optional(),
      tag: optionSchema.shape.tag.optional(),
    }),
    response: optionSchema,
  },
  deleteOption: {
    method: 'delete',
    path: '/api/projects/{projectId}/options/{optionId}',
    summary: 'Deletes an option. One that variants use only with fromVariants=yes, which takes it out of them.',
    params: part('optionId'),
    query: z.object({ fromVariants: z.literal('yes').optional() }),
    response: none,
  },
  packLooks: {
    method: 'get',
    path: '/api/projects/{projectId}/looks',
    summary: 'Options of a project as a file that another project can take.',
    params: project,
    query: z.object({
      options: z.string().regex(/^[0-9a-f-]{36}(,[0-9a-f-]{36}){0,499}$/, 'Up to 500 options, with commas between.'),
    }),
    response: looksFileSchema,
  },
  matchLooks: {
    method: 'post',
    path: '/api/projects/{projectId}/looks/match',
    summary: 'What options from a file or the library find in the scene of a project. Changes nothing.',
    params: project,
    body: z.object({ source: looksSourceSchema, byHand: byHandSchema }),
    response: looksMatchSchema,
  },
  bringLooks: {
    method: 'post',
    path: '/api/projects/{projectId}/looks',
    summary:
      'Makes options of a file or the library in a project, all or some of them (by their place in it), as one edit.',
    params: project,
    body: z.object({
      source: looksSourceSchema,
      byHand: byHandSchema,
      only: z.array(z.int().nonnegative()).max(500).optional(),
      keepUnmatched: z.boolean().default(false),
    }),
    response: z.object({ project: projectSchema, optionIds: z.array(idSchema), left: z.int() }),
  },
  listLibrary: {
    method: 'get',
    path: '/api/library',
    summary: 'Everything in the library, newest first.',
    response: z.array(libraryEntrySchema),
  },
  saveToLibrary: {
    method: 'post',
    path: '/api/library',
    summary: 'Saves options of a project, as they are now, under a name.',
    body: z.object({ projectId: idSchema, optionIds: z.array(idSchema).min(1).max(500), name: nameSchema }),
    response: libraryEntrySchema,
  },
  libraryFile: {
    method: 'get',
    path: '/api/library/{entryId}',
    summary: 'An entry of the library as a file.',
    params: z.object({ entryId: idSchema }),
    response: looksFileSchema,
  },
  renameLibraryEntry: {
    method: 'patch',
    path: '/api/library/{entryId}',
    summary: 'Renames an entry of the library.',
    params: z.object({ entryId: idSchema }),
    body: z.object({ name: nameSchema }),
    response: libraryEntrySchema,
  },
  deleteLibraryEntry: {
    method: 'delete',
    path: '/api/library/{entryId}',
    summary: 'Deletes an entry of the library. Options that were made of it stay.',
    params: z.object({ entryId: idSchema }),
    response: none,
  },
  createVariant: {
    method: 'post',
    path: '/api/projects/{projectId}/variants',
    summary: 'Makes a variant of options, named from them unless a name is given.',
    params: project,
    body: z.object({ optionIds: z.array(idSchema).max(100), name: nameSchema.optional() }),
    response: variantSchema,
  },
  createVariants: {
    method: 'post',
    path: '/api/projects/{projectId}/variants/combine',
    summary: 'Makes a variant of each combination of options, as one edit; those that are there already are left out.',
    params: project,
    body: z.object({
      combinations: z.array(z.array(idSchema).max(100)).min(1, 'Choose at least one combination.').max(2000),
    }),
    response: z.object({ project: projectSchema, variantIds: z.array(idSchema) }),
  },
  updateVariant: {
    method: 'patch',
    path: '/api/projects/{projectId}/variants/{variantId}',
    summary: 'Changes a variant. A name that is null is made from its options again.',
    params: part('variantId'),
    body: z.object({
      name: nameSchema.nullable().optional(),
      optionIds: z.array(idSchema).max(100).optional(),
      excludedCameraIds: z.array(idSchema).max(1000).optional(),
      notes: variantSchema.shape.notes.optional(),
    }),
    response: variantSchema,
  },
  orderVariants: {
    method: 'put',
    path: '/api/projects/{projectId}/variants/order',
    summary: 'Puts the variants in order.',
    params: project,
    body: z.object({ variantIds: z.array(idSchema).max(2000) }),
    response: projectSchema,
  },
  deleteVariant: {
    method: 'delete',
    path: '/api/projects/{projectId}/variants/{variantId}',
    summary: 'Deletes a variant. Its renders stay on disk.',
    params: part('variantId'),
    response: none,
  },
  editPending: {
    method: 'post',
    path: '/api/projects/{projectId}/pending',
    summary: 'Sets and clears pending edits of a destination; “all” clears every one of them.',
    params: project,
    body: z.object({
      destination: destinationSchema,
      set: changesSchema.default([]),
      clear: z.union([valueKeysSchema, z.literal('all')]).default([]),
    }),
    response: historyHeadSchema,
  },
  movePending: {
    method: 'post',
    path: '/api/projects/{projectId}/pending/move',
    summary: 'Moves pending edits to another destination, where they stay pending.',
    params: project,
    body: z.object({ from: destinationSchema, to: destinationSchema, only: valueKeysSchema.optional() }),
    response: projectSchema,
  },
  keepPending: {
    method: 'post',
    path: '/api/projects/{projectId}/pending/keep',
    summary:
      'Writes pending edits of a destination into it; with names, into a new option of each named facet, and on wish a new variant with them.',
    params: project,
    body: z.object({
      destination: destinationSchema,
      only: valueKeysSchema.optional(),
      as: z
        .array(z.object({ facet: facetSchema, name: nameSchema }))
        .min(1)
        .max(6)
        .optional(),
      variant: z.object({ fromVariantId: idSchema, name: nameSchema.optional() }).optional(),
    }),
    response: keptSchema,
  },
  editRecorded: {
    method: 'post',
    path: '/api/projects/{projectId}/recorded',
    summary: 'Sets and clears values that are recorded in the base, an option or a patch.',
    params: project,
    body: z.object({
      destination: destinationSchema,
      set: changesSchema.default([]),
      clear: valueKeysSchema.default([]),
    }),
    response: projectSchema,
  },
  board: {
    method: 'get',
    path: '/api/projects/{projectId}/board',
    summary: 'Every cell with its state and latest render.',
    params: project,
    response: boardSchema,
  },
  cellHistory: {
    method: 'get',
    path: '/api/projects/{projectId}/cells/{cameraId}/{variantId}',
    summary: 'All renders of a cell, newest first.',
    params: z.object({ projectId: idSchema, cameraId: idSchema, variantId: idSchema }),
    response: z.array(renderSchema),
  },
  profiles: {
    method: 'get',
    path: '/api/profiles',
    summary: 'Profiles to render with.',
    response: z.array(profileSchema),
  },
  plan: {
    method: 'post',
    path: '/api/projects/{projectId}/plan',
    summary: 'What rendering these cells would do: traces, memory, files, errors. Changes nothing.',
    params: project,
    body: planRequestSchema,
    response: planSchema,
  },
  createBatch: {
    method: 'post',
    path: '/api/projects/{projectId}/batches',
    summary: 'Plans and queues, in one transaction. Refused where the plan has errors.',
    params: project,
    body: planRequestSchema,
    response: batchSchema,
  },
  queue: {
    method: 'get',
    path: '/api/queue',
    summary: 'Traces of all projects, and the render nodes.',
    response: queueSchema,
  },
  cancelTrace: {
    method: 'post',
    path: '/api/traces/{traceId}/cancel',
    summary: 'Cancels a waiting or running trace.',
    params: trace,
    response: none,
  },
  retryTrace: {
    method: 'post',
    path: '/api/traces/{traceId}/retry',
    summary: 'Queues a failed or cancelled trace again.',
    params: trace,
    response: none,
  },
  tracePreview: {
    method: 'get',
    path: '/api/traces/{traceId}/preview',
    summary: 'The picture so far.',
    params: trace,
    download: 'image/png',
  },
  renderFile: {
    method: 'get',
    path: '/api/renders/{renderId}/files/{kind}',
    summary: 'A file of a render.',
    params: z.object({ renderId: idSchema, kind: renderFileKindSchema }),
    download: 'application/octet-stream',
  },
  asset: {
    method: 'get',
    path: '/api/assets/{hash}',
    summary: 'Bytes by content hash: scene documents, geometry, images.',
    params: z.object({ hash: hashSchema }),
    download: 'application/octet-stream',
  },
  assets: {
    method: 'get',
    path: '/api/assets',
    summary:
      'Several contents in one answer: for each its length in bytes as four bytes, little-endian, and then its bytes.',
    query: z.object({
      hashes: z.string().regex(/^[0-9a-f]{64}(,[0-9a-f]{64}){0,99}$/, 'Up to 100 content hashes, with commas between.'),
    }),
    download: 'application/octet-stream',
  },
  events: {
    method: 'get',
    path: '/api/events',
    summary: 'What changes, as server-sent events (Event).',
    download: 'text/event-stream',
  },
  nodeHello: {
    method: 'post',
    path: '/api/node/hello',
    summary: 'A node says that it is there.',
    node: true,
    body: z.object({ name: nameSchema, threads: z.int().min(1).max(1024) }),
    response: none,
  },
  nodeGone: {
    method: 'post',
    path: '/api/node/gone',
    summary: 'A node is gone: what it was rendering is queued again at once.',
    node: true,
    body: z.object({ name: nameSchema }),
    response: none,
  },
  nodeHeld: {
    method: 'post',
    path: '/api/node/held',
    summary: 'Of the finished traces that a node holds, those that nobody wants any more.',
    node: true,
    body: z.object({ traceIds: z.array(idSchema).max(10_000) }),
    response: z.object({ unwanted: z.array(idSchema) }),
  },
  nodeLease: {
    method: 'post',
    path: '/api/node/lease',
    summary: 'The next trace, or null.',
    node: true,
    body: z.object({ name: nameSchema }),
    response: leaseSchema.nullable(),
  },
  nodeProgress: {
    method: 'post',
    path: '/api/node/traces/{traceId}/progress',
    summary: 'Renews the lease; answers whether to go on.',
    node: true,
    params: trace,
    body: z.object({
      token: z.string(),
      fraction: z.number().min(0).max(1),
      samplesDone: z.int().nonnegative(),
      stage: traceStageSchema.default('tracing'),
    }),
    response: z.object({ goOn: z.boolean() }),
  },
  nodePreview: {
    method: 'put',
    path: '/api/node/traces/{traceId}/preview',
    summary: 'The picture so far.',
    node: true,
    params: trace,
    query: z.object({ token: z.string() }),
    upload: 'image/png',
    response: none,
  },
  nodeFile: {
    method: 'put',
    path: '/api/node/traces/{traceId}/files',
    summary: 'One finished file, put aside until the trace is complete.',
    node: true,
    params: trace,
    query: z.object({ token: z.string(), cell: z.coerce.number().int().nonnegative(), kind: renderFileKindSchema }),
    upload: 'application/octet-stream',
    response: none,
  },
  nodeComplete: {
    method: 'post',
    path: '/api/node/traces/{traceId}/complete',
    summary: 'All files are there: they become renders. Said again, it changes nothing.',
    node: true,
    params: trace,
    body: traceResultSchema,
    response: none,
  },
  nodeFail: {
    method: 'post',
    path: '/api/node/traces/{traceId}/fail',
    summary: 'The trace cannot be rendered, or is finished and its files cannot be stored.',
    node: true,
    params: trace,
    body: z.object({ token: z.string(), message: z.string().max(4000), finished: z.boolean().default(false) }),
    response: none,
  },
} as const satisfies Record<string, RouteSpec>;
export type RouteName = keyof typeof ROUTES;
