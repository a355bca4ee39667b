// What dialogs ask for again and again: a name, notes.
import { TextInput, Textarea } from '@mantine/core';
import { type ReactNode, useState } from 'react';
import { Buttons } from './Buttons.tsx';

const NAME_LENGTH = 120;
const NOTES_LENGTH = 4000;

interface NameProps {
  /** What its button says. */
  label: string;
  first?: string;
  onGo: (name: string) => void;
  onCancel: () => void;
  /** Said of a name below its field. */
  describe?: (name: string) => string | undefined;
  children?: ReactNode;
}
/** Takes any name but none. */
export function NameForm({ label, first = '', onGo, onCancel, describe, children }: NameProps) {
  const [name, setName] = useState(first);
  return (
    <form
      onSubmit={(e) => {
        e.preventDefault();
        onGo(name.trim());
      }}
    >
      <TextInput
        data-autofocus
        label="Name"
        value={name}
        onChange={(e) => setName(e.currentTarget.value)}
        maxLength={NAME_LENGTH}
        description={describe?.(name.trim())}
      />
      {children}
      <Buttons label={label} disabled={!name.trim()} onCancel={onCancel} />
    </form>
  );
}

interface NotesProps {
  first: string;
  onGo: (notes: string) => void;
  onCancel: () => void;
}
export function NotesForm({ first, onGo, onCancel }: NotesProps) {
  const [notes, setNotes] = useState(first);
  return (
    <form
      onSubmit={(e) => {
        e.preventDefault();
        onGo(notes);
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
        maxLength={NOTES_LENGTH}
      />
      <Buttons label="Keep notes" onCancel={onCancel} />
    </form>
  );
}
