// Machines that render, and settings of the whole.
import { EntitySchema } from 'typeorm';
import { int, json, nullable, text, time } from './columns.ts';

export interface MachineRow {
  name: string;
  /** Null for the machine that Variscen runs on, whose token is in the data folder. */
  tokenHash: string | null;
  isDrained: boolean;
  budgetMib: number | null;
  /** What it has done: traces that it finished, slices of any, and what both took. */
  traces: number;
  slices: number;
  seconds: number;
  paths: number;
  seenAt: Date | null;
  createdAt: Date;
}
export const MachineRows = new EntitySchema<MachineRow>({
  name: 'machine',
  tableName: 'machine',
  columns: {
    name: { ...text('name'), primary: true },
    tokenHash: nullable(text('token_hash')),
    isDrained: { type: 'boolean', name: 'is_drained', default: false },
    budgetMib: nullable(int('budget_mib')),
    traces: { ...int('traces'), default: 0 },
    slices: { ...int('slices'), default: 0 },
    seconds: { type: 'double precision', name: 'seconds', default: 0 },
    paths: { type: 'double precision', name: 'paths', default: 0 },
    seenAt: nullable(time('seen_at')),
    createdAt: { ...time('created_at'), default: () => 'now()' },
  },
});

export interface SettingRow {
  key: string;
  value: unknown;
}
/** What people set for the whole of Variscen. */
export const Settings = new EntitySchema<SettingRow>({
  name: 'setting',
  tableName: 'setting',
  columns: { key: { ...text('key'), primary: true }, value: json('value') },
});
