// A mix kept as options, whose own render is that picture, and as a variant that has them.
import { TextInput } from '@mantine/core';
import type { Project, Variant } from '@variscen/contract';
import { type Change, freeName } from '@variscen/core/looks';
import { type ReactNode, useState } from 'react';
import { optionsOfMix } from '../../../model/groupMixer.ts';
import { useSession } from '../../../session/projectSession.ts';
import { plural } from '../../../ui/format.ts';
import { facetName } from '../../../ui/glyphs.tsx';
import { say } from '../../../ui/notify.ts';
import styles from './Mix.module.css';

interface Props {
  readonly project: Project;
  readonly variant: Variant;
  /** What the mix changes of the look. */
  readonly changes: readonly Change[];
  readonly onKept: () => void;
  /** What is said above the buttons. */
  readonly children?: ReactNode;
}
export function KeepMix({ project, variant, changes, onKept, children }: Props) {
  const session = useSession(project.id);
  const [given, setName] = useState<string | null>(null);
  const name = given ?? freeName(new Set(project.variants.map((v) => v.name)), `${variant.name}, mixed`);
  const options = optionsOfMix(project, variant, changes, name.trim());
  const facets = options.map((o) => facetName(o.facet)).join(', ');
  const keep = async (withVariant: boolean) => {
    const from = withVariant ? { fromVariantId: variant.id, name: name.trim() } : undefined;
    if (!(await session.makeOptions(options, from))) return;
    say(`Made: ${name.trim()}`, `${plural(changes.length, 'value')} in ${facets}.`);
    setName(null);
    onKept();
  };
  const canKeep = options.length > 0 && name.trim() !== '';
  return (
    <form
      className={styles.keep}
      onSubmit={(e) => {
        e.preventDefault();
        if (canKeep) void keep(true);
      }}
    >
      <TextInput
        size="xs"
        label="Keep as"
        value={name}
        maxLength={200}
        onChange={(e) => setName(e.currentTarget.value)}
      />
      <p className="dim">
        {options.length
          ? `Options of ${facets}: what “${variant.name}” has, with ${plural(changes.length, 'value')} changed.`
          : 'Nothing is changed yet.'}
      </p>
      {children}
      <div className={styles.buttons}>
        <button type="submit" className="go" disabled={!canKeep}>
          Make a variant with it
        </button>
        <button type="button" className="quiet" disabled={!canKeep} onClick={() => void keep(false)}>
          Only the options
        </button>
      </div>
    </form>
  );
}
