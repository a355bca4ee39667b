// Cameras and looks of a project, and the library of looks.
import type { Change, Facet, LooksFile } from '@variscen/core/looks';
import type { CameraHandling, CameraSettings } from '@variscen/core/scene';
import type { Tag } from '@variscen/contract';
import { EntitySchema } from 'typeorm';
import { id, int, json, nullable, text, time, uuid } from './columns.ts';

export interface CameraRow {
  id: string;
  projectId: string;
  name: string;
  ordinal: number;
  settings: CameraSettings;
  handling: CameraHandling;
}
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

export interface PatchRow {
  id: string;
  projectId: string;
  cameraId: string;
  variantId: string | null;
  changes: Change[];
}
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

export interface PendingRow {
  projectId: string;
  destination: string;
  changes: Change[];
}
export const Pendings = new EntitySchema<PendingRow>({
  name: 'pending',
  tableName: 'pending',
  columns: {
    projectId: { ...uuid('project_id'), primary: true },
    destination: { ...text('destination'), primary: true },
    changes: json('changes'),
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
