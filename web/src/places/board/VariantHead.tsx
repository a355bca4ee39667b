// A column's head: the variant's name and the options that it is made of.
import { Menu } from '@mantine/core';
import { IconNote } from '@tabler/icons-react';
import type { Project, Variant } from '@variscen/contract';
import { call } from '../../api/client.ts';
import { useSession } from '../../session/projectSession.ts';
import { plural } from '../../ui/format.ts';
import { OptionChips } from './OptionChips.tsx';
import type { VariantQuestion } from './VariantDialog.tsx';
import styles from './VariantHead.module.css';

interface Props {
  project: Project;
  variant: Variant;
  columnIndex: number;
  widthPx: number;
  /** Variants before it that resolve to the same pictures. */
  sameAs: readonly string[];
  onSelect: (add: boolean) => void;
  onAsk: (question: VariantQuestion) => void;
}

export function VariantHead({ project, variant, columnIndex, widthPx, sameAs, onSelect, onAsk }: Props) {
  const session = useSession(project.id);
  const at = project.variants.findIndex((v) => v.id === variant.id);
  const out = variant.excludedCameraIds.length;
  const move = (step: number) => {
    const order = project.variants.map((v) => v.id);
    order.splice(at, 1);
    order.splice(at + step, 0, variant.id);
    session.orderVariants(order);
  };
  const nameFromOptions = async () => {
    const params = { projectId: project.id, variantId: variant.id };
    if (await session.write(() => call('updateVariant', { params, body: { name: null } }))) await session.readAgain();
  };
  return (
    <div role="columnheader" aria-colindex={columnIndex} className={styles.columnheader} style={{ width: widthPx }}>
      <Menu position="bottom-start">
        <Menu.Target>
          <button
            type="button"
            title={variant.notes ? `${variant.name}\n${variant.notes}` : variant.name}
            aria-label={`Variant ${variant.name}`}
            className={styles.name}
          >
            {variant.name}
            {variant.notes && <IconNote size={12} stroke={1.6} className={styles.iconNote} />}
          </button>
        </Menu.Target>
        <Menu.Dropdown>
          <Menu.Item onClick={() => onSelect(false)}>Select the column</Menu.Item>
          <Menu.Item onClick={() => onSelect(true)}>Add the column to the selection</Menu.Item>
          <Menu.Divider />
          <Menu.Item onClick={() => onAsk('options')}>Change its options…</Menu.Item>
          <Menu.Item onClick={() => onAsk('cameras')}>Leave out cameras…</Menu.Item>
          <Menu.Item onClick={() => onAsk('notes')}>Notes…</Menu.Item>
          <Menu.Divider />
          <Menu.Item onClick={() => onAsk('rename')}>Rename…</Menu.Item>
          <Menu.Item disabled={!variant.namedByHand} onClick={() => void nameFromOptions()}>
            Name it from its options
          </Menu.Item>
          <Menu.Divider />
          <Menu.Item disabled={at === 0} onClick={() => move(-1)}>
            Move to the left
          </Menu.Item>
          <Menu.Item disabled={at === project.variants.length - 1} onClick={() => move(1)}>
            Move to the right
          </Menu.Item>
          <Menu.Item onClick={() => onAsk('delete')}>Delete…</Menu.Item>
        </Menu.Dropdown>
      </Menu>
      <OptionChips project={project} optionIds={variant.optionIds} />
      {out > 0 && <span className={`faint ${styles.without}`}>without {plural(out, 'camera')}</span>}
      {sameAs.length > 0 && (
        <span
          className={`faint ${styles.without}`}
          title="They resolve to the same state for every camera, so their pictures are the same"
        >
          same as {sameAs[0]}
          {sameAs.length > 1 && ` and ${sameAs.length - 1} more`}
        </span>
      )}
    </div>
  );
}
