// Questions about an entry of the library.
import { Modal } from '@mantine/core';
import type { LibraryEntry } from '@variscen/contract';
import { Buttons } from '../../ui/Buttons.tsx';
import { plural } from '../../ui/format.ts';
import { NameForm } from '../../ui/forms.tsx';
import { valuesIn } from './LibraryTable.tsx';

interface RenameProps {
  entry: LibraryEntry;
  onClose: () => void;
  onGo: (name: string) => void;
}
export function RenameEntry({ entry, onClose, onGo }: RenameProps) {
  return (
    <Modal opened onClose={onClose} title="Rename the entry">
      <NameForm label="Rename entry" first={entry.name} onGo={onGo} onCancel={onClose} />
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
