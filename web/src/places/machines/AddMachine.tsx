// Adds a machine: its name, then how it joins.
import { Modal, TextInput } from '@mantine/core';
import type { MachineToken } from '@variscen/contract';
import { useState } from 'react';
import { Buttons } from '../../ui/Buttons.tsx';
import { TokenDialog } from './TokenDialog.tsx';
import type { MachineDoing } from './useMachineActions.ts';

export function AddMachine({ actions, onClose }: { actions: MachineDoing; onClose: () => void }) {
  const [name, setName] = useState('');
  const [token, setToken] = useState<MachineToken | null>(null);
  if (token) return <TokenDialog token={token} onClose={onClose} />;
  const add = async () => setToken(await actions.add(name.trim()));
  return (
    <Modal opened onClose={onClose} title="Add a machine">
      <form
        onSubmit={(e) => {
          e.preventDefault();
          void add();
        }}
      >
        <TextInput
          data-autofocus
          label="What it is called"
          description="It renders under this name, in the queue and in the records of pictures."
          value={name}
          maxLength={120}
          onChange={(e) => setName(e.currentTarget.value)}
        />
        <Buttons label="Add the machine" onCancel={onClose} disabled={!name.trim()} />
      </form>
    </Modal>
  );
}
