// Which pictures are gone through, and how far the judging is.
import type { Project } from '@variscen/contract';
import dayjs from 'dayjs';
import { cellKey } from '../../model/selectedCells.ts';
import { type Listed, type Scope, SHOWN, type ShownVerdicts, inScope } from '../../model/review/strip.ts';
import { type Choice, Pick } from '../../shell/Pick.tsx';
import { plural } from '../../ui/format.ts';
import { HandOver } from './handOver/HandOver.tsx';
import { VerdictMark } from '../../ui/VerdictMark.tsx';
import type { ReviewState } from './useReview.ts';

export const SHOWN_WORDS: Readonly<Record<ShownVerdicts, string>> = {
  all: 'all',
  open: 'not judged yet',
  approved: 'approved',
  rejected: 'rejected',
  noted: 'with notes or marks',
};
const MOST_BATCHES = 12;

export function ReviewSentence({ project, review }: { project: Project; review: ReviewState }) {
  const { scope, shown, entries, all } = review;
  const choices = scopes(project, review);
  const inAll = inScope(all, scope, project);
  const counted = (verdict: 'approved' | 'rejected') => inAll.filter((l) => l.review?.verdict === verdict).length;
  const [approved, rejected] = [counted('approved'), counted('rejected')];
  return (
    <header className="sentence">
      Reviewing{' '}
      <Pick
        label="Pictures"
        value={scopeWords(project, scope, all)}
        choices={choices.map((c) => c.choice)}
        onPick={(id) => review.setScope(choices.find((c) => c.choice.id === id)!.scope)}
      />
      {', '}
      <Pick
        label="Shown"
        value={SHOWN_WORDS[shown]}
        choices={SHOWN.map((id) => ({ id, label: SHOWN_WORDS[id] }))}
        onPick={(id) => review.put({ show: id === 'all' ? null : id })}
      />
      {`: ${plural(entries.length, 'picture')}.`}
      <span className="right" aria-live="polite">
        <span>
          <VerdictMark verdict="approved" /> {approved} approved
        </span>
        <span>
          <VerdictMark verdict="rejected" /> {rejected} rejected
        </span>
        <span>{inAll.length - approved - rejected} to judge</span>
        <HandOver project={project} pictures={entries} />
      </span>
    </header>
  );
}

function scopeWords({ cameras, variants }: Project, scope: Scope, all: readonly Listed[]): string {
  switch (scope.kind) {
    case 'latest':
      return 'the latest of every cell';
    case 'approved':
      return 'what is approved';
    case 'camera':
      return `the latest of ${cameras.find((c) => c.id === scope.id)?.name ?? 'a camera that is gone'}`;
    case 'variant':
      return `the latest of ${variants.find((v) => v.id === scope.id)?.name ?? 'a variant that is gone'}`;
    case 'batch':
      return batchWords(all.filter((l) => l.rendered.batchId === scope.id));
    case 'versions': {
      const one = all.find((l) => cellKey(l.camera.id, l.variant.id) === scope.cell);
      return one
        ? `every version of ${one.camera.name} in ${one.variant.name}`
        : 'every version of a cell that is gone';
    }
    case 'cells':
      return `the latest of ${plural(scope.cells.length, 'cell')}`;
  }
}
function batchWords(of: readonly Listed[]): string {
  const last = of[0];
  if (!last) return 'a batch that is gone';
  const at = dayjs(last.rendered.createdAt);
  return `the ${last.rendered.profileName} batch of ${at.format(at.isSame(dayjs(), 'day') ? 'HH:mm' : 'D MMM HH:mm')}`;
}

interface ScopeChoice {
  readonly choice: Choice;
  readonly scope: Scope;
}
function scopes(project: Project, { all, current, scope }: ReviewState): ScopeChoice[] {
  const one = (id: string, label: string, of: Scope, section?: string): ScopeChoice => ({
    choice: { id, label, ...(section && { section }) },
    scope: of,
  });
  const rendered = (kind: 'camera' | 'variant') => new Set(all.map((l) => l[kind].id));
  const [cameras, variants] = [rendered('camera'), rendered('variant')];
  const batches = new Map<string, Listed[]>();
  for (const l of all) {
    const { batchId } = l.rendered;
    if (batchId !== null) batches.set(batchId, [...(batches.get(batchId) ?? []), l]);
  }
  const cell = current && cellKey(current.camera.id, current.variant.id);
  return [
    one('latest', 'The latest of every cell', { kind: 'latest' }),
    one('approved', 'What is approved', { kind: 'approved' }),
    ...(current && cell
      ? [
          one('versions', `Every version of ${current.camera.name} in ${current.variant.name}`, {
            kind: 'versions',
            cell,
          }),
        ]
      : []),
    ...(scope.kind === 'cells'
      ? [one('cells', `The ${plural(scope.cells.length, 'cell')} from the board`, scope)]
      : []),
    ...project.cameras
      .filter((c) => cameras.has(c.id))
      .map((c) => one(`camera ${c.id}`, c.name, { kind: 'camera', id: c.id }, 'The latest of a camera')),
    ...project.variants
      .filter((v) => variants.has(v.id))
      .map((v) => one(`variant ${v.id}`, v.name, { kind: 'variant', id: v.id }, 'The latest of a variant')),
    ...[...batches]
      .slice(0, MOST_BATCHES)
      .map(([id, of]) =>
        one(
          `batch ${id}`,
          `${batchWords(of)}, ${plural(of.length, 'picture')}`.replace(/^the /, ''),
          { kind: 'batch', id },
          'A batch',
        ),
      ),
  ];
}
