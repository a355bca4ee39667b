// Questions about an entry of the library.
import { Modal, TextInput } from '@mantine/core';
import type { LibraryEntry } from '@variscen/contract';
import { useState } from 'react';
import { Buttons } from '../../ui/Buttons.tsx';
import { plural } from '../../ui/format.ts';
import { valuesIn } from './LibraryTable.tsx';

interface RenameProps {
  entry: LibraryEntry;
  onClose: () => void;
  onGo: (name: string) => void;
}
export function RenameEntry({ entry, onClose, onGo }: RenameProps) {
  const [name, setName] = useState(entry.name);
  return (
    <Modal opened onClose={onClose} title="Rename the entry">
      <form
        onSubmit={(e) => {
          e.preventDefault();
          onGo(name);
        }}
      >
        <TextInput
          data-autofocus
          label="Name"
          value={name}
          onChange={(e) => setName(e.currentTarget.value)}
          maxLength={120}
        />
        <Buttons label="Rename entry" disabled={!name.trim()} onCancel={onClose} />
      </form>
    </Modal>
  );
}

interface DeleteProps {
  entry: LibraryEntry;
  onClose: () => void;
  onGo: () => void;
}
export function DeleteEntry({ entry, onClose, onGo }: DeleteProps) {
  return (
    <Modal opened onClose={onClose} title={`Delete “${entry.name}” from the library?`}>
      <p>
        {plural(entry.options.length, 'option')} with {plural(valuesIn(entry), 'value')} go for good. Options that were
        made of it in projects stay. Save it as a file first if it may be wanted.
      </p>
      <Buttons label="Delete entry" onCancel={onClose} onGo={onGo} />
    </Modal>
  );
}
