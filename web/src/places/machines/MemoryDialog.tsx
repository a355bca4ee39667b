// What a trace may take on a machine. Larger ones go to machines with more.
import { Modal, Radio } from '@mantine/core';
import type { RenderNode } from '@variscen/contract';
import { useState } from 'react';
import { bytes } from '../../ui/format.ts';
import { Buttons } from '../../ui/Buttons.tsx';
import { NumberField } from '../../ui/NumberField.tsx';
import styles from './MachinesPlace.module.css';

const MIB = 2 ** 20;
const LEAST_MIB = 64;
const MOST_MIB = 10_000_000;
const DEFAULT_MIB = 4096;

interface Props {
  readonly machine: RenderNode;
  readonly onKeep: (budgetMib: number | null) => void;
  readonly onClose: () => void;
}

export function MemoryDialog({ machine: m, onKeep, onClose }: Props) {
  const [isSet, setIsSet] = useState(m.budgetMib !== null);
  const [mib, setMib] = useState(m.budgetMib ?? Math.round((m.budgetBytes ?? DEFAULT_MIB * MIB) / MIB));
  return (
    <Modal opened onClose={onClose} title={`Memory for a trace on ${m.name}`}>
      <form
        onSubmit={(e) => {
          e.preventDefault();
          onClose();
          onKeep(isSet ? mib : null);
        }}
      >
        <Radio.Group value={isSet ? 'set' : 'own'} onChange={(v) => setIsSet(v === 'set')} aria-label="Memory">
          <Radio size="xs" mt={8} value="own" label={ownLabel(m)} />
          <Radio size="xs" mt={8} value="set" label="No more than" />
        </Radio.Group>
        <div className={styles.fields}>
          <NumberField
            label="Memory for a trace"
            unit="MiB"
            value={mib}
            min={LEAST_MIB}
            max={MOST_MIB}
            decimals={0}
            onChange={(to) => {
              setIsSet(true);
              setMib(to);
            }}
          />
        </div>
        <p className="dim">A trace that is planned with more waits for a machine that has it.</p>
        <Buttons label="Keep the memory" onCancel={onClose} />
      </form>
    </Modal>
  );
}
const ownLabel = ({ budgetMib, budgetBytes }: RenderNode): string =>
  budgetMib === null && budgetBytes !== null
    ? `What the machine says itself: ${bytes(budgetBytes)}`
    : 'What the machine says itself';
