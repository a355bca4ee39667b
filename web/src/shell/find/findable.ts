// What can be found by its name from anywhere: places, cameras, variants, options, objects, lights, materials, and a
// few things to do. What the page that is open can do is found on it (pageActions.ts).
import type { Project } from '@variscen/contract';
import { type SceneIndex, materialTarget, optionTitle } from '@variscen/core/looks';
import { targetOf } from '../../model/selection.ts';

export type Doing = 'undo' | 'redo' | 'help';
export interface Findable {
  readonly id: string;
  readonly label: string;
  /** What it is, or does. */
  readonly kind: string;
  /** Where it leads: a place of the application, what the Stage is asked to show, a button of this page. */
  readonly leads:
    | { readonly to: 'place'; readonly path: string }
    | { readonly to: 'stage'; readonly asks: Readonly<Record<string, string>> }
    | { readonly to: 'press'; readonly element: HTMLElement }
    | { readonly to: 'do'; readonly what: Doing };
}

const place = (label: string, path: string, kind = 'Go to'): Findable => ({
  id: `${kind} ${label}`,
  label,
  kind,
  leads: { to: 'place', path },
});
const onStage = (kind: string, id: string, label: string, asks: Readonly<Record<string, string>>): Findable => ({
  id: `${kind} ${id}`,
  label,
  kind,
  leads: { to: 'stage', asks },
});
const toDo = (label: string, what: Doing): Findable => ({ id: what, label, kind: 'Do', leads: { to: 'do', what } });

const ANYWHERE: readonly Findable[] = [
  place('Projects', '/projects'),
  place('Import a scene', '/projects', 'Do'),
  place('Queue', '/queue'),
  place('Machines and working hours', '/queue/machines'),
  place('Library', '/library'),
  toDo('Keys and words', 'help'),
];

export function findableIn(project: Project, scene: SceneIndex | undefined): Findable[] {
  const at = `/projects/${project.id}`;
  return [
    place('Stage', `${at}/stage`),
    place('Board', `${at}/board`),
    place('Cull', `${at}/cull`),
    place('Review', `${at}/review`),
    toDo('Undo', 'undo'),
    toDo('Redo', 'redo'),
    onStage('Do', 'plan', 'Open the plan view', { plan: 'open' }),
    ...project.cameras.map((c) => onStage('Camera', c.id, c.name, { camera: c.id })),
    ...project.variants.map((v) => onStage('Variant', v.id, v.name, { variant: v.id })),
    ...project.options.map((o) => onStage('Option', o.id, optionTitle(o), { to: `option:${o.id}` })),
    ...(scene ? partsOf(scene) : []),
  ];
}
export const findableAnywhere = (): readonly Findable[] => ANYWHERE;

function partsOf({ document }: SceneIndex): Findable[] {
  const kindOf = (n: (typeof document.nodes)[number]) => {
    if (n.light !== undefined) return 'Light';
    return n.parts ? 'Object' : 'Group';
  };
  return [
    ...document.nodes.map((n, i) => onStage(kindOf(n), n.path, n.path, { selected: targetOf(document, i) })),
    ...document.materials.map((m) => onStage('Material', m.name, m.name, { selected: materialTarget(m.name) })),
  ];
}

/**
 * What has all words of a question in its name or kind: names that begin with it first, then those of which a word
 * does, then shorter ones.
 */
export function foundAmong(list: readonly Findable[], question: string, most: number): Findable[] {
  const words = question.toLowerCase().split(/\s+/).filter(Boolean);
  const ranked = list.flatMap((f) => {
    const label = f.label.toLowerCase();
    const text = `${label} ${f.kind.toLowerCase()}`;
    if (!words.every((w) => text.includes(w))) return [];
    return [{ f, rank: rankOf(label, words[0] ?? '') }];
  });
  ranked.sort((a, b) => a.rank - b.rank || a.f.label.length - b.f.label.length);
  return ranked.slice(0, most).map(({ f }) => f);
}
function rankOf(label: string, word: string): number {
  if (label.startsWith(word)) return 0;
  const last = label.slice(label.lastIndexOf('/') + 1);
  if (last.startsWith(word)) return 1;
  return label.split(/[\s/:·,]+/).some((part) => part.startsWith(word)) ? 2 : 3;
}
