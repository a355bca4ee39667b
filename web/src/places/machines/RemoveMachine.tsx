// Asks before a machine is removed.
import { Modal } from '@mantine/core';
import type { RenderNode } from '@variscen/contract';
import { Buttons } from '../../ui/Buttons.tsx';
import type { MachineDoing } from './useMachineActions.ts';

interface Props {
  readonly machine: RenderNode;
  readonly actions: MachineDoing;
  readonly onClose: () => void;
}

export function RemoveMachine({ machine: m, actions, onClose }: Props) {
  const remove = () => {
    onClose();
    void actions.remove(m.name);
  };
  return (
    <Modal opened onClose={onClose} title={`Remove the machine “${m.name}”?`}>
      <p>
        Its token counts no more, and the record of what it has rendered goes.{' '}
        {m.state === 'rendering' && 'What it is at waits again, without its present slice. '}
        Pictures stay.
      </p>
      <Buttons label="Remove the machine" onCancel={onClose} onGo={remove} />
    </Modal>
  );
}
