// What can be done to the lights that are selected, above their values.
import { Modal } from '@mantine/core';
import { ADDED, isAddedPath, lightTarget, parseAdded } from '@variscen/core/looks';
import { useState } from 'react';
import { NameForm } from '../../../ui/forms.tsx';
import type { Inspected } from '../inspector/inspected.ts';
import styles from './Lights.module.css';

type Props = Pick<Inspected, 'state' | 'lights'> & { paths: readonly string[] };

export function LightActions({ state, lights, paths }: Props) {
  const [isRenaming, setRenaming] = useState(false);
  const here = paths.filter((p) => !isAddedPath(p) || state.get(lightTarget(p), ADDED) === true);
  const added = paths.filter(isAddedPath);
  const isOne = paths.length === 1;
  const canAim = here.filter((p) => state.get(lightTarget(p), 'light.aimAt') !== undefined);
  const isPlaced = isOne && here.length === 1;
  const [only] = paths;
  if (!here.length && added.length) {
    return (
      <div className={`notice ${styles.elsewhere}`}>
        {isOne ? 'This light is' : 'These lights are'} of another look: nothing of this variant adds{' '}
        {isOne ? 'it' : 'them'}.
      </div>
    );
  }
  return (
    <div role="group" aria-label="Light" className={styles.actions}>
      {isPlaced && (
        <>
          <Action label="Light this…" title="Click what it should light" onClick={() => lights.place(only!, 'lit')} />
          <Action
            label="Highlight here…"
            title="Click where its highlight should fall, as seen from here"
            onClick={() => lights.place(only!, 'highlight')}
          />
        </>
      )}
      {canAim.length > 0 && (
        <Action
          label="Aim at…"
          title="Click what it should aim at: it follows that from then on"
          onClick={() => lights.aim(canAim.map(lightTarget))}
        />
      )}
      <Action label="Duplicate" title="A light like it, beside it" onClick={() => lights.copy(here, false)} />
      <Action
        label="Mirror"
        title="A light like it, on the other side of where the camera looks"
        onClick={() => lights.copy(here, true)}
      />
      {isOne && added.length === 1 && <Action label="Rename…" onClick={() => setRenaming(true)} />}
      {added.length > 0 && <Action label="Remove" title="Delete" onClick={() => void lights.remove(added)} />}
      {isRenaming && (
        <Modal opened onClose={() => setRenaming(false)} title="Rename light">
          <NameForm
            label="Rename light"
            first={parseAdded(only!)!.name}
            onGo={(name) => void lights.rename(only!, name).then((done) => done && setRenaming(false))}
            onCancel={() => setRenaming(false)}
          >
            <p className="dim">It is called so in every look that says anything of it.</p>
          </NameForm>
        </Modal>
      )}
    </div>
  );
}

function Action({ label, title, onClick }: { label: string; title?: string; onClick: () => void }) {
  return (
    <button type="button" className={`quiet ${styles.action}`} {...(title && { title })} onClick={onClick}>
      {label}
    </button>
  );
}
