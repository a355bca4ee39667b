// What the tree shows: by kind, by what is asked, by layer of the file, by material.
import { Menu } from '@mantine/core';
import { IconFilter } from '@tabler/icons-react';
import { type SceneDocument, materialLabelOf } from '@variscen/core/scene';
import { QUESTIONS, type Question } from '../../../model/treeQuestions.ts';
import { EVERYTHING, KINDS, type Kind, type TreeFilter } from '../../../model/treeRows.ts';
import styles from './Tree.module.css';

export const KIND_WORDS: Readonly<Record<Kind, string>> = {
  object: 'Objects',
  group: 'Groups',
  light: 'Lights',
  camera: 'Cameras',
};

interface Props {
  document: SceneDocument | undefined;
  layerNames: readonly string[];
  filter: TreeFilter;
  question: Question | null;
  onFilter: (change: (f: TreeFilter) => TreeFilter) => void;
  onQuestion: (question: Question | null) => void;
}
export function TreeFilterMenu({ document, layerNames, filter, question, onFilter, onQuestion }: Props) {
  const flip = <K extends 'kinds' | 'layers' | 'materials'>(key: K, value: TreeFilter[K][number]) =>
    onFilter((f) => flipped(f, key, value));
  return (
    <Menu closeOnItemClick={false} position="bottom-end">
      <Menu.Target>
        <button
          type="button"
          className="tool"
          aria-pressed={filter !== EVERYTHING || question !== null}
          aria-label="Filter the scene"
          title="Filter the scene"
        >
          <IconFilter size={15} stroke={1.6} />
        </button>
      </Menu.Target>
      <Menu.Dropdown mah={460} className={styles.layerNames}>
        <Menu.Label>Kind</Menu.Label>
        {KINDS.map((k) => (
          <Menu.Item key={k} leftSection={<Tick on={filter.kinds.includes(k)} />} onClick={() => flip('kinds', k)}>
            {KIND_WORDS[k]}
          </Menu.Item>
        ))}
        <Menu.Label>Only</Menu.Label>
        {(Object.keys(QUESTIONS) as Question[]).map((q) => (
          <Menu.Item
            key={q}
            leftSection={<Tick on={question === q} />}
            onClick={() => onQuestion(question === q ? null : q)}
          >
            {QUESTIONS[q]}
          </Menu.Item>
        ))}
        {layerNames.length > 0 && <Menu.Label>Layer of the file</Menu.Label>}
        {layerNames.map((l) => (
          <Menu.Item key={l} leftSection={<Tick on={filter.layers.includes(l)} />} onClick={() => flip('layers', l)}>
            {l}
          </Menu.Item>
        ))}
        <Menu.Label>Material</Menu.Label>
        {document?.materials.map((m) => (
          <Menu.Item
            key={m.name}
            leftSection={<Tick on={filter.materials.includes(m.name)} />}
            onClick={() => flip('materials', m.name)}
          >
            {materialLabelOf(m)}
          </Menu.Item>
        ))}
      </Menu.Dropdown>
    </Menu>
  );
}

function flipped<K extends 'kinds' | 'layers' | 'materials'>(
  f: TreeFilter,
  key: K,
  value: TreeFilter[K][number],
): TreeFilter {
  const listed = f[key] as readonly string[];
  const next = { ...f, [key]: listed.includes(value) ? listed.filter((x) => x !== value) : [...listed, value] };
  return next.kinds.length || next.layers.length || next.materials.length ? next : EVERYTHING;
}

function Tick({ on }: { on: boolean }) {
  return (
    <span aria-hidden className={styles.text}>
      {on ? '✓' : ''}
    </span>
  );
}
