import { type Property, ofObject } from '../property.ts';

export const VISIBILITY_PROPERTIES: readonly Property[] = [
  { id: 'object.shown', facet: 'visibility', on: 'object', label: 'Shown', type: 'boolean', base: ofObject(true) },
  {
    id: 'object.seenByCamera',
    facet: 'visibility',
    on: 'object',
    label: 'Seen by the camera',
    type: 'boolean',
    base: ofObject(true),
  },
  {
    id: 'object.seenInReflections',
    facet: 'visibility',
    on: 'object',
    label: 'Seen in reflections',
    type: 'boolean',
    base: ofObject(true),
  },
  {
    id: 'object.castsShadow',
    facet: 'visibility',
    on: 'object',
    label: 'Casts shadow',
    type: 'boolean',
    base: ofObject(true),
  },
  {
    id: 'object.catcher',
    facet: 'visibility',
    on: 'object',
    label: 'Shadow catcher',
    type: 'boolean',
    base: ofObject(false),
  },
];
