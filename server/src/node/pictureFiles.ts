// The files of a cell, as its profile asks for them, from the finished picture of its trace.
import type { Lease } from '@variscen/contract';
import {
  type ExrImage,
  type Grade,
  type Lut,
  NO_GRADE,
  lensed,
  toDisplay,
  toDisplay16,
  writeFloatTiff,
} from '@variscen/core/image';
import { type FileKind, type Profile, filesOfCell, isFirstInLight } from '@variscen/core/plan';
import type { croppedPx } from '@variscen/core/scene';
import type { Finished } from '@variscen/engine';
import sharp, { type Sharp } from 'sharp';
import { THUMBNAIL_PX, encoded, isDeep } from '../files/encoded.ts';
import { described } from '../files/described.ts';
import { writeFlushed } from '../files/writeFlushed.ts';
import type { ExrFiles } from './encode/exrFile.ts';
import type { FinishedTrace } from './finishedTraces.ts';

/** The picture's own pixels, which may be a part of the frame. */
export type Part = ReturnType<typeof croppedPx>;
/** How a cell shows the film. */
export interface Graded {
  readonly grade: Grade;
  readonly lut: Lut | undefined;
}
export interface Traced {
  readonly picture: Finished;
  readonly part: Part;
  readonly grades: readonly Graded[];
  readonly counted: Omit<FinishedTrace['result'], 'peakBytes'>;
}

/** @throws of the disk; the signal's reason */
export async function writeCell(
  exrFiles: ExrFiles,
  lease: Lease,
  cell: number,
  traced: Traced,
  fileOf: FinishedTrace['file'],
  signal: AbortSignal,
): Promise<void> {
  const profile = lease.profile as Profile;
  const files = new CellFiles(lease, cell, traced);
  for (const { kind } of filesOfCell(profile, isFirstInLight(lease.cells, cell))) {
    signal.throwIfAborted();
    const path = fileOf(cell, kind);
    if (kind === 'exr' || kind.startsWith('exr-')) await exrFiles.write(path, files.exr(kind), signal);
    else await writeFlushed(path, await files.shown(kind));
  }
}

class CellFiles {
  private readonly profile: Profile;
  private readonly metadata: Readonly<Record<string, string>>;
  constructor(
    private readonly lease: Lease,
    private readonly cell: number,
    private readonly traced: Traced,
  ) {
    this.profile = lease.profile as Profile;
    const { picture, counted } = traced;
    this.metadata = {
      ...lease.cells[cell]!.metadata,
      'variscen:samples': String(counted.samples),
      'variscen:meanSamples': picture.samples.mean.toFixed(2),
      'variscen:seconds': counted.seconds.toFixed(1),
      'variscen:engine': counted.engine ?? '',
    };
  }

  /** The picture with all its layers, or without those that have a file of their own; or such a file. */
  exr(kind: FileKind): ExrImage {
    const { picture, part } = this.traced;
    const { compression, aovsApart } = this.profile.files.exr!;
    const ownAov = kind === 'exr' ? undefined : kind.slice('exr-'.length);
    const isOfFile = (aov: string | undefined) => (aovsApart ? aov === ownAov : true);
    const channels = picture.channels.filter((c) => isOfFile(c.aov));
    return {
      width: part.widthPx,
      height: part.heightPx,
      within: { left: part.left, top: part.top, width: this.lease.widthPx, height: this.lease.heightPx },
      // an AOV that this scene has nothing of still has its file: the picture's coverage
      channels: channels.length ? channels : picture.channels.filter((c) => c.name === 'A'),
      compression,
      metadata: { ...this.metadata, ...picture.metadata },
    };
  }

  async shown(kind: FileKind): Promise<Uint8Array> {
    const { files } = this.profile;
    const { picture, part, grades } = this.traced;
    const graded = grades[this.cell]!;
    if (kind === 'thumbnail') return thumbnail(picture.film, graded, part);
    if (kind === 'tiff' && files.tiff === 'float')
      return writeFloatTiff(picture.film, {
        width: part.widthPx,
        height: part.heightPx,
        description: this.description('linear Rec. 709 in nits, not graded'),
      });
    const shown = files.graded ? graded : { grade: NO_GRADE, lut: undefined };
    const saying = this.description(files.graded ? 'graded' : 'not graded');
    const image = isDeep(kind, this.profile)
      ? displayed16(picture.film, shown, part)
      : displayed(picture.film, shown, part);
    return encoded(image.withXmp(described(saying)), kind, this.profile);
  }

  private description(how: string): string {
    const m = this.metadata;
    const what = `${m['variscen:camera']} in ${m['variscen:variant']}, v${m['variscen:version']!.padStart(3, '0')}`;
    return `${what}, ${m['variscen:profile']}, ${m['variscen:samples']} samples, ${how}`;
  }
}

function displayed(film: Float32Array, { grade, lut }: Graded, part: Part): Sharp {
  const raw = { width: part.widthPx, height: part.heightPx, channels: 3 } as const;
  // says what its numbers mean: without a profile viewers guess
  return sharp(toDisplay(lensed(film, part, grade), grade, lut), { raw }).withIccProfile('srgb');
}
function displayed16(film: Float32Array, { grade, lut }: Graded, part: Part): Sharp {
  const raw = { width: part.widthPx, height: part.heightPx, channels: 3 } as const;
  // its profile is put in when it is written
  return sharp(toDisplay16(lensed(film, part, grade), grade, lut), { raw }).toColourspace('rgb16');
}
export function thumbnail(film: Float32Array, graded: Graded, part: Part): Promise<Uint8Array> {
  return displayed(film, graded, part)
    .resize({ width: THUMBNAIL_PX, height: THUMBNAIL_PX, fit: 'inside', withoutEnlargement: true })
    .png()
    .toBuffer();
}
