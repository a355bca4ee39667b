// What was done in a project lately: edits, batches, deliveries and cleaning up, in one list.
import type { Lately } from '@variscen/contract';
import { OPEN } from '../queue/batchEnds.ts';
import type { Context } from './context.ts';
import type { ProjectService } from './projects.ts';

const MOST = 200;

interface Row {
  readonly kind: Lately['kind'];
  readonly at: Date;
  readonly label: string;
  readonly is_undone: boolean;
  /** Of batches: cells by what came of them. Of the others: pictures. */
  readonly done: number;
  readonly failed: number;
  readonly open: number;
}
/** Of each kind no more than are shown of all. */
const LATELY = `
  (SELECT 'edit' kind, created_at "at", label, state = 'undone' is_undone, 0 done, 0 failed, 0 "open"
    FROM history_step WHERE project_id = $1 ORDER BY id DESC LIMIT ${MOST})
  UNION ALL
  (SELECT 'batch', coalesce(b.ended_at, b.created_at), b.profile->>'name', false,
      coalesce(sum(jsonb_array_length(t.cells)) FILTER (WHERE t.state = 'done'), 0)::int,
      coalesce(sum(jsonb_array_length(t.cells)) FILTER (WHERE t.state IN ('failed', 'undelivered')), 0)::int,
      coalesce(sum(jsonb_array_length(t.cells)) FILTER (WHERE t.state IN ${OPEN}), 0)::int
    FROM (SELECT * FROM batch WHERE project_id = $1 ORDER BY created_at DESC LIMIT ${MOST}) b
    JOIN trace t ON t.batch_id = b.id GROUP BY b.id, b.ended_at, b.created_at, b.profile)
  UNION ALL
  (SELECT 'delivery', created_at, path, false, jsonb_array_length(pictures), 0, 0
    FROM delivery WHERE project_id = $1 AND state = 'done' ORDER BY created_at DESC LIMIT ${MOST})
  UNION ALL
  (SELECT 'cleaning', created_at, '', state = 'undone', jsonb_array_length(renders), 0, 0
    FROM cleaning WHERE project_id = $1 ORDER BY created_at DESC LIMIT ${MOST})
  ORDER BY "at" DESC LIMIT ${MOST}`;

export class LatelyService {
  constructor(
    private readonly c: Context,
    private readonly projects: ProjectService,
  ) {}

  /** The latest first. @throws AppError NOT_FOUND */
  async of(projectId: string): Promise<Lately[]> {
    await this.projects.row(projectId);
    const rows = await this.c.db.query<Row[]>(LATELY, [projectId]);
    return rows.map((r) => ({ kind: r.kind, at: r.at.toISOString(), text: textOf(r), isUndone: r.is_undone }));
  }
}

const pictures = (n: number): string => `${n} ${n === 1 ? 'picture' : 'pictures'}`;

function textOf({ kind, label, done, failed, open }: Row): string {
  if (kind === 'edit') return label;
  if (kind === 'delivery') return `Deliver ${pictures(done)} as ${label}`;
  if (kind === 'cleaning') return `Clean up the files of ${pictures(done)}`;
  const failures = failed ? `, ${failed} failed` : '';
  if (open) return `Render ${pictures(done + failed + open)} as ${label}: ${open} to come${failures}`;
  return `Render ${pictures(done)} as ${label}${failures}`;
}
