// Up to four looks of one camera, large, to choose between.
import { Modal, MultiSelect, SegmentedControl } from '@mantine/core';
import type { Camera, Project, Variant } from '@variscen/contract';
import { FACET_NAMES, type Facet, type SceneIndex } from '@variscen/core/looks';
import type { CameraSettings } from '@variscen/core/scene';
import { useMemo, useState } from 'react';
import { Print } from '../../../engine/smallPictures.tsx';
import styles from './SideBySide.module.css';
import {
  type Compared,
  MOST_SIDE_BY_SIDE,
  type OneOfMany,
  type Shown,
  candidatesOf,
  useSideBySide,
} from './useSideBySide.ts';

/** As SideBySide.module.css has it. */
const PICTURE = { widthPx: 560, heightPx: 280 };
const BASE = 'base';

interface Props {
  project: Project;
  index: SceneIndex;
  sceneHash: string;
  camera: Camera;
  variant: Variant;
  facet: Facet;
  onPickVariant: (id: string) => void;
  onPickOption: (id: string | null) => void;
  onClose: () => void;
}

export function SideBySide(props: Props) {
  const { project, index, sceneHash, camera, variant, facet, onPickVariant, onPickOption, onClose } = props;
  const hasVariants = project.variants.length > 1;
  const [kind, setKind] = useState<Compared['kind']>(hasVariants ? 'variants' : 'options');
  const compared = useMemo((): Compared => (kind === 'variants' ? { kind } : { kind, facet }), [kind, facet]);
  const all = useMemo(() => candidatesOf(project, compared), [project, compared]);
  const [picked, setPicked] = useState<Partial<Record<Compared['kind'], readonly string[]>>>({});
  const chosen = useMemo(() => chosenOf(all, picked[kind]), [all, picked, kind]);
  const settings = camera.settings as CameraSettings;
  const heightPx = Math.round(Math.min(PICTURE.heightPx, (PICTURE.widthPx * settings.heightPx) / settings.widthPx));
  const { shown, fault } = useSideBySide(
    { project, index, sceneHash, variant, camera: { id: camera.id, settings }, heightPx },
    compared,
    chosen,
  );
  const pick = ({ id }: OneOfMany) => {
    if (kind === 'options') onPickOption(id);
    else if (id !== null) onPickVariant(id);
    onClose();
  };
  return (
    <Modal opened onClose={onClose} title={`Side by side through “${camera.name}”`} size={1190} yOffset={14}>
      <div className={styles.choosing}>
        <SegmentedControl
          size="xs"
          aria-label="What is compared"
          value={kind}
          data={[
            { value: 'variants', label: 'Variants', disabled: !hasVariants },
            { value: 'options', label: `${FACET_NAMES[facet]} options` },
          ]}
          onChange={(v) => setKind(v as Compared['kind'])}
        />
        <MultiSelect
          size="xs"
          aria-label="Shown"
          className={styles.shown}
          maxValues={MOST_SIDE_BY_SIDE}
          data={all.map((o) => ({ value: o.id ?? BASE, label: o.name }))}
          value={chosen.map((o) => o.id ?? BASE)}
          onChange={(ids) => setPicked({ ...picked, [kind]: ids })}
        />
      </div>
      {fault && <p className="notice">{fault}</p>}
      <div className={styles.pictures}>
        {shown.map((s) => (
          <Large key={s.one.id ?? BASE} shown={s} onPick={() => pick(s.one)} />
        ))}
      </div>
    </Modal>
  );
}

/** Those that a person has chosen, or the last few: what was made last is compared most. */
function chosenOf(all: readonly OneOfMany[], picked: readonly string[] | undefined): readonly OneOfMany[] {
  return picked ? all.filter((o) => picked.includes(o.id ?? BASE)) : all.slice(-MOST_SIDE_BY_SIDE);
}

function Large({ shown: { one, picture, isDone }, onPick }: { shown: Shown; onPick: () => void }) {
  return (
    <button type="button" className={styles.one} aria-label={`Take ${one.name}`} data-done={isDone} onClick={onPick}>
      <span className={styles.picture}>
        {picture ? <Print picture={picture} /> : <span className="faint">Rendering …</span>}
      </span>
      <span className={styles.name}>{one.name}</span>
    </button>
  );
}
