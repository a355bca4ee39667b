// Regions of the picture measured: mean, how often each brightness occurs, and where.
import { IconTrash } from '@tabler/icons-react';
import type { Region } from '@variscen/contract';
import { WAVEFORM_ROWS, type RegionStatistics } from '@variscen/core/review';
import { useEffect, useRef, useState } from 'react';
import { Line, LineChart } from 'recharts';
import type { Subject } from '../../model/review/subject.ts';
import { pictures } from '../../pictures/pictureService.ts';
import { type ShownLayer, useShownLayers } from '../../pictures/useLayers.ts';
import { plural } from '../../ui/format.ts';
import type { Frame } from './PicturePane.tsx';
import styles from './ReviewSide.module.css';
import type { ReviewState } from './useReview.ts';
import type { ReviewTools } from './useReviewTools.ts';

const CHART = { widthPx: 256, heightPx: 64 };

interface PanelProps {
  readonly review: ReviewState;
  readonly tools: ReviewTools;
}
/** The camera's regions that are kept, and what is measured in the one that is marked off or chosen. */
export function RegionPanel({ review, tools }: PanelProps) {
  const { pictures: compared } = tools.compared;
  const opened = useShownLayers(compared.map((s) => ({ renderId: s.id, layer: review.layer })));
  const { regions, current } = review;
  const { region: measured } = tools;
  if (!measured && !regions.length) return null;
  const isKept = regions.some((r) => isSame(r, measured));
  const keep = () => {
    if (!measured || !current) return;
    const { from, to } = measured;
    const region = { id: crypto.randomUUID(), cameraId: current.camera.id, name: freeName(regions), from, to };
    review.keepRegion({ ...region, from: [...from], to: [...to] });
  };
  return (
    <section className={styles.part} aria-label="Regions">
      <div className={styles.regionHead}>
        <h4>Regions</h4>
        {measured && (
          <span className={styles.acts}>
            {!isKept && (
              <button
                type="button"
                className={`quiet ${styles.small}`}
                title="Measure it in every picture of this camera"
                onClick={keep}
              >
                Keep
              </button>
            )}
            <button type="button" className={`quiet ${styles.small}`} onClick={() => tools.setRegion(null)}>
              Close
            </button>
          </span>
        )}
      </div>
      {regions.map((r) => (
        <KeptRegion key={r.id} region={r} shown={shownIn(opened.at(-1))} review={review} tools={tools} />
      ))}
      {measured &&
        compared.map((subject, i) => {
          const shown = shownIn(opened[i]);
          const about = { subject, region: measured, isNamed: compared.length > 1 };
          return shown && <OfPicture key={subject.id} {...about} shown={shown} />;
        })}
    </section>
  );
}
const shownIn = (opened: ShownLayer | null | undefined | Error): ShownLayer | undefined =>
  opened && !(opened instanceof Error) ? opened : undefined;
const isSame = (a: Frame, b: Frame | null): boolean =>
  b !== null && [0, 1].every((k) => a.from[k] === b.from[k] && a.to[k] === b.to[k]);
function freeName(regions: readonly Region[]): string {
  for (let n = regions.length + 1; ; n++) if (!regions.some((r) => r.name === `Region ${n}`)) return `Region ${n}`;
}

interface KeptProps extends PanelProps {
  readonly region: Region;
  /** The picture that is looked at. */
  readonly shown: ShownLayer | undefined;
}
/** Its name, its mean in the picture that is looked at, and the way out. */
function KeptRegion({ region, shown, review, tools }: KeptProps) {
  const [name, setName] = useState(region.name);
  useEffect(() => setName(region.name), [region.name]);
  const rename = () => {
    const given = name.trim();
    if (given === '' || given === region.name) setName(region.name);
    else review.keepRegion({ ...region, name: given });
  };
  const isChosen = isSame(region, tools.region);
  return (
    <div className={styles.kept}>
      <input
        aria-label="Name of the region"
        maxLength={120}
        value={name}
        onChange={(e) => setName(e.currentTarget.value)}
        onBlur={rename}
        onKeyDown={(e) => {
          if (e.key === 'Escape') setName(region.name);
          if (e.key === 'Enter') e.currentTarget.blur();
        }}
      />
      <button
        type="button"
        className={`quiet mono ${styles.mean}`}
        aria-pressed={isChosen}
        aria-label={`Measure ${region.name}`}
        title="Mean of the picture that is looked at"
        onClick={() => tools.setRegion(isChosen ? null : region)}
      >
        {shown ? <Mean shown={shown} region={region} /> : '—'}
      </button>
      <button
        type="button"
        className="tool"
        aria-label={`Drop ${region.name}`}
        onClick={() => {
          if (isChosen) tools.setRegion(null);
          review.dropRegion(region.id);
        }}
      >
        <IconTrash size={14} stroke={1.6} />
      </button>
    </div>
  );
}
/** Of three channels at most. */
function Mean({ shown, region }: { shown: ShownLayer; region: Frame }) {
  const found = useStatistics(shown, region);
  if (!found) return '…';
  return found.mean
    .slice(0, Math.min(3, shown.about.channels.length))
    .map((v) => String(Number(v.toPrecision(2))))
    .join(' ');
}

interface Props {
  readonly subject: Subject;
  readonly shown: ShownLayer;
  readonly region: Frame;
  readonly isNamed: boolean;
}
function OfPicture({ subject, shown, region, isNamed }: Props) {
  const found = useStatistics(shown, region);
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

function useStatistics(shown: ShownLayer, region: Frame): RegionStatistics | null {
  const [found, setFound] = useState<RegionStatistics | null>(null);
  useEffect(() => {
    const { widthPx, heightPx } = shown.of;
    const edge = (k: 0 | 1, side: (a: number, b: number) => number, size: number) =>
      side(region.from[k], region.to[k]) * size;
    const left = Math.floor(edge(0, Math.min, widthPx));
    const top = Math.floor(edge(1, Math.min, heightPx));
    const area = {
      left,
      top,
      widthPx: Math.max(1, Math.ceil(edge(0, Math.max, widthPx)) - left),
      heightPx: Math.max(1, Math.ceil(edge(1, Math.max, heightPx)) - top),
    };
    const stop = new AbortController();
    pictures.ask({ kind: 'region', of: shown.of, region: area, how: shown.how }, stop.signal).then(
      (statistics) => {
        if (!stop.signal.aborted) setFound(statistics);
      },
      () => undefined, // the picture itself says what is wrong
    );
    return () => stop.abort();
  }, [shown, region]);
  return found;
}

const COLOURS = ['#ff6b6b', '#6bdc7f', '#7f9bff'];
/** Shares are drawn by their root, so that what is rare is seen too. */
function Histogram({ of: { histogram } }: { of: RegionStatistics }) {
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

/** A column of the region is a column here; dark is below. */
function Waveform({ of: { waveform } }: { of: RegionStatistics }) {
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
      className={styles.waveform}
      role="img"
      aria-label="Brightness across the region, dark below"
    />
  );
}
