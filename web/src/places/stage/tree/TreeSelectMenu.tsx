// Ways to select many parts at once, and selections that were given a name.
import { Menu, Modal } from '@mantine/core';
import { IconStack2 } from '@tabler/icons-react';
import type { Project } from '@variscen/contract';
import type { ResolvedState, SceneIndex } from '@variscen/core/looks';
import { useState } from 'react';
import type { Met } from '../../../engine/met.ts';
import { inverse, sameMaterial, withChildren } from '../../../model/selection.ts';
import type { Hierarchy, TreeRow } from '../../../model/treeRows.ts';
import { count, plural } from '../../../ui/format.ts';
import { NameForm } from '../../../ui/forms.tsx';
import styles from './Tree.module.css';

type Sets = Project['sets'];
interface Props {
  sets: Sets;
  index: SceneIndex | undefined;
  state: ResolvedState | undefined;
  hierarchy: Hierarchy | undefined;
  rows: readonly TreeRow[];
  nodes: readonly number[];
  hasCamera: boolean;
  onNodes: (nodes: readonly number[]) => void;
  onSets: (sets: Sets) => void;
  onMet: (what: Met) => void;
}
export function TreeSelectMenu(p: Props) {
  const { sets, index, state, hierarchy, rows, nodes, hasCamera, onNodes, onSets, onMet } = p;
  const [isNaming, setNaming] = useState(false);
  const document = index?.document;
  const none = !nodes.length;
  return (
    <>
      <Menu position="bottom-end">
        <Menu.Target>
          <button
            type="button"
            className="tool"
            aria-label="Select and named selections"
            title="Select and named selections"
          >
            <IconStack2 size={15} stroke={1.6} />
          </button>
        </Menu.Target>
        <Menu.Dropdown mah={460} className={styles.layerNames}>
          <Menu.Item disabled={!rows.length} onClick={() => onNodes(rows.map((r) => r.node))}>
            Select all {count(rows.length)} rows
          </Menu.Item>
          <Menu.Item disabled={none} onClick={() => hierarchy && onNodes(withChildren(hierarchy, nodes))}>
            Add children
          </Menu.Item>
          <Menu.Item
            disabled={none}
            onClick={() => document && hierarchy && onNodes(inverse(document, hierarchy, nodes))}
          >
            Invert selection
          </Menu.Item>
          <Menu.Item
            disabled={none || !state}
            onClick={() => document && hierarchy && state && onNodes(sameMaterial(document, hierarchy, state, nodes))}
          >
            Select same material
          </Menu.Item>
          <Menu.Item disabled={!hasCamera} onClick={() => onMet('seen')}>
            Select what the camera sees
          </Menu.Item>
          <Menu.Item disabled={!hasCamera} onClick={() => onMet('unneeded')}>
            Select what this camera does not need
          </Menu.Item>
          <Menu.Label>Named selections</Menu.Label>
          {sets.map((s) => (
            <Menu.Item
              key={s.name}
              rightSection={<span className="mono faint">{count(s.paths.length)}</span>}
              onClick={() => index && onNodes(s.paths.flatMap((path) => index.nodes.get(path) ?? []))}
            >
              {s.name}
            </Menu.Item>
          ))}
          <Menu.Item disabled={none} onClick={() => setNaming(true)}>
            Name this selection…
          </Menu.Item>
          {sets.length > 0 && <Menu.Label>Forget</Menu.Label>}
          {sets.map((s) => (
            <Menu.Item key={s.name} onClick={() => onSets(sets.filter((x) => x !== s))}>
              {s.name}
            </Menu.Item>
          ))}
        </Menu.Dropdown>
      </Menu>
      {isNaming && document && (
        <NameSelection
          sets={sets}
          paths={nodes.map((n) => document.nodes[n]!.path)}
          onSets={onSets}
          onClose={() => setNaming(false)}
        />
      )}
    </>
  );
}

interface NameProps {
  sets: Sets;
  paths: string[];
  onSets: (sets: Sets) => void;
  onClose: () => void;
}
function NameSelection({ sets, paths, onSets, onClose }: NameProps) {
  const isNamed = (name: string) => (s: Sets[number]) => s.name.toLowerCase() === name.toLowerCase();
  const keep = (name: string) => {
    onSets([...sets.filter((s) => !isNamed(name)(s)), { name, paths }]);
    onClose();
  };
  return (
    <Modal opened onClose={onClose} title={`Name this selection of ${plural(paths.length, 'part')}`}>
      <NameForm
        label="Keep selection"
        onGo={keep}
        onCancel={onClose}
        describe={(name) => (sets.some(isNamed(name)) ? 'Takes the place of the one with that name.' : undefined)}
      />
    </Modal>
  );
}
