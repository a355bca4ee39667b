// Projects, their scenes and what they hold for comparing.
import type { Change } from '@variscen/core/looks';
import type { Profile, ProfileException } from '@variscen/core/plan';
import type { ImportReport } from '@variscen/core/scene';
import type { Project, Revision } from '@variscen/contract';
import { EntitySchema } from 'typeorm';
import { id, int, json, nullable, text, time, uuid } from './columns.ts';

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
