import { type Inputs, cellHash } from '@variscen/core/looks';
import type { QueryRunner } from 'typeorm';

/** Hashes of renders and traces, from the inputs that are kept with them: as states are told apart today. */
export async function hashesAnew(q: QueryRunner): Promise<void> {
  for (const { id } of (await q.query(`SELECT id FROM render`)) as { id: string }[]) {
    const [row] = (await q.query(`SELECT inputs FROM render WHERE id = $1`, [id])) as [{ inputs: Inputs }];
    await q.query(`UPDATE render SET hash = $2 WHERE id = $1`, [id, cellHash(row.inputs)]);
  }
  for (const { id } of (await q.query(`SELECT id FROM trace`)) as { id: string }[]) {
    const [row] = (await q.query(`SELECT cells FROM trace WHERE id = $1`, [id])) as [
      { cells: { inputs: Inputs; hash: string }[] },
    ];
    await q.query(`UPDATE trace SET cells = $2 WHERE id = $1`, [
      id,
      JSON.stringify(row.cells.map((c) => ({ ...c, hash: cellHash(c.inputs) }))),
    ]);
  }
}
