// A row of the board: a camera in every variant. Each cell shows its latest picture in the camera's true aspect.
import type { BoardCell, CellStatus, FrameCounts, Project, Review, Variant, Verdict } from '@variscen/contract';
import { IconAdjustments } from '@tabler/icons-react';
import type { ProfileSettings } from '@variscen/core/plan';
import type { MouseEvent } from 'react';
import { pathOf } from '../../api/client.ts';
import { useProgress } from '../../api/progress.ts';
import { type Act, type SelectedCells, cellKey } from '../../model/selectedCells.ts';
import { count, plural, version } from '../../ui/format.ts';
import type { Judged } from '../../session/useReviews.ts';
import { STATUS_WORDS, StateMark } from '../../ui/glyphs.tsx';
import { VERDICT_WORDS, VerdictMark } from '../../ui/VerdictMark.tsx';
import { Bar } from '../../ui/Bar.tsx';
import styles from './BoardRow.module.css';
import { CameraHead } from './CameraHead.tsx';
import { culledWords } from './culledWords.ts';
import { settingWords } from './profiles/profileFields.ts';

/** Height of the box that a picture fits, as a share of its width. */
export const PRINT_BOX = 0.7;
export const cellElementId = (key: string): string => `cell-${key.replace(' ', '-')}`;

interface RowProps {
  project: Project;
  camera: Project['cameras'][number];
  index: number;
  /** Where it begins on the board, and who is told how tall it is. */
  startPx: number;
  measure: (row: HTMLElement | null) => void;
  /** Those in sight, side by side, and what lies between them and the head. */
  columns: readonly { readonly variant: Variant; readonly index: number }[];
  beforePx: number;
  cells: ReadonlyMap<string, BoardCell>;
  judged: Judged;
  size: number;
  selected: SelectedCells;
  act: (a: Act) => void;
  open: (key: string) => void;
}
export function BoardRow(props: RowProps) {
  const { project, camera, index, startPx, measure, columns, beforePx, cells, judged, size, selected, act, open } =
    props;
  return (
    <div
      role="row"
      ref={measure}
      data-index={index}
      aria-rowindex={index + 2}
      className={styles.row}
      style={{ top: startPx }}
    >
      <CameraHead project={project} camera={camera} onSelect={(add) => act({ type: 'row', id: camera.id, add })} />
      <div className={styles.cells} style={{ marginLeft: beforePx }}>
        {columns.map(({ variant, index: column }) => {
          const key = cellKey(camera.id, variant.id);
          return (
            <Cell
              key={key}
              id={cellElementId(key)}
              columnIndex={column + 2}
              name={`${camera.name} in ${variant.name}`}
              cell={cells.get(key)}
              review={judged.ofPicture.get(cells.get(key)?.render?.id ?? '')}
              approved={judged.approved.get(key)}
              otherwise={otherwiseOf(project, camera.id, variant.id)}
              aspect={camera.settings.widthPx / camera.settings.heightPx}
              size={size}
              selected={selected.keys.has(key)}
              cursor={selected.cursor === key}
              onSelect={(type) => act({ type, key })}
              onOpen={() => open(key)}
            />
          );
        })}
      </div>
    </div>
  );
}

interface CellProps {
  id: string;
  columnIndex: number;
  name: string;
  cell: BoardCell | undefined;
  /** Of its latest picture, and of its newest that is approved. */
  review: Review | undefined;
  approved: Review | undefined;
  /** What is rendered otherwise, in words; empty: nothing. */
  otherwise: string;
  aspect: number;
  size: number;
  selected: boolean;
  cursor: boolean;
  onSelect: (type: 'only' | 'toggle' | 'range') => void;
  onOpen: () => void;
}
function Cell(props: CellProps) {
  const { id, columnIndex, name, cell, review, approved, otherwise, aspect, size, selected, cursor } = props;
  const { onSelect, onOpen } = props;
  const live = useProgress((s) => (cell?.trace ? s.traces[cell.trace.id] : undefined));
  const status = cell?.status ?? 'never';
  const running = status === 'rendering';
  const ofPicture = live?.fraction ?? cell?.trace?.fraction ?? 0;
  const frames = cell?.frames;
  const fraction = frames ? (frames.current + ofPicture) / frames.total : ofPicture;
  const preview = Math.max(live?.previewVersion ?? 0, cell?.trace?.previewVersion ?? 0);
  // a picture fits a box of one size, so that rows stay even whatever the cameras' aspects
  const width = Math.min(size, size * PRINT_BOX * aspect);
  const height = width / aspect;
  const picture = cell && pictureOf(cell, running ? preview : 0);
  const isShadowed = picture !== undefined;
  const latest = cell?.render ? version(cell.render.version) : '';
  const picturesDone = running ? `${Math.round(fraction * 100)} %` : latest;
  const note = frames ? framesNote(frames, width >= WIDE_PX) : picturesDone;
  const said = cell ? STATUS_WORDS[status] : 'not known yet';
  const verdict = verdictOf(review, approved);
  const culled = cell?.render ? culledWords(cell.render) : null;
  return (
    <div
      role="gridcell"
      id={id}
      aria-colindex={columnIndex}
      aria-selected={selected}
      aria-label={[`${name}: ${said}`, note, verdict && VERDICT_WORDS[verdict.verdict], culled?.short]
        .filter(Boolean)
        .join(', ')}
      data-status={status}
      className={styles.cell}
      style={{ width: size, height: size * PRINT_BOX }}
      onClick={(e) => onSelect(waysToSelect(e))}
      onDoubleClick={onOpen}
      title={
        cell?.trace?.error ??
        cell?.differences
          .map((d) => `${d.subject}, ${d.what} ${d.was} → ${d.is}`)
          .slice(0, 6)
          .join('\n')
      }
    >
      <div
        className={styles.print}
        data-selected={selected}
        data-cursor={cursor}
        data-shadow={isShadowed}
        style={{ width, height }}
      >
        {picture ? (
          <img
            src={picture}
            alt=""
            draggable={false}
            className={styles.picture}
            data-excluded={status === 'excluded'}
          />
        ) : (
          <div className={styles.missing}>{MISSING_WORDS[status] ?? STATUS_WORDS[status].toLowerCase()}</div>
        )}
        <span className={styles.state}>
          {cell && <StateMark status={status} fraction={fraction} />}
          {verdict && <VerdictMark verdict={verdict.verdict} />}
          {verdict?.version !== undefined && width >= WIDE_PX && (
            <span className={`mono ${styles.approvedBefore}`}>{version(verdict.version)}</span>
          )}
        </span>
        {note && <span className={`mono ${styles.note}`}>{note}</span>}
        {culled && width >= WIDE_PX && (
          <span className={styles.culled} title={culled.long}>
            {culled.short}
          </span>
        )}
        {otherwise && (
          <span className={styles.otherwise} title={`Rendered otherwise: ${otherwise}`}>
            <IconAdjustments size={12} stroke={1.6} aria-label={`rendered otherwise: ${otherwise}`} />
          </span>
        )}
        {running && <Bar fraction={fraction} className={styles.progress} />}
      </div>
    </div>
  );
}

/** Of the latest picture; where that is not judged yet, that an earlier version is approved. */
function verdictOf(
  review: Review | undefined,
  approved: Review | undefined,
): { readonly verdict: Verdict; readonly version?: number } | null {
  if (review?.verdict) return { verdict: review.verdict };
  return approved ? { verdict: 'approved', version: approved.version } : null;
}

/** From here on a picture takes more words. */
const WIDE_PX = 110;
/** “38 of 40 frames”, or how many there are where all are up to date or none. */
function framesNote({ total, current }: FrameCounts, isWide: boolean): string {
  const all = isWide ? plural(total, 'frame') : count(total);
  return current === 0 || current === total ? all : `${count(current)} of ${all}`;
}

function otherwiseOf({ exceptions }: Project, cameraId: string, variantId: string): string {
  const of = exceptions.filter((e) => e.cameraId === cameraId && (e.variantId ?? variantId) === variantId);
  return of.map((e) => settingWords(e.settings as Partial<ProfileSettings>)).join(', ');
}

const MISSING_WORDS: Partial<Readonly<Record<CellStatus, string>>> = { excluded: 'left out', never: '' };

function pictureOf(cell: BoardCell, preview: number): string | undefined {
  if (preview > 0 && cell.trace) return `${pathOf('tracePreview', { traceId: cell.trace.id })}?v=${preview}`;
  return cell.render ? pathOf('renderFile', { renderId: cell.render.id, kind: 'thumbnail' }) : undefined;
}
function waysToSelect(e: MouseEvent): 'only' | 'toggle' | 'range' {
  if (e.shiftKey) return 'range';
  return e.ctrlKey || e.metaKey ? 'toggle' : 'only';
}
