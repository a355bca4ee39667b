// What a change is about: “object:Stall/Counter/Kettle”, “light:Lanterns/Lantern 4”, “material:Copper”, “environment”,
// “grade” or “scene”, all objects together.
import type { LightType } from '../scene/index.ts';

export type TargetKind = 'object' | 'light' | 'material' | SingleKind;
/** Kinds of which a scene has one, without a name. */
export type SingleKind = 'environment' | 'grade' | 'scene';
const NAMED: readonly string[] = ['object', 'light', 'material'];
const SINGLES: Readonly<Record<SingleKind, string>> = {
  environment: 'Environment',
  grade: 'Grade',
  scene: 'Whole scene',
};
export const isSingle = (kind: string | undefined): kind is SingleKind =>
  kind !== undefined && Object.hasOwn(SINGLES, kind);

export const objectTarget = (path: string): string => `object:${path}`;
export const lightTarget = (path: string): string => `light:${path}`;
export const materialTarget = (name: string): string => `material:${name}`;

export function parseTarget(target: string): { readonly kind: TargetKind; readonly name: string } | undefined {
  if (isSingle(target)) return { kind: target, name: '' };
  const colon = target.indexOf(':');
  const kind = target.slice(0, colon);
  const name = target.slice(colon + 1);
  return colon > 0 && name && NAMED.includes(kind) ? { kind: kind as TargetKind, name } : undefined;
}

/** A copy that a look makes of a thing, and what is in it: “Ware/Kettle#2”, “Ware#2/Kettle”. */
export const copyPath = (path: string, number: number): string => `${path}#${number}`;
/** What a path is a copy of; the path itself where it is none. */
export const originalPath = (path: string): string => (path.includes('#') ? path.replace(/#\d+(?=\/|$)/g, '') : path);

/** Says that an added light stands in a look. */
export const ADDED = 'light.added';
/** A light that looks add is told apart by its type and what a person calls it: “+spot/Key”. */
const ADDED_PATH = /^\+(sun|point|spot|rectangle|disc|ball)\/([^/]+)$/u;
export const addedPath = (type: LightType, name: string): string => `+${type}/${name}`;
export const parseAdded = (path: string): { readonly type: LightType; readonly name: string } | undefined => {
  const [, type, name] = path.startsWith('+') ? (ADDED_PATH.exec(path) ?? []) : [];
  return name === undefined ? undefined : { type: type as LightType, name };
};
export const isAddedPath = (path: string): boolean => parseAdded(path) !== undefined;

/** As a person would call it: the last part of a path. */
export function targetLabel(target: string): string {
  const t = parseTarget(target);
  if (!t) return target;
  if (isSingle(t.kind)) return SINGLES[t.kind];
  return t.kind === 'material' ? t.name : t.name.slice(t.name.lastIndexOf('/') + 1);
}
