import { materialTarget, objectTarget } from '@variscen/core/looks';
import { useMemo } from 'react';
import { copiedMaterials, nextCopy } from '../../../model/materialNames.ts';
import { plural } from '../../../ui/format.ts';
import { say } from '../../../ui/notify.ts';
import styles from './Inspector.module.css';
import type { Inspected } from './inspected.ts';

/** A material by itself: what wears it, and a copy of it for them. */
export function MaterialUse({ project, index, state, name, record, onSelect, onNodes }: Inspected & { name: string }) {
  const d = index.document;
  const wearers = useMemo(
    () =>
      d.nodes.flatMap((n, i) =>
        n.parts &&
        (n.parts.length === 1
          ? state.get(objectTarget(n.path), 'object.material') === name
          : n.parts.some((x) => d.materials[x.material]!.name === name))
          ? [i]
          : [],
      ),
    [d, state, name],
  );
  const able = wearers.filter((i) => d.nodes[i]!.parts!.length === 1);
  const copy = () => {
    const made = nextCopy(name, copiedMaterials(project));
    record(able.map((i) => ({ target: objectTarget(d.nodes[i]!.path), property: 'object.material', value: made })));
    onSelect(materialTarget(made));
    say(
      `“${made.replace('#', ' ')}” is assigned to ${plural(able.length, 'object')}`,
      'A copy that is like the first until you change it.',
    );
  };
  return (
    <span className={styles.stack}>
      <span>Material of {plural(wearers.length, 'object')}</span>
      <span className={styles.row}>
        <button
          type="button"
          className={`quiet ${styles.quiet}`}
          disabled={!wearers.length}
          onClick={() => onNodes(wearers)}
        >
          Select them
        </button>
        <button
          type="button"
          className={`quiet ${styles.quiet}`}
          disabled={!able.length}
          title="Those that wear it get a copy of their own, to be changed without the scene's"
          onClick={copy}
        >
          Copy as new
        </button>
      </span>
    </span>
  );
}
