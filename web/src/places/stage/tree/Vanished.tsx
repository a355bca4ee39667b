// Recorded values of things that the present scene does not have: kept, counted, and given to another thing where
// somebody says so.
import { Modal, Select } from '@mantine/core';
import type { Project } from '@variscen/contract';
import { type Change, type SceneIndex, parseTarget, propertyOf, targetLabel } from '@variscen/core/looks';
import { materialLabelOf } from '@variscen/core/scene';
import { useMemo, useState } from 'react';
import { call } from '../../../api/client.ts';
import { useSession } from '../../../session/projectSession.ts';
import { plural } from '../../../ui/format.ts';
import { say } from '../../../ui/notify.ts';
import styles from './Vanished.module.css';

export interface VanishedThing {
  readonly target: string;
  readonly values: number;
  /** What it is recorded in. */
  readonly where: readonly string[];
}

function isGone(index: SceneIndex, t: NonNullable<ReturnType<typeof parseTarget>>): boolean {
  if (t.kind === 'material') return index.material(t.name) === undefined;
  return (t.kind === 'object' || t.kind === 'light') && index.indexOf(t.name) === undefined;
}

export function vanishedOf(
  p: Pick<Project, 'base' | 'options' | 'patches' | 'pending' | 'cameras'>,
  index: SceneIndex,
): VanishedThing[] {
  const out = new Map<string, { values: number; where: Set<string> }>();
  const look = (where: string, changes: readonly Change[]) => {
    for (const c of changes) {
      const t = parseTarget(c.target);
      const property = propertyOf(c.property);
      if (!t || !property || !isGone(index, t)) continue;
      const entry = out.get(c.target) ?? { values: 0, where: new Set<string>() };
      entry.values++;
      entry.where.add(where);
      out.set(c.target, entry);
    }
  };
  look('the base', p.base as Change[]);
  for (const o of p.options) look(o.name, o.changes as Change[]);
  for (const x of p.patches)
    look(`${p.cameras.find((c) => c.id === x.cameraId)?.name ?? 'a camera'} only`, x.changes as Change[]);
  for (const x of p.pending) look('pending edits', x.changes as Change[]);
  return [...out]
    .map(([target, { values, where }]) => ({ target, values, where: [...where] }))
    .sort((a, b) => b.values - a.values);
}

export function Vanished({
  project,
  index,
  vanished,
}: {
  project: Project;
  index: SceneIndex;
  vanished: readonly VanishedThing[];
}) {
  const session = useSession(project.id);
  const [open, setOpen] = useState(false);
  const values = vanished.reduce((n, v) => n + v.values, 0);
  const choices = useMemo(() => {
    const d = index.document;
    return {
      material: d.materials.map((m) => ({ value: m.name, label: materialLabelOf(m) })),
      object: d.nodes
        .filter((n) => n.camera === undefined)
        .map((n) => ({ value: n.path, label: n.filePath ?? n.path })),
      light: d.nodes.filter((n) => n.light !== undefined).map((n) => ({ value: n.path, label: n.filePath ?? n.path })),
    };
  }, [index]);
  const move = async (from: string, to: string) => {
    const done = await session.writeProject(() =>
      call('retarget', { params: { projectId: project.id }, body: { from, to } }),
    );
    if (!done) return;
    say(`What was recorded for ${targetLabel(from)} is now for ${targetLabel(to)}`, 'Ctrl+Z undoes it.');
  };
  return (
    <>
      <button type="button" onClick={() => setOpen(true)} className={styles.waitFor}>
        <span className={styles.text}>◇</span> {plural(values, 'recorded value')} wait for{' '}
        {plural(vanished.length, 'object')} not in this scene
      </button>
      <Modal
        opened={open}
        onClose={() => setOpen(false)}
        title="Recorded for objects that are not in this scene"
        size="lg"
      >
        <p className={`dim ${styles.theyAreKept}`}>
          They are kept, and count again when the object comes back. Or give them to another object.
        </p>
        <table className="rows">
          <thead>
            <tr>
              <th>Object</th>
              <th className="n">Values</th>
              <th>In</th>
              <th>Give to</th>
            </tr>
          </thead>
          <tbody>
            {vanished.map((v) => {
              const t = parseTarget(v.target)!;
              return (
                <tr key={v.target}>
                  <td title={t.name}>
                    {targetLabel(v.target)} <span className="faint">{t.kind}</span>
                  </td>
                  <td className="n">{v.values}</td>
                  <td className="dim">{v.where.join(', ')}</td>
                  <td className={styles.selectFrame}>
                    <Select
                      size="xs"
                      aria-label={`Give what is recorded for ${targetLabel(v.target)} to`}
                      placeholder="Choose…"
                      searchable
                      limit={40}
                      value={null}
                      data={choices[t.kind as 'material' | 'object' | 'light']}
                      onChange={(to) => {
                        if (to !== null) void move(v.target, `${t.kind}:${to}`);
                      }}
                    />
                  </td>
                </tr>
              );
            })}
          </tbody>
        </table>
      </Modal>
    </>
  );
}
