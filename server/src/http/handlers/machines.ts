// Machines that render, for people.
import type { MACHINES_ROUTES } from '@variscen/contract';
import type { Handlers } from '../handler.ts';
import type { Services } from '../services.ts';

export const machinesHandlers = ({ c: { queue } }: Services): Handlers<typeof MACHINES_ROUTES> => {
  const told = async <T>(does: Promise<T>): Promise<T> => {
    const value = await does;
    queue.tellAll();
    return value;
  };
  return {
    nodes: () => Promise.resolve(queue.nodes.view(queue.hours)),
    addMachine: ({ body }) => told(queue.machines.add(body.name)),
    renewMachineToken: ({ body }) => told(queue.machines.renewToken(body.name)),
    setMachine: async ({ body: { name, ...values } }) => {
      await told(queue.machines.set(name, values));
      return {};
    },
    removeMachine: async ({ query }) => {
      await told(queue.remove(query.name));
      return {};
    },
    nodeHours: async ({ body }) => {
      await told(queue.hours.set(body.name, body.hours));
      return {};
    },
  };
};
