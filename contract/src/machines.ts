// Machines that render, as people see them, and what their nodes say of themselves.
import * as z from 'zod';
import { workingHoursSchema } from './hours.ts';

export const budgetMibSchema = z.int().min(64).max(10_000_000);

/** What a machine has rendered since it was added. */
const machineWorkSchema = z.object({
  traces: z.int().nonnegative(),
  slices: z.int().nonnegative(),
  seconds: z.number().nonnegative(),
  paths: z.number().nonnegative(),
});

export const nodeSchema = z
  .object({
    name: z.string(),
    /** Whether it is the machine that Variscen runs on, whose node starts with it. */
    isOwn: z.boolean(),
    /** never: it was added and has not joined yet. */
    state: z.enum(['idle', 'rendering', 'gone', 'never']),
    /** 0 where it has not said. */
    threads: z.int().nonnegative(),
    seenAt: z.string().nullable(),
    /** How many of its threads may work now, and why not all, in words. */
    threadsNow: z.int().nonnegative(),
    why: z.string().nullable(),
    hours: workingHoursSchema,
    /** It ends what it renders, and takes nothing more. */
    isDrained: z.boolean(),
    /** What a trace may take there: as people have set it, and as it is in force; null: not set, not known. */
    budgetMib: budgetMibSchema.nullable(),
    budgetBytes: z.number().nullable(),
    /** What its node's process takes, as it last said. */
    usedBytes: z.number().nullable(),
    traceId: z.string().nullable(),
    work: machineWorkSchema,
  })
  .meta({ id: 'RenderNode' });
export type RenderNode = z.infer<typeof nodeSchema>;
export type MachineWork = z.infer<typeof machineWorkSchema>;

/** A machine's new token. It is kept as a hash and cannot be shown again. */
export const machineTokenSchema = z.object({ name: z.string(), token: z.string() }).meta({ id: 'MachineToken' });
export type MachineToken = z.infer<typeof machineTokenSchema>;
