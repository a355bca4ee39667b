// The picture that is looked at, or several of them held against each other; below them what is under the pointer.
import type { Grade } from '@variscen/core/image';
import { type ReactNode, useMemo, useRef } from 'react';
import { pathOf } from '../../api/client.ts';
import type { Listed } from '../../model/review/strip.ts';
import type { Subject } from '../../model/review/subject.ts';
import type { Box, View } from '../../model/review/view.ts';
import { type ShownLayer, useOpenedAhead, useShownLayers } from '../../pictures/useLayers.ts';
import { percent } from '../../ui/format.ts';
import { layerWords } from './layerWords.ts';
import { type Hands, type OverPicture, type Point, PicturePane, RegionFrame, Stroke } from './PicturePane.tsx';
import styles from './PictureStage.module.css';
import { PixelLine } from './PixelLine.tsx';
import { newMark } from './marks.ts';
import { type DifferenceSums, usePainted, usePaintedDifference } from './usePaintings.ts';
import type { ReviewState } from './useReview.ts';
import type { ReviewTools } from './useReviewTools.ts';
import { WipeLine } from './Wipe.tsx';

type Opened = ShownLayer | null | undefined | Error;
interface Props {
  readonly review: ReviewState;
  readonly tools: ReviewTools;
  readonly view: View;
  readonly onView: (view: View) => void;
}
/** A picture of those that are compared, and its layer as it is opened. */
interface Pane {
  readonly subject: Subject;
  readonly opened: Opened;
}
const sizeOf = ({ subject, opened }: Pane): Box => (opened && !(opened instanceof Error) ? opened.of : subject);

export function PictureStage(props: Props) {
  const { review, tools } = props;
  const { pictures } = tools.compared;
  const wanted = useMemo(
    () => pictures.map((s) => ({ renderId: s.id, layer: review.layer })),
    [pictures, review.layer],
  );
  const opened = useShownLayers(wanted);
  useOpenedAhead(neighboursOf(review), review.layer);
  const { drafted } = tools;
  const at = review.current?.rendered.id;
  const panes = useMemo(() => {
    const grade = drafted ?? gradeOf(opened[pictures.findIndex((s) => s.id === at)]);
    // a reference is held against a picture as that one is graded
    const isGraded = (s: Subject) => (s.id === at ? drafted !== null : s.entry === null);
    return pictures.map((subject, i): Pane => {
      const isShownAnew = grade !== null && isGraded(subject);
      return { subject, opened: isShownAnew ? gradedBy(opened[i], grade) : opened[i] };
    });
  }, [pictures, opened, drafted, at]);
  return (
    <div className={styles.stage}>
      <Panes {...props} panes={panes} />
      <PixelLine panes={panes} pointed={tools.pointed} />
    </div>
  );
}

/** The next one and the one before. */
function neighboursOf({ entries, current }: ReviewState): string[] {
  const at = entries.findIndex((l) => l === current);
  return at < 0 ? [] : [entries[at + 1], entries[at - 1]].flatMap((l) => (l ? [l.rendered.id] : []));
}

const gradeOf = (opened: Opened): Grade | null => (opened && !(opened instanceof Error) ? opened.grade : null);
/** As another grade shows its light. */
function gradedBy(opened: Opened, grade: Grade): Opened {
  if (!opened || opened instanceof Error || opened.how.kind !== 'graded' || !opened.about.isLinear) return opened;
  return { ...opened, how: { kind: 'graded', grade } };
}

function Panes({ panes, ...props }: Props & { readonly panes: readonly Pane[] }) {
  const { mode } = props.review;
  const { flipped } = props.tools;
  const last = panes.at(-1)!;
  if (mode !== 'one' && panes.length < 2) return <NothingToCompare {...props} pane={last} />;
  switch (mode) {
    case 'one':
      return <OnePane {...props} pane={last} />;
    case 'flip':
      return <OnePane {...props} pane={panes[flipped]!} isNamed />;
    case 'beside':
      return (
        <div className={styles.beside} data-count={panes.length}>
          {panes.map((pane) => (
            <OnePane {...props} key={pane.subject.id} pane={pane} isNamed />
          ))}
        </div>
      );
    case 'wipe':
      return <Wiped {...props} first={panes[0]!} second={last} />;
    case 'difference':
      return <Difference {...props} first={panes[0]!} second={last} />;
  }
}

function NothingToCompare({ pane, ...props }: Props & { readonly pane: Pane }) {
  return (
    <div className={styles.frame}>
      <OnePane {...props} pane={pane} />
      <p className={styles.hint}>Hold a picture with Space, then go to another: both are shown here.</p>
    </div>
  );
}

interface OneProps extends Props {
  readonly pane: Pane;
  readonly isNamed?: boolean;
  readonly children?: ReactNode;
}
function OnePane({ review, tools, view, onView, pane, isNamed = false, children }: OneProps) {
  const { subject, opened } = pane;
  const painted = usePainted(opened instanceof Error ? undefined : opened);
  const isPicture = review.layer === 'picture';
  return (
    <figure className={styles.frame}>
      <PicturePane
        label={`${subject.name}: ${layerWords(review.layer)}`}
        painted={painted}
        picture={sizeOf(pane)}
        poster={isPicture && subject.entry ? posterOf(subject.entry) : undefined}
        view={view}
        onView={onView}
        onHover={(pixel) => tools.pointed.setState({ pixel: pixel && { share: shareOf(pixel, sizeOf(pane)) } })}
        hands={handsOf(review, tools, subject)}
        over={(at) => (
          <>
            {tools.isolated !== null && <Isolated of={subject.id} object={tools.isolated} at={at} />}
            {subject.entry?.review?.marks.map((m) => (
              <Stroke key={m.id} points={m.points} at={at} />
            ))}
            <RegionFrames review={review} tools={tools} at={at} />
          </>
        )}
      />
      {isNamed && <figcaption className={styles.name}>{subject.name}</figcaption>}
      <Fault opened={opened} layer={review.layer} />
      {children}
    </figure>
  );
}
/** Those of the camera that are kept, and the one that is measured. */
function RegionFrames({ review, tools, at }: Pick<Props, 'review' | 'tools'> & { readonly at: OverPicture }) {
  return (
    <>
      {review.regions.map((r) => (
        <RegionFrame key={r.id} region={r} name={r.name} at={at} />
      ))}
      {tools.region && <RegionFrame region={tools.region} at={at} />}
    </>
  );
}
interface IsolatedProps {
  /** A picture's id. */
  readonly of: string;
  readonly object: string;
  readonly at: OverPicture;
}
/** Everything but an object is dark; where a picture has no ids, nothing is. */
function Isolated({ of, object, at }: IsolatedProps) {
  const mask = `${pathOf('pictureMask', { renderId: of })}?object=${encodeURIComponent(object)}`;
  return (
    <image href={mask} x={at.left} y={at.top} width={at.widthPx} height={at.heightPx} preserveAspectRatio="none" />
  );
}
const posterOf = ({ rendered }: Listed): string => pathOf('renderFile', { renderId: rendered.id, kind: 'thumbnail' });
const shareOf = ([x, y]: Point, { widthPx, heightPx }: Box): Point => [(x + 0.5) / widthPx, (y + 0.5) / heightPx];

function Fault({ opened, layer }: { opened: Opened; layer: string }) {
  if (opened instanceof Error)
    return (
      <p className={`notice ${styles.fault}`}>
        {[opened.message, (opened as { remedy?: string }).remedy].filter(Boolean).join(' ')}
      </p>
    );
  if (opened === null)
    return (
      <p className={`notice ${styles.fault}`}>
        This picture has no layer “{layerWords(layer)}”. Render it with a profile that has this AOV.
      </p>
    );
  return opened && !opened.about.isLinear ? (
    <p className={styles.hint}>Written only as a screen shows it: its light is not known beyond that.</p>
  ) : null;
}

function handsOf(review: ReviewState, tools: ReviewTools, { id, entry }: Subject): Hands {
  return {
    // a reference is not judged
    dragging: entry === null && tools.dragging === 'draw' ? 'move' : tools.dragging,
    onDrawn: (points) => {
      if (!entry) return;
      const marks = entry.review?.marks ?? [];
      review.say([entry.rendered.id], { marks: [...marks, newMark(points)] });
      if (entry.rendered.id !== review.current?.rendered.id) review.look(entry.rendered.id);
    },
    onRegion: tools.setRegion,
    onClick: (share) => tools.setAsked({ renderId: id, share }),
  };
}

interface TwoProps extends Props {
  readonly first: Pane;
  readonly second: Pane;
}
/** The first at the left of a line, the second at its right. */
function Wiped({ first, second, ...props }: TwoProps) {
  const frame = useRef<HTMLDivElement>(null);
  return (
    <div className={styles.frame} ref={frame}>
      <OnePane {...props} pane={second} />
      <div className={styles.upper}>
        <OnePane {...props} pane={first} />
      </div>
      <span className={styles.name}>{first.subject.name}</span>
      <span className={styles.name} data-side="right">
        {second.subject.name}
      </span>
      <WipeLine frame={frame} />
    </div>
  );
}

function Difference({ first, second, review, tools, view, onView }: TwoProps) {
  const ofLight = (o: Opened) => (o instanceof Error ? undefined : o);
  const { painted, sums } = usePaintedDifference(ofLight(first.opened), ofLight(second.opened), tools.difference);
  const isLight = [first, second].every(
    ({ opened }) => !opened || opened instanceof Error || opened.how.kind === 'graded',
  );
  return (
    <figure className={styles.frame}>
      <PicturePane
        label={`In what ${second.subject.name} differs from ${first.subject.name}`}
        painted={painted}
        picture={sizeOf(first)}
        poster={undefined}
        view={view}
        onView={onView}
        onHover={(pixel) => tools.pointed.setState({ pixel: pixel && { share: shareOf(pixel, sizeOf(first)) } })}
        hands={{
          ...handsOf(review, tools, second.subject),
          dragging: tools.dragging === 'draw' ? 'move' : tools.dragging,
        }}
        over={(at) => <RegionFrames review={review} tools={tools} at={at} />}
      />
      <figcaption className={styles.name}>
        {second.subject.name} less {first.subject.name}
      </figcaption>
      {!isLight && <p className={`notice ${styles.fault}`}>Differences are shown of layers that are light.</p>}
      {sums && <DifferenceLine sums={sums} unit={tools.difference.kind} />}
      <Fault opened={first.opened} layer={review.layer} />
      <Fault opened={second.opened} layer={review.layer} />
    </figure>
  );
}

const UNITS = { light: { by: 1, name: '' }, shown: { by: 255, name: ' of 255' }, perceived: { by: 1, name: ' ΔE00' } };
function DifferenceLine({ sums, unit }: { sums: DifferenceSums; unit: keyof typeof UNITS }) {
  const { by, name } = UNITS[unit];
  const figure = (v: number) => `${Number((v * by).toPrecision(3))}${name}`;
  if (!sums.differing) return <p className={styles.sums}>Not one pixel in sight differs.</p>;
  return (
    <p className={`mono ${styles.sums}`} title="Of what is in sight">
      mean {figure(sums.mean)} · most {figure(sums.most)} · {percent(sums.noticed / sums.pixels)} of pixels noticed
    </p>
  );
}
