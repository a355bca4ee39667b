// The values of what is selected.
import { Checkbox } from '@mantine/core';
import {
  lightTarget,
  materialTarget,
  objectTarget,
  parseTarget,
  propertiesFor,
  targetLabel,
} from '@variscen/core/looks';
import { type SceneNode, placedTriangles } from '@variscen/core/scene';
import { useState } from 'react';
import { count } from '../../../ui/format.ts';
import { ChangedPanel } from './ChangedPanel.tsx';
import { CopyPaste } from './CopyPaste.tsx';
import styles from './Inspector.module.css';
import { ManyPanel } from './ManyPanel.tsx';
import { MaterialUse } from './MaterialUse.tsx';
import { OptionsTouching } from './OptionsTouching.tsx';
import { TargetSection } from './TargetSection.tsx';
import { LightActions } from '../lights/LightActions.tsx';
import { LIGHT_WORDS } from '../../../model/lightWords.ts';
import { type Inspected, type InspectorProps, materialsOf } from './inspected.ts';

export function Inspector(p: InspectorProps) {
  const { index, state } = p;
  const [onlyChanged, setOnlyChanged] = useState(false);
  if (!index || !state) return null;
  return (
    <>
      <Checkbox
        size="xs"
        mb={10}
        label="Only what is changed here"
        checked={onlyChanged}
        onChange={(e) => setOnlyChanged(e.currentTarget.checked)}
      />
      <Body {...p} index={index} state={state} onlyChanged={onlyChanged} />
    </>
  );
}

function Body(p: Inspected & { onlyChanged: boolean }) {
  const { index, selected, nodes, onlyChanged } = p;
  if (nodes.length > 1) return <ManyPanel {...p} />;
  if (selected && isThere(index, selected)) return <OnePanel {...p} selected={selected} />;
  if (!selected && onlyChanged) return <ChangedPanel {...p} />;
  return (
    <div className={`empty ${styles.empty}`}>
      <p>Select an object in the view or the tree to see its values, or the environment or the grade.</p>
    </div>
  );
}

const isNode = (kind: string): boolean => kind === 'object' || kind === 'light';
function isThere(index: Inspected['index'], target: string): boolean {
  const t = parseTarget(target);
  return t !== undefined && (!isNode(t.kind) || index.node(t.name) !== undefined);
}

/** One thing: its own values, and those of what it wears. */
function OnePanel(p: Inspected & { selected: string; onlyChanged: boolean }) {
  const { index, state, selected, onlyChanged } = p;
  const { kind, name } = parseTarget(selected)!;
  const node = isNode(kind) ? index.node(name) : undefined;
  const all = node ? targetsOf(p, node, name) : [selected];
  const isChanged = (target: string) => propertiesFor(index, target).some((q) => state.provenance(target, q.id));
  const targets = onlyChanged ? all.filter(isChanged) : all;
  return (
    <>
      <div className={styles.copyPasteFrame}>
        <h3 className={styles.label}>{index.label(selected)}</h3>
        <CopyPaste {...p} targets={all} from={targetLabel(selected)} />
      </div>
      <div className={`dim ${styles.node}`}>
        {node && aboutNode(p, node)}
        {kind === 'material' && <MaterialUse {...p} name={name} />}
        {kind === 'scene' && 'Every object that neither says otherwise itself nor in its group'}
        {!node && kind !== 'material' && kind !== 'scene' && 'The whole scene'}
      </div>
      {node?.light !== undefined && <LightActions {...p} paths={[name]} />}
      {targets.map((target) => (
        <TargetSection
          key={target}
          {...p}
          target={target}
          titled={target.startsWith('material:')}
          onlyChanged={onlyChanged}
        />
      ))}
      {onlyChanged && !targets.length && <p className="dim">This variant changes nothing of it.</p>}
      <OptionsTouching {...p} targets={all} />
    </>
  );
}

function targetsOf({ index, state }: Inspected, node: SceneNode, name: string): string[] {
  return [
    ...(node.light !== undefined ? [lightTarget(name)] : []),
    ...(node.parts || node.light === undefined ? [objectTarget(name)] : []),
    ...materialsOf(index, state, name).map(materialTarget),
  ];
}

function aboutNode({ index: { document } }: Inspected, node: SceneNode): string {
  const light = node.light === undefined ? undefined : document.lights[node.light];
  const words = [
    light && LIGHT_WORDS[light.type],
    node.parts && `${count(placedTriangles({ ...document, nodes: [node] }))} triangles`,
    node.added && 'added by looks',
    !node.added && node.path.includes('/') && node.path.slice(0, node.path.lastIndexOf('/')),
  ];
  return words.filter(Boolean).join(' · ');
}
