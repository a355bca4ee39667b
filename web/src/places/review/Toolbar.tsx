// How pictures are shown: one or several, which layer, how large.
import { Select } from '@mantine/core';
import { DIFFERENCES, type DifferenceKind } from '@variscen/core/review';
import { FITTED, type View } from '../../model/review/view.ts';
import { useLayersOf } from '../../pictures/useLayers.ts';
import { layerWords } from './layerWords.ts';
import { References } from './References.tsx';
import styles from './Toolbar.module.css';
import { MODES, type Mode, type ReviewState } from './useReview.ts';
import { SURROUNDS, type ReviewTools } from './useReviewTools.ts';

const MODE_WORDS: Readonly<Record<Mode, string>> = {
  one: 'One',
  beside: 'Side by side',
  flip: 'Flip',
  wipe: 'Wipe',
  difference: 'Difference',
};
const DIFFERENCE_WORDS: Readonly<Record<DifferenceKind, string>> = {
  light: 'of light',
  shown: 'as shown',
  perceived: 'as seen (CIEDE2000)',
};
const SCALES = [1, 2, 4, 8, 16, 32, 64];

interface Props {
  readonly projectId: string;
  readonly review: ReviewState;
  readonly tools: ReviewTools;
  readonly view: View;
  readonly onView: (view: View) => void;
}
export function Toolbar({ projectId, review, tools, view, onView }: Props) {
  const { mode, current } = review;
  return (
    <div className={styles.bar} role="toolbar" aria-label="How pictures are shown">
      <div role="radiogroup" aria-label="Compare" className={styles.modes}>
        {MODES.map((m) => (
          <button
            type="button"
            key={m}
            role="radio"
            aria-checked={mode === m}
            className={styles.mode}
            onClick={() => review.put({ how: m === 'one' ? null : m })}
          >
            {MODE_WORDS[m]}
          </button>
        ))}
      </div>
      {mode === 'difference' && <DifferenceTools tools={tools} />}
      {mode === 'flip' && (
        <button type="button" className={`quiet ${styles.small}`} onClick={tools.flip}>
          Flip
        </button>
      )}
      <span className={styles.rest}>
        <References projectId={projectId} review={review} />
        <LayerPick review={review} renderId={current?.rendered.id} />
        <button
          type="button"
          className={`quiet ${styles.small}`}
          onClick={() => onView(FITTED)}
          disabled={view.zoom === 1}
        >
          Fit
        </button>
        <button
          type="button"
          className={`tool ${styles.surround}`}
          aria-label={`Surround: ${tools.surround}`}
          title={`Surround: ${SURROUNDS.join(', ')}`}
          onClick={tools.stepSurround}
        >
          <i data-surround={tools.surround} />
        </button>
      </span>
    </div>
  );
}

function DifferenceTools({ tools }: { tools: ReviewTools }) {
  const { kind, scale, isSigned } = tools.difference;
  return (
    <>
      <Select
        size="xs"
        w={168}
        aria-label="Difference"
        allowDeselect={false}
        data={DIFFERENCES.map((value) => ({ value, label: DIFFERENCE_WORDS[value] }))}
        value={kind}
        onChange={(v) => v && tools.setDifference({ kind: v as DifferenceKind })}
      />
      <Select
        size="xs"
        w={70}
        aria-label="Times"
        allowDeselect={false}
        data={SCALES.map((s) => ({ value: String(s), label: `× ${s}` }))}
        value={String(scale)}
        onChange={(v) => v && tools.setDifference({ scale: Number(v) })}
      />
      <button
        type="button"
        className={`quiet ${styles.small}`}
        aria-pressed={isSigned}
        title="What is brighter in the second is brighter than grey, what is darker is darker"
        onClick={() => tools.setDifference({ isSigned: !isSigned })}
      >
        With sign
      </button>
    </>
  );
}

function LayerPick({ review, renderId }: { review: ReviewState; renderId: string | undefined }) {
  const { data } = useLayersOf(renderId);
  const names = data?.layers.map((l) => l.name) ?? [];
  // one that was chosen for another picture stays chosen
  const all = names.includes(review.layer) ? names : [...names, review.layer];
  return (
    <Select
      size="xs"
      w={150}
      aria-label="Layer"
      allowDeselect={false}
      comboboxProps={{ width: 240, position: 'bottom-end' }}
      data={all.map((value) => ({ value, label: layerWords(value) }))}
      value={review.layer}
      onChange={(v) => v && review.put({ layer: v === 'picture' ? null : v })}
    />
  );
}
