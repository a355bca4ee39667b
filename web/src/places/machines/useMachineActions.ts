// What people do with machines, each with what is said when it did not come to it.
import { useQueryClient } from '@tanstack/react-query';
import type { MachineToken, NodeHours, RenderNode } from '@variscen/contract';
import { useMemo } from 'react';
import { call } from '../../api/client.ts';
import { keys } from '../../api/queries.ts';
import { sayError } from '../../ui/notify.ts';

export interface MachineDoing {
  /** Null where it did not come to it, which was said. */
  add(name: string): Promise<MachineToken | null>;
  renewToken(name: string): Promise<MachineToken | null>;
  set(machine: Pick<RenderNode, 'name' | 'isDrained' | 'budgetMib'>): Promise<unknown>;
  setHours(name: string, hours: NodeHours): Promise<unknown>;
  remove(name: string): Promise<unknown>;
}

export function useMachineActions(): MachineDoing {
  const client = useQueryClient();
  return useMemo(() => {
    const done = async <T>(what: () => Promise<T>): Promise<T | null> => {
      try {
        return await what();
      } catch (e) {
        sayError(e);
        return null;
      } finally {
        await client.invalidateQueries({ queryKey: keys.queue });
      }
    };
    return {
      add: (name) => done(() => call('addMachine', { body: { name } })),
      renewToken: (name) => done(() => call('renewMachineToken', { body: { name } })),
      set: ({ name, isDrained, budgetMib }) => done(() => call('setMachine', { body: { name, isDrained, budgetMib } })),
      setHours: (name, hours) => done(() => call('nodeHours', { body: { name, hours } })),
      remove: (name) => done(() => call('removeMachine', { query: { name } })),
    };
  }, [client]);
}
