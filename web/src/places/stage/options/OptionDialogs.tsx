// Questions about an option, and the one that makes a new one.
import { Modal, TextInput, Textarea } from '@mantine/core';
import type { Option, Project } from '@variscen/contract';
import { FACET_NAMES, type Facet, type SceneIndex } from '@variscen/core/looks';
import { type ReactNode, useState } from 'react';
import { pendingOf } from '../../../model/destinations.ts';
import type { ProjectSession } from '../../../session/projectSession.ts';
import { Buttons } from '../../../ui/Buttons.tsx';
import { plural } from '../../../ui/format.ts';
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
  if (asked.kind === 'make') {
    return (
      <TextDialog
        title={`New option of ${FACET_NAMES[facet]}`}
        label="Make option"
        onClose={onClose}
        onGo={(name) => actions.make(facet, name)}
      />
    );
  }
  const { option } = asked;
  switch (asked.kind) {
    case 'rename':
      return (
        <TextDialog
          title="Rename option"
          label="Rename option"
          text={option.name}
          onClose={onClose}
          onGo={(name) => actions.update(option, { name })}
        >
          <p className="dim">Variants that are named from it are renamed too.</p>
        </TextDialog>
      );
    case 'notes':
      return <NotesDialog option={option} onClose={onClose} onGo={(notes) => actions.update(option, { notes })} />;
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

interface TextProps {
  title: string;
  /** What its button says. */
  label: string;
  text?: string;
  onClose: () => void;
  /** Answers whether it was done. */
  onGo: (text: string) => Promise<boolean>;
  children?: ReactNode;
}
function TextDialog({ title, label, text = '', onClose, onGo, children }: TextProps) {
  const [name, setName] = useState(text);
  return (
    <Modal opened onClose={onClose} title={title}>
      <form
        onSubmit={(e) => {
          e.preventDefault();
          void onGo(name).then((done) => done && onClose());
        }}
      >
        <TextInput
          data-autofocus
          label="Name"
          value={name}
          onChange={(e) => setName(e.currentTarget.value)}
          maxLength={120}
        />
        {children}
        <Buttons label={label} disabled={!name.trim()} onCancel={onClose} />
      </form>
    </Modal>
  );
}

interface NotesProps {
  option: Option;
  onClose: () => void;
  onGo: (notes: string) => Promise<boolean>;
}
function NotesDialog({ option, onClose, onGo }: NotesProps) {
  const [notes, setNotes] = useState(option.notes);
  return (
    <Modal opened onClose={onClose} title={`Notes on “${option.name}”`}>
      <form
        onSubmit={(e) => {
          e.preventDefault();
          void onGo(notes).then((done) => done && onClose());
        }}
      >
        <Textarea
          data-autofocus
          aria-label="Notes"
          autosize
          minRows={4}
          maxRows={14}
          value={notes}
          onChange={(e) => setNotes(e.currentTarget.value)}
          maxLength={4000}
        />
        <Buttons label="Keep notes" onCancel={onClose} />
      </form>
    </Modal>
  );
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
