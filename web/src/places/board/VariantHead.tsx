// A column's head: the variant's name and the options that it is made of.
import { Checkbox, Menu, Modal, TextInput, Textarea } from '@mantine/core';
import { IconNote } from '@tabler/icons-react';
import type { Project, Variant } from '@variscen/contract';
import { useState } from 'react';
import { call } from '../../api/client.ts';
import { useSession } from '../../session/projectSession.ts';
import { plural } from '../../ui/format.ts';
import { say } from '../../ui/notify.ts';
import { Buttons } from '../../ui/Buttons.tsx';
import { OptionChips } from './OptionChips.tsx';
import { OptionPicker } from './OptionPicker.tsx';
import styles from './VariantHead.module.css';

type Open = 'rename' | 'options' | 'cameras' | 'notes' | 'delete' | null;

export function VariantHead({
  project,
  variant,
  sameAs,
  onChoose,
}: {
  project: Project;
  variant: Variant;
  /** Variants before it that resolve to the same pictures. */
  sameAs: readonly string[];
  onChoose: (add: boolean) => void;
}) {
  const [open, setOpen] = useState<Open>(null);
  const [text, setText] = useState('');
  const [ids, setIds] = useState<readonly string[]>([]);
  const session = useSession(project.id);
  const params = { projectId: project.id, variantId: variant.id };
  /** Writes, and closes the dialog. */
  const run = async (work: () => Promise<unknown>) => {
    if ((await session.write(work)) === undefined) return;
    await session.readAgain();
    setOpen(null);
  };
  const update = (body: { name?: string | null; optionIds?: string[]; excludedCameraIds?: string[]; notes?: string }) =>
    run(() => call('updateVariant', { params, body }));
  const at = project.variants.findIndex((v) => v.id === variant.id);
  const out = variant.excludedCameraIds.length;
  const move = (step: number) => {
    const order = project.variants.map((v) => v.id);
    order.splice(at, 1);
    order.splice(at + step, 0, variant.id);
    session.orderVariants(order);
  };
  const remove = () =>
    run(async () => {
      await call('deleteVariant', { params });
      say(`Variant “${variant.name}” is deleted`, 'Ctrl+Z brings it back. Its renders stay on disk.');
      return true;
    });
  return (
    <div role="columnheader" className={styles.columnheader}>
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
          <Menu.Item onClick={() => onChoose(false)}>Select the column</Menu.Item>
          <Menu.Item onClick={() => onChoose(true)}>Add the column to the selection</Menu.Item>
          <Menu.Divider />
          <Menu.Item
            onClick={() => {
              setIds(variant.optionIds);
              setOpen('options');
            }}
          >
            Change its options…
          </Menu.Item>
          <Menu.Item
            onClick={() => {
              setIds(variant.excludedCameraIds);
              setOpen('cameras');
            }}
          >
            Leave out cameras…
          </Menu.Item>
          <Menu.Item
            onClick={() => {
              setText(variant.notes);
              setOpen('notes');
            }}
          >
            Notes…
          </Menu.Item>
          <Menu.Divider />
          <Menu.Item
            onClick={() => {
              setText(variant.name);
              setOpen('rename');
            }}
          >
            Rename…
          </Menu.Item>
          <Menu.Item disabled={!variant.namedByHand} onClick={() => void update({ name: null })}>
            Name it from its options
          </Menu.Item>
          <Menu.Divider />
          <Menu.Item disabled={at === 0} onClick={() => void move(-1)}>
            Move to the left
          </Menu.Item>
          <Menu.Item disabled={at === project.variants.length - 1} onClick={() => void move(1)}>
            Move to the right
          </Menu.Item>
          <Menu.Item onClick={() => setOpen('delete')}>Delete…</Menu.Item>
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
      <Modal opened={open === 'rename'} onClose={() => setOpen(null)} title="Rename variant">
        <form
          onSubmit={(e) => {
            e.preventDefault();
            void update({ name: text });
          }}
        >
          <TextInput
            data-autofocus
            label="Name"
            value={text}
            onChange={(e) => setText(e.currentTarget.value)}
            maxLength={120}
          />
          <Buttons label="Rename variant" onCancel={() => setOpen(null)} />
        </form>
      </Modal>
      <Modal opened={open === 'notes'} onClose={() => setOpen(null)} title={`Notes on “${variant.name}”`}>
        <form
          onSubmit={(e) => {
            e.preventDefault();
            void update({ notes: text });
          }}
        >
          <Textarea
            data-autofocus
            aria-label="Notes"
            autosize
            minRows={4}
            maxRows={14}
            value={text}
            onChange={(e) => setText(e.currentTarget.value)}
            maxLength={4000}
          />
          <Buttons label="Keep notes" onCancel={() => setOpen(null)} />
        </form>
      </Modal>
      <Modal opened={open === 'options'} onClose={() => setOpen(null)} title={`Options of “${variant.name}”`}>
        <OptionPicker project={project} chosen={ids} onChange={setIds} />
        <Buttons
          label={`Use ${plural(ids.length, 'option')}`}
          onCancel={() => setOpen(null)}
          onGo={() => void update({ optionIds: [...ids] })}
        />
      </Modal>
      <Modal opened={open === 'cameras'} onClose={() => setOpen(null)} title={`Cameras of “${variant.name}”`}>
        {project.cameras.map((c) => (
          <Checkbox
            key={c.id}
            size="xs"
            mb={6}
            label={c.name}
            checked={!ids.includes(c.id)}
            onChange={() => setIds((s) => (s.includes(c.id) ? s.filter((x) => x !== c.id) : [...s, c.id]))}
          />
        ))}
        <Buttons
          label={`Use ${plural(project.cameras.length - ids.length, 'camera')}`}
          onCancel={() => setOpen(null)}
          onGo={() => void update({ excludedCameraIds: [...ids] })}
        />
      </Modal>
      <Modal opened={open === 'delete'} onClose={() => setOpen(null)} title={`Delete variant “${variant.name}”?`}>
        <p>Its column goes from the board. Its options stay, and rendered files stay on disk.</p>
        <Buttons label="Delete variant" onCancel={() => setOpen(null)} onGo={() => void remove()} />
      </Modal>
    </div>
  );
}
