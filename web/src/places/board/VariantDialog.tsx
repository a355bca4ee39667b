// The one dialog of the board about a variant: its name, options, cameras, notes, or whether it goes.
import { Checkbox, Modal } from '@mantine/core';
import type { Project, Variant } from '@variscen/contract';
import { useState } from 'react';
import { call } from '../../api/client.ts';
import { useSession } from '../../session/projectSession.ts';
import { Buttons } from '../../ui/Buttons.tsx';
import { plural } from '../../ui/format.ts';
import { NameForm, NotesForm } from '../../ui/forms.tsx';
import { say } from '../../ui/notify.ts';
import { OptionPicker } from './OptionPicker.tsx';

export type VariantQuestion = 'rename' | 'options' | 'cameras' | 'notes' | 'delete';
type VariantEdit = Partial<Pick<Variant, 'name' | 'optionIds' | 'excludedCameraIds' | 'notes'>>;

interface Props {
  project: Project;
  variant: Variant;
  question: VariantQuestion;
  onClose: () => void;
}

const TITLES: Readonly<Record<VariantQuestion, (name: string) => string>> = {
  rename: () => 'Rename variant',
  options: (name) => `Options of “${name}”`,
  cameras: (name) => `Cameras of “${name}”`,
  notes: (name) => `Notes on “${name}”`,
  delete: (name) => `Delete variant “${name}”?`,
};
const ANSWERS = { rename: Rename, options: Options, cameras: Cameras, notes: Notes, delete: Delete } as const;

export function VariantDialog({ project, variant, question, onClose }: Props) {
  const session = useSession(project.id);
  const params = { projectId: project.id, variantId: variant.id };
  /** Writes, and closes the dialog. */
  const write = async (work: () => Promise<unknown>) => {
    if ((await session.write(work)) === undefined) return false;
    await session.readAgain();
    onClose();
    return true;
  };
  const update = (body: VariantEdit) => void write(() => call('updateVariant', { params, body }));
  const remove = async () => {
    if (await write(() => call('deleteVariant', { params }))) {
      say(`Variant “${variant.name}” is deleted`, 'Ctrl+Z brings it back. Its renders stay on disk.');
    }
  };
  const Answer = ANSWERS[question];
  return (
    <Modal opened onClose={onClose} title={TITLES[question](variant.name)}>
      <Answer project={project} variant={variant} update={update} remove={() => void remove()} onCancel={onClose} />
    </Modal>
  );
}

interface AnswerProps {
  project: Project;
  variant: Variant;
  update: (edit: VariantEdit) => void;
  remove: () => void;
  onCancel: () => void;
}
function Rename({ variant, update, onCancel }: AnswerProps) {
  return <NameForm label="Rename variant" first={variant.name} onGo={(name) => update({ name })} onCancel={onCancel} />;
}

function Notes({ variant, update, onCancel }: AnswerProps) {
  return <NotesForm first={variant.notes} onGo={(notes) => update({ notes })} onCancel={onCancel} />;
}

function Options({ project, variant, update, onCancel }: AnswerProps) {
  const [optionIds, setOptionIds] = useState<readonly string[]>(variant.optionIds);
  return (
    <>
      <OptionPicker project={project} selected={optionIds} onChange={setOptionIds} />
      <Buttons
        label={`Use ${plural(optionIds.length, 'option')}`}
        onCancel={onCancel}
        onGo={() => update({ optionIds: [...optionIds] })}
      />
    </>
  );
}

function Cameras({ project, variant, update, onCancel }: AnswerProps) {
  const [excluded, setExcluded] = useState<readonly string[]>(variant.excludedCameraIds);
  const toggle = (id: string) => setExcluded((ids) => (ids.includes(id) ? ids.filter((x) => x !== id) : [...ids, id]));
  return (
    <>
      {project.cameras.map((c) => (
        <Checkbox
          key={c.id}
          size="xs"
          mb={6}
          label={c.name}
          checked={!excluded.includes(c.id)}
          onChange={() => toggle(c.id)}
        />
      ))}
      <Buttons
        label={`Use ${plural(project.cameras.length - excluded.length, 'camera')}`}
        onCancel={onCancel}
        onGo={() => update({ excludedCameraIds: [...excluded] })}
      />
    </>
  );
}

function Delete({ remove, onCancel }: AnswerProps) {
  return (
    <>
      <p>Its column goes from the board. Its options stay, and rendered files stay on disk.</p>
      <Buttons label="Delete variant" onCancel={onCancel} onGo={remove} />
    </>
  );
}
