// The whole scene held against what the camera leaves of it, at the same seeds: both pictures, their difference with a
// scale, time and memory of both. A click on a pixel names what is missing there.
import { Modal, Slider } from '@mantine/core';
import { type Proof, type ProofSide, percent as shareWords } from '@variscen/core/cull';
import { type MouseEvent, useEffect, useMemo, useState } from 'react';
import { type ProofView, doubtAt, proofPixels } from '../../model/proofPicture.ts';
import { bytes, count, duration } from '../../ui/format.ts';
import styles from './ProofDialog.module.css';

const VIEWS: readonly { readonly id: ProofView; readonly label: string }[] = [
  { id: 'whole', label: 'Whole scene' },
  { id: 'culled', label: 'As it is culled' },
  { id: 'difference', label: 'Difference' },
  { id: 'doubt', label: 'At most' },
];
/** Factors on the difference, as powers of ten. */
const SCALE = { min: 0, max: 4, first: 2 } as const;

interface Props {
  readonly name: string;
  readonly proof: Proof;
  readonly onClose: () => void;
  /** Something is not to be left out any more. */
  readonly onKeep: (path: string) => void;
}
export function ProofDialog({ name, proof, onClose, onKeep }: Props) {
  const [picture, setPicture] = useState<ProofView>('whole');
  const [scale, setScale] = useState<number>(SCALE.first);
  const [at, setAt] = useState<{ readonly x: number; readonly y: number } | null>(null);
  // the dialog fades in: its canvas is there after the dialog itself
  const [canvas, setCanvas] = useState<HTMLCanvasElement | null>(null);
  const { widthPx, heightPx } = proof;
  const pixels = useMemo(() => proofPixels(proof, picture, 10 ** scale), [proof, picture, scale]);
  useEffect(() => {
    canvas?.getContext('2d')?.putImageData(new ImageData(pixels, widthPx, heightPx), 0, 0);
  }, [canvas, pixels, widthPx, heightPx]);
  const pick = (e: MouseEvent<HTMLCanvasElement>) => {
    const { left, top, width, height } = e.currentTarget.getBoundingClientRect();
    setAt({
      x: Math.floor(((e.clientX - left) / width) * widthPx),
      y: Math.floor(((e.clientY - top) / height) * heightPx),
    });
  };
  const isScaled = picture === 'difference' || picture === 'doubt';
  return (
    <Modal opened onClose={onClose} title={`${name}: whole and culled`} size={1120} centered>
      <div className={styles.proof}>
        <div>
          <div role="group" aria-label="Which picture" className={styles.views}>
            {VIEWS.filter((v) => v.id !== 'doubt' || proof.atMostShare !== null).map(({ id, label }) => (
              <button
                key={id}
                type="button"
                className={`quiet ${styles.view}`}
                aria-pressed={id === picture}
                onClick={() => setPicture(id)}
              >
                {label}
              </button>
            ))}
            {isScaled && (
              <div className={styles.scale}>
                <span className="dim">× {count(Math.round(10 ** scale))}</span>
                <Slider
                  min={SCALE.min}
                  max={SCALE.max}
                  step={0.25}
                  value={scale}
                  label={null}
                  thumbLabel="Scale of the difference"
                  color="var(--ink)"
                  size="xs"
                  onChange={setScale}
                />
              </div>
            )}
          </div>
          <canvas
            ref={setCanvas}
            width={widthPx}
            height={heightPx}
            role="img"
            aria-label={VIEWS.find((v) => v.id === picture)!.label}
            className={styles.picture}
            onClick={pick}
          />
          <p className={styles.legend}>
            {picture === 'difference'
              ? 'Brighter than grey: more light than the whole scene gives there. Darker: less.'
              : 'Click on the picture to learn what is missing there.'}
          </p>
        </div>
        <div className={styles.figures}>
          <p>{outcomeOf(proof)}</p>
          <table className="rows">
            <thead>
              <tr>
                <th />
                <th className="n">Whole</th>
                <th className="n">Culled</th>
              </tr>
            </thead>
            <tbody>
              {LINES.map(({ label, of }) => (
                <tr key={label}>
                  <td>{label}</td>
                  <td className="n">{of(proof.whole)}</td>
                  <td className="n">{of(proof.culled)}</td>
                </tr>
              ))}
            </tbody>
          </table>
          <p className="dim">
            {count(widthPx)} × {count(heightPx)} pixels, {count(proof.samples)} samples, the same seeds.
            {proof.whole.isInPieces &&
              ' The whole scene did not fit in the budget either: its meshes were loaded in turns.'}
          </p>
          {at && <Pixel proof={proof} x={at.x} y={at.y} onKeep={onKeep} />}
        </div>
      </div>
    </Modal>
  );
}

const LINES: readonly { readonly label: string; readonly of: (s: ProofSide) => string }[] = [
  { label: 'Objects', of: (s) => count(s.objects) },
  { label: 'Loaded in', of: (s) => duration(s.loadS) },
  { label: 'Traced in', of: (s) => duration(s.traceS) },
  { label: 'Engine', of: (s) => bytes(s.engineBytes) },
  { label: 'Process at most', of: (s) => bytes(s.peakBytes) },
];

/** Of how many standard deviations on a difference is told from noise. */
const TOLD = 2;

function outcomeOf(p: Proof): string {
  const { differingPixels, widthPx, heightPx, netShare, absoluteShare, noiseShare, atMostShare } = p;
  if (!differingPixels) return 'The pictures are the same to the bit.';
  const pixels = `${count(differingPixels)} of ${count(widthPx * heightPx)} pixels differ.`;
  const way = netShare > 0 ? 'gained' : 'lost';
  const isNoise = Math.abs(netShare) < TOLD * noiseShare;
  const told = isNoise ? `, no more than noise alone may (${shareWords(TOLD * noiseShare)})` : '';
  const light = `In all it ${way} ${shareWords(Math.abs(netShare))} of its light${told}; with noise, differences come to ${shareWords(absoluteShare)}.`;
  return `${pixels} ${light} ${pixelWords(p)}${atMostShare === null ? '' : ` At most ${shareWords(atMostShare)} was said while it was traced.`}`;
}

/** With the noise taken out, held against that of a picture as it is delivered. */
function pixelWords({ pixelShare, chanceShare, finalNoiseShare }: Proof): string {
  const noise = `a Final’s noise is ${shareWords(finalNoiseShare)}`;
  if (pixelShare < chanceShare)
    return `With the noise taken out usual pixels are not told apart: less than ${shareWords(chanceShare)} of the mean; ${noise}.`;
  return `With the noise taken out usual pixels are ${shareWords(pixelShare)} of the mean off; ${noise}.`;
}

interface PixelProps {
  readonly proof: Proof;
  readonly x: number;
  readonly y: number;
  readonly onKeep: (path: string) => void;
}
function Pixel({ proof, x, y, onKeep }: PixelProps) {
  const { path, share } = doubtAt(proof, x, y);
  if (path === null) return <p role="status">Nothing is missing here: no ray of this pixel passed what is left out.</p>;
  return (
    <div role="status" className={styles.pixel}>
      <p>
        Here is missing most <b title={path}>{path.split('/').slice(-2).join(' / ')}</b>: this pixel may differ by{' '}
        {shareWords(share)} of its light.
      </p>
      <button type="button" className="go" onClick={() => onKeep(path)}>
        Keep {path.split('/').at(-1)}
      </button>
    </div>
  );
}
