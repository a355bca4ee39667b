// Machines that render, for people.
import * as z from 'zod';
import { workingHoursSchema } from '../hours.ts';
import { nameSchema } from '../looks.ts';
import { budgetMibSchema, machineTokenSchema, nodeSchema } from '../machines.ts';
import { type RouteSpec, none } from './spec.ts';

const machine = z.object({ name: nameSchema });

export const MACHINES_ROUTES = {
  nodes: {
    method: 'get',
    path: '/api/nodes',
    summary: 'The machines that render, and those that were added and have not joined yet.',
    node: 'also',
    response: z.array(nodeSchema),
  },
  addMachine: {
    method: 'post',
    path: '/api/nodes',
    summary: 'Adds a machine. Its token is in the answer, and nowhere else: only its hash is kept.',
    body: machine,
    response: machineTokenSchema,
  },
  renewMachineToken: {
    method: 'post',
    path: '/api/nodes/token',
    summary: 'Gives a machine another token. The one before counts no more.',
    body: machine,
    response: machineTokenSchema,
  },
  setMachine: {
    method: 'put',
    path: '/api/nodes',
    summary: 'Lets a machine end what it renders and take nothing more, or sets what a trace may take there.',
    body: machine.extend({ isDrained: z.boolean(), budgetMib: budgetMibSchema.nullable() }),
    response: none,
  },
  removeMachine: {
    method: 'delete',
    path: '/api/nodes',
    summary: 'Removes a machine: its token counts no more, and what it renders waits again at once.',
    query: machine,
    response: none,
  },
  nodeHours: {
    method: 'put',
    path: '/api/node-hours',
    summary:
      'Sets when a machine may render. What renders there changes its threads within seconds and keeps its work.',
    body: z.object({ name: nameSchema, hours: workingHoursSchema }),
    response: none,
  },
} as const satisfies Record<string, RouteSpec>;
