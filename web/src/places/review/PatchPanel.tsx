// A patch of the picture measured: its mean, how often each brightness occurs, and where.
import { WAVEFORM_ROWS, type PatchStatistics } from '@variscen/core/review';
import { useEffect, useRef, useState } from 'react';
import { Line, LineChart } from 'recharts';
import type { Subject } from '../../model/review/subject.ts';
import { pictures } from '../../pictures/pictureService.ts';
import { type ShownLayer, useShownLayers } from '../../pictures/useLayers.ts';
import { plural } from '../../ui/format.ts';
import type { Frame } from './PicturePane.tsx';
import styles from './ReviewSide.module.css';
import type { ReviewTools } from './useReviewTools.ts';

const CHART = { widthPx: 256, heightPx: 64 };

export function PatchPanel({ tools, layer }: { tools: ReviewTools; layer: string }) {
  const { pictures: compared } = tools.compared;
  const opened = useShownLayers(compared.map((s) => ({ renderId: s.id, layer })));
  return (
    <section className={styles.part} aria-label="Patch">
      <div className={styles.patchHead}>
        <h4>Patch</h4>
        <button type="button" className={`quiet ${styles.small}`} onClick={() => tools.setPatch(null)}>
          Close
        </button>
      </div>
      {compared.map((subject, i) => {
        const shown = opened[i];
        return shown && !(shown instanceof Error) && tools.patch ? (
          <OfPicture
            key={subject.id}
            subject={subject}
            shown={shown}
            patch={tools.patch}
            isNamed={compared.length > 1}
          />
        ) : null;
      })}
    </section>
  );
}

interface Props {
  readonly subject: Subject;
  readonly shown: ShownLayer;
  readonly patch: Frame;
  readonly isNamed: boolean;
}
function OfPicture({ subject, shown, patch, isNamed }: Props) {
  const found = useStatistics(shown, patch);
  if (!found) return null;
  const figure = (v: number) => String(Number(v.toPrecision(3)));
  const channels = shown.about.channels.map((c) => c.slice(c.lastIndexOf('.') + 1));
  const isLight = shown.about.kind === 'light' && channels.length >= 3;
  const rows = isLight ? [0, 1, 2] : channels.map((_, k) => k);
  return (
    <div>
      {isNamed && <p className="dim">{subject.shortName}</p>}
      <table className={`mono ${styles.figures}`}>
        <thead>
          <tr>
            <th>{plural(found.pixels, 'pixel')}</th>
            <th>mean</th>
            <th>least</th>
            <th>most</th>
          </tr>
        </thead>
        <tbody>
          {rows.map((k) => (
            <tr key={k}>
              <th>{channels[k]}</th>
              {[found.mean, found.least, found.most].map((of, i) => (
                <td key={['mean', 'least', 'most'][i]}>{figure(of[k]!)}</td>
              ))}
            </tr>
          ))}
        </tbody>
      </table>
      {isLight && <Histogram of={found} />}
      {isLight && <Waveform of={found} />}
    </div>
  );
}

function useStatistics(shown: ShownLayer, patch: Frame): PatchStatistics | null {
  const [found, setFound] = useState<PatchStatistics | null>(null);
  useEffect(() => {
    const { widthPx, heightPx } = shown.of;
    const edge = (k: 0 | 1, side: (a: number, b: number) => number, size: number) =>
      side(patch.from[k], patch.to[k]) * size;
    const left = Math.floor(edge(0, Math.min, widthPx));
    const top = Math.floor(edge(1, Math.min, heightPx));
    const area = {
      left,
      top,
      widthPx: Math.max(1, Math.ceil(edge(0, Math.max, widthPx)) - left),
      heightPx: Math.max(1, Math.ceil(edge(1, Math.max, heightPx)) - top),
    };
    const stop = new AbortController();
    pictures.ask({ kind: 'patch', of: shown.of, patch: area, how: shown.how }, stop.signal).then(
      (statistics) => {
        if (!stop.signal.aborted) setFound(statistics);
      },
      () => undefined, // the picture itself says what is wrong
    );
    return () => stop.abort();
  }, [shown, patch]);
  return found;
}

const COLOURS = ['#ff6b6b', '#6bdc7f', '#7f9bff'];
/** Shares are drawn by their root, so that what is rare is seen too. */
function Histogram({ of: { histogram } }: { of: PatchStatistics }) {
  const bins = histogram[0]!.map((_, i) => Object.fromEntries(histogram.map((h, k) => [k, Math.sqrt(h[i]!)])));
  return (
    <div className={styles.scopes} role="img" aria-label="How often each brightness occurs, from dark to bright">
      <LineChart
        width={CHART.widthPx}
        height={CHART.heightPx}
        data={bins}
        margin={{ top: 3, bottom: 1, left: 0, right: 0 }}
      >
        {COLOURS.map((color, k) => (
          <Line
            key={color}
            type="linear"
            dataKey={k}
            stroke={color}
            strokeWidth={1.2}
            dot={false}
            isAnimationActive={false}
          />
        ))}
      </LineChart>
    </div>
  );
}

/** A column of the patch is a column here; dark is below. */
function Waveform({ of: { waveform } }: { of: PatchStatistics }) {
  const canvas = useRef<HTMLCanvasElement>(null);
  const columns = waveform.length / WAVEFORM_ROWS;
  useEffect(() => {
    const context = canvas.current?.getContext('2d');
    if (!context || !columns) return;
    const image = context.createImageData(columns, WAVEFORM_ROWS);
    for (let x = 0; x < columns; x++)
      for (let y = 0; y < WAVEFORM_ROWS; y++) {
        const share = waveform[x * WAVEFORM_ROWS + (WAVEFORM_ROWS - 1 - y)]!;
        const q = (y * columns + x) * 4;
        image.data.fill(255 * Math.min(1, Math.sqrt(share) * 1.6), q, q + 3);
        image.data[q + 3] = 255;
      }
    context.putImageData(image, 0, 0);
  }, [waveform, columns]);
  if (!columns) return null;
  return (
    <canvas
      ref={canvas}
      width={columns}
      height={WAVEFORM_ROWS}
      className={styles.scopes}
      style={{ height: CHART.heightPx }}
      role="img"
      aria-label="Brightness across the patch, dark below"
    />
  );
}
