// Questions about an option, and the one that makes a new one.
import { Modal } from '@mantine/core';
import type { Option, Project } from '@variscen/contract';
import { FACET_NAMES, type Facet, type SceneIndex } from '@variscen/core/looks';
import { pendingOf } from '../../../model/destinations.ts';
import type { ProjectSession } from '../../../session/projectSession.ts';
import { Buttons } from '../../../ui/Buttons.tsx';
import { plural } from '../../../ui/format.ts';
import { NameForm, NotesForm } from '../../../ui/forms.tsx';
import { CompareOptions } from './CompareOptions.tsx';
import { SaveOptions } from './SaveOptions.tsx';
import type { OptionActions } from './useOptionActions.ts';

export type OptionQuestion = 'rename' | 'delete' | 'notes' | 'compare' | 'save';
export type AskedOfOption = { readonly kind: 'make' } | { readonly kind: OptionQuestion; readonly option: Option };

interface Props {
  asked: AskedOfOption;
  project: Project;
  index: SceneIndex | undefined;
  facet: Facet;
  session: ProjectSession;
  actions: OptionActions;
  onClose: () => void;
}
export function OptionDialogs({ asked, project, index, facet, session, actions, onClose }: Props) {
  /** Closes the dialog where it was done. */
  const closing = (work: Promise<boolean>) => void work.then((done) => done && onClose());
  if (asked.kind === 'make') {
    return (
      <Modal opened onClose={onClose} title={`New option of ${FACET_NAMES[facet]}`}>
        <NameForm label="Make option" onGo={(name) => closing(actions.make(facet, name))} onCancel={onClose} />
      </Modal>
    );
  }
  const { option } = asked;
  switch (asked.kind) {
    case 'rename':
      return (
        <Modal opened onClose={onClose} title="Rename option">
          <NameForm
            label="Rename option"
            first={option.name}
            onGo={(name) => closing(actions.update(option, { name }))}
            onCancel={onClose}
          >
            <p className="dim">Variants that are named from it are renamed too.</p>
          </NameForm>
        </Modal>
      );
    case 'notes':
      return (
        <Modal opened onClose={onClose} title={`Notes on “${option.name}”`}>
          <NotesForm
            first={option.notes}
            onGo={(notes) => closing(actions.update(option, { notes }))}
            onCancel={onClose}
          />
        </Modal>
      );
    case 'delete':
      return <DeleteDialog project={project} option={option} actions={actions} onClose={onClose} />;
    case 'save':
      return <SaveOptions project={project} first={option.id} onClose={onClose} />;
    case 'compare':
      return (
        <CompareOptions
          project={project}
          index={index}
          facet={facet}
          first={option.id}
          session={session}
          onClose={onClose}
        />
      );
  }
}

interface DeleteProps {
  project: Project;
  option: Option;
  actions: OptionActions;
  onClose: () => void;
}
function DeleteDialog({ project, option, actions, onClose }: DeleteProps) {
  const users = project.variants.filter((v) => v.optionIds.includes(option.id));
  const pending = pendingOf(project, `option:${option.id}`).length;
  return (
    <Modal opened onClose={onClose} title={`Delete option “${option.name}”?`}>
      {users.length ? (
        <p>
          It is taken out of {plural(users.length, 'variant')}: {users.map((v) => v.name).join(', ')}.
        </p>
      ) : (
        <p>No variant uses it.</p>
      )}
      <p>
        Its {plural(option.changes.length, 'recorded value')} go with it
        {pending > 0 && `, and ${plural(pending, 'pending edit')}`}. Ctrl+Z brings all of it back.
      </p>
      <Buttons
        label="Delete option"
        onCancel={onClose}
        onGo={() => void actions.remove(option, users.length > 0).then((done) => done && onClose())}
      />
    </Modal>
  );
}
