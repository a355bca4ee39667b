// What a change is about: “object:Stall/Counter/Kettle”, “light:Lanterns/Lantern 4”, “material:Copper”, “environment” or “grade”.
export type TargetKind = 'object' | 'light' | 'material' | 'environment' | 'grade';
const NAMED: readonly string[] = ['object', 'light', 'material'];
const SINGLE: readonly string[] = ['environment', 'grade'];

export const objectTarget = (path: string): string => `object:${path}`;
export const lightTarget = (path: string): string => `light:${path}`;
export const materialTarget = (name: string): string => `material:${name}`;

export function parseTarget(target: string): { readonly kind: TargetKind; readonly name: string } | undefined {
  if (SINGLE.includes(target)) return { kind: target as TargetKind, name: '' };
  const colon = target.indexOf(':'), kind = target.slice(0, colon), name = target.slice(colon + 1);
  return colon > 0 && name && NAMED.includes(kind) ? { kind: kind as TargetKind, name } : undefined;
}

/** A copy that a look makes of a thing, and what is in it: “Ware/Kettle#2”, “Ware#2/Kettle”. */
export const copyPath = (path: string, number: number): string => `${path}#${number}`;
/** What a path is a copy of; the path itself where it is none. */
export const originalPath = (path: string): string => (path.includes('#') ? path.replace(/#\d+(?=\/|$)/g, '') : path);

/** As a person would call it: the last part of a path. */
export function targetLabel(target: string): string {
  const t = parseTarget(target);
  if (!t) return target;
  if (t.kind === 'environment') return 'Environment';
  if (t.kind === 'grade') return 'Grade';
  return t.kind === 'material' ? t.name : t.name.slice(t.name.lastIndexOf('/') + 1);
}
