// What is under the pointer, in each of the pictures that are shown.
import { useEffect, useState } from 'react';
import { type StoreApi, useStore } from 'zustand';
import type { Subject } from '../../model/review/subject.ts';
import type { PixelValues } from '../../pictures/messages.ts';
import { pictures } from '../../pictures/pictureService.ts';
import type { ShownLayer } from '../../pictures/useLayers.ts';
import styles from './PictureStage.module.css';
import type { PixelAt, Pointed } from './useReviewTools.ts';

const MIDDLE_GREY = 0.18;
const FIRST_PX = 26;
const LINE_PX = 18;

interface Props {
  readonly panes: readonly { readonly subject: Subject; readonly opened: ShownLayer | null | undefined | Error }[];
  readonly pointed: StoreApi<Pointed>;
}
export function PixelLine({ panes, pointed }: Props) {
  const { pixel } = useStore(pointed);
  return (
    <div
      className={`mono ${styles.pixels}`}
      aria-live="off"
      style={{ height: FIRST_PX + (panes.length - 1) * LINE_PX }}
    >
      {pixel === null && <span className="faint">Point at the picture to read its values.</span>}
      {pixel !== null &&
        panes.map(({ subject, opened }) =>
          opened && !(opened instanceof Error) ? (
            <OfPicture key={subject.id} name={panes.length > 1 ? subject.shortName : ''} shown={opened} pixel={pixel} />
          ) : null,
        )}
    </div>
  );
}

function OfPicture({ name, shown, pixel }: { name: string; shown: ShownLayer; pixel: PixelAt }) {
  const x = Math.min(shown.of.widthPx - 1, Math.floor(pixel.share[0] * shown.of.widthPx));
  const y = Math.min(shown.of.heightPx - 1, Math.floor(pixel.share[1] * shown.of.heightPx));
  const [found, setFound] = useState<PixelValues | null>(null);
  useEffect(() => {
    const stop = new AbortController();
    pictures.ask({ kind: 'values', of: shown.of, x, y, how: shown.how }, stop.signal).then(
      (values) => {
        if (!stop.signal.aborted) setFound(values);
      },
      () => undefined, // the picture itself says what is wrong
    );
    return () => stop.abort();
  }, [shown, x, y]);
  return (
    <span>
      {name && <span className={`dim ellipsis ${styles.ofPixel}`}>{name} </span>}
      <span className="faint">
        {x}, {y}{' '}
      </span>
      {found && valuesText(found, shown)}
    </span>
  );
}

const figure = (v: number): string => (Math.abs(v) >= 65_000 ? '∞' : String(Number(v.toPrecision(3))));
function valuesText({ values, codes }: PixelValues, { about }: ShownLayer): string {
  if (about.kind !== 'light') return values.map(figure).join(' ');
  const [r = 0, g = 0, b = 0] = values;
  const luminance = 0.2126 * r + 0.7152 * g + 0.0722 * b;
  const stops =
    luminance > 0
      ? `${Math.log2(luminance / MIDDLE_GREY)
          .toFixed(1)
          .replace('-', '−')} stops`
      : 'black';
  return `${[r, g, b].map(figure).join(' ')} · ${stops} · ${codes.join(' ')} shown`;
}
