// What is said of the picture that is looked at, and what is known of it.
import { Textarea } from '@mantine/core';
import type { Mark, Project, Verdict } from '@variscen/contract';
import { IconChevronDown, IconChevronUp, IconPencil, IconTrash } from '@tabler/icons-react';
import { useEffect, useState } from 'react';
import { type Listed, askedBefore } from '../../model/review/strip.ts';
import { plural, version } from '../../ui/format.ts';
import { DevelopPanel } from './develop/DevelopPanel.tsx';
import { AboutPicture } from './AboutPicture.tsx';
import { IsolatedLine, ObjectsPanel } from './ObjectsPanel.tsx';
import { RegionPanel } from './RegionPanel.tsx';
import styles from './ReviewSide.module.css';
import { VERDICT_WORDS, VerdictMark } from '../../ui/VerdictMark.tsx';
import type { ReviewState } from './useReview.ts';
import type { ReviewTools } from './useReviewTools.ts';

interface Props {
  readonly review: ReviewState;
  readonly current: Listed;
  readonly tools: ReviewTools;
}
export function ReviewSide({ project, review, current, tools }: Props & { readonly project: Project }) {
  return (
    <aside className={styles.side} aria-label="This picture">
      <Head review={review} current={current} />
      <Judge review={review} current={current} />
      <AskedBefore asked={askedBefore(review.versions, current)} onLook={review.look} />
      <Note key={current.review?.note ?? ''} review={review} current={current} />
      <Marks review={review} current={current} tools={tools} />
      <IsolatedLine tools={tools} />
      {tools.asked && <ObjectsPanel project={project} asked={tools.asked} tools={tools} />}
      <RegionPanel review={review} tools={tools} />
      <DevelopPanel project={project} review={review} current={current} tools={tools} />
      <AboutPicture project={project} current={current} />
    </aside>
  );
}

function Head({ review, current }: Omit<Props, 'tools'>) {
  const { versions, heldIds } = review;
  const at = versions.indexOf(current);
  const isHeld = heldIds.includes(current.rendered.id);
  return (
    <div className={styles.head}>
      <h2 className="ellipsis">{current.camera.name}</h2>
      <div className={styles.line}>
        <span className="ellipsis dim">in {current.variant.name}</span>
        <button
          type="button"
          className={`quiet ${styles.small}`}
          aria-pressed={isHeld}
          title="Held pictures are shown beside the one that you go to: Space"
          onClick={() => review.hold(current.rendered.id, !isHeld)}
        >
          {isHeld ? 'Held' : 'Hold'}
        </button>
      </div>
      <div className={styles.line}>
        <span>
          <b className="mono">{version(current.rendered.version)}</b>
          <span className="dim">
            {versions.length > 1 ? ` of ${versions.length} versions` : ', the only version'}
            {current.rendered.frame !== null && `, frame ${current.rendered.frame}`}
          </span>
        </span>
        <span>
          <button
            type="button"
            className="tool"
            aria-label="Older version"
            title="Older version: ↓"
            disabled={at >= versions.length - 1}
            onClick={() => review.stepVersion(-1)}
          >
            <IconChevronDown size={16} stroke={1.6} />
          </button>
          <button
            type="button"
            className="tool"
            aria-label="Newer version"
            title="Newer version: ↑"
            disabled={at <= 0}
            onClick={() => review.stepVersion(1)}
          >
            <IconChevronUp size={16} stroke={1.6} />
          </button>
        </span>
      </div>
    </div>
  );
}

const JUDGE_WORDS: Readonly<Record<Verdict, string>> = { approved: 'Approve', rejected: 'Reject' };
function Judge({ review, current }: Omit<Props, 'tools'>) {
  const verdict = current.review?.verdict ?? null;
  return (
    <div className={styles.judge}>
      {(['approved', 'rejected'] as const).map((v) => (
        <button
          type="button"
          key={v}
          className="quiet"
          aria-pressed={verdict === v}
          title={verdict === v ? 'Take it back' : `${JUDGE_WORDS[v]}: ${JUDGE_WORDS[v][0]!}`}
          onClick={() => review.say([current.rendered.id], { verdict: verdict === v ? null : v })}
        >
          <VerdictMark verdict={v} /> {verdict === v ? VERDICT_WORDS[v] : JUDGE_WORDS[v]}
        </button>
      ))}
    </div>
  );
}

/** What was asked of earlier versions: whether this one has it. */
function AskedBefore({ asked, onLook }: { asked: readonly Listed[]; onLook: (renderId: string) => void }) {
  if (!asked.length) return null;
  return (
    <section className={styles.part}>
      <h4>Asked before</h4>
      {asked.map((l) => (
        <div key={l.rendered.id} className={styles.asked}>
          <button type="button" className={`mono ${styles.link}`} onClick={() => onLook(l.rendered.id)}>
            {version(l.rendered.version)}
          </button>
          <span>
            {l.review!.note || plural(l.review!.marks.length, 'mark')}
            {l.review!.marks.flatMap((m) => (m.text ? [<em key={m.id}>{m.text}</em>] : []))}
          </span>
        </div>
      ))}
    </section>
  );
}

const MOST_NOTE = 4000;
function Note({ review, current }: Omit<Props, 'tools'>) {
  const known = current.review?.note ?? '';
  const [note, setNote] = useState(known);
  const keep = () => {
    if (note.trim() !== known) review.say([current.rendered.id], { note: note.trim() });
  };
  return (
    <section className={styles.part}>
      <Textarea
        id="review-note"
        label="Note"
        placeholder="What should be otherwise"
        size="xs"
        autosize
        minRows={2}
        maxRows={8}
        maxLength={MOST_NOTE}
        value={note}
        onChange={(e) => setNote(e.currentTarget.value)}
        onBlur={keep}
        onKeyDown={(e) => {
          if (e.key === 'Escape') setNote(known);
          const isDone = e.key === 'Escape' || (e.key === 'Enter' && (e.ctrlKey || e.metaKey));
          if (isDone) e.currentTarget.blur();
        }}
      />
    </section>
  );
}

function Marks({ review, current, tools }: Props) {
  const marks = current.review?.marks ?? [];
  const put = (next: readonly Mark[]) => review.say([current.rendered.id], { marks: [...next] });
  return (
    <section className={styles.part}>
      <div className={styles.line}>
        <h4>Marks</h4>
        <button
          type="button"
          className={`quiet ${styles.small}`}
          aria-pressed={tools.dragging === 'draw'}
          title="Draw on the picture: M"
          onClick={() => tools.setDragging(tools.dragging === 'draw' ? 'move' : 'draw')}
        >
          <IconPencil size={13} stroke={1.6} aria-hidden /> Draw
        </button>
      </div>
      {marks.map((mark, i) => (
        <MarkRow
          key={mark.id}
          label={`Mark ${i + 1}`}
          mark={mark}
          onText={(text) => put(marks.map((m) => (m.id === mark.id ? { ...m, text } : m)))}
          onRemove={() => put(marks.filter((m) => m.id !== mark.id))}
        />
      ))}
    </section>
  );
}

interface MarkProps {
  readonly label: string;
  readonly mark: Mark;
  readonly onText: (text: string) => void;
  readonly onRemove: () => void;
}
function MarkRow({ label, mark, onText, onRemove }: MarkProps) {
  const [text, setText] = useState(mark.text);
  useEffect(() => setText(mark.text), [mark.text]);
  const keep = () => {
    if (text.trim() !== mark.text) onText(text.trim());
  };
  return (
    <div className={styles.mark}>
      <input
        aria-label={label}
        placeholder="A word about it"
        maxLength={500}
        value={text}
        onChange={(e) => setText(e.currentTarget.value)}
        onBlur={keep}
        onKeyDown={(e) => {
          if (e.key === 'Enter') e.currentTarget.blur();
        }}
      />
      <button type="button" className="tool" aria-label={`Remove ${label}`} onClick={onRemove}>
        <IconTrash size={14} stroke={1.6} />
      </button>
    </div>
  );
}
