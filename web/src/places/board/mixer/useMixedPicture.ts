// A finished picture with its light groups, shown as it is mixed.
import { type Grade, type LightPictureAbout, type Lut, unpackLightPicture, unpackLut } from '@variscen/core/image';
import { type Change, type ResolvedState, type SceneIndex, gradeOf, resolve } from '@variscen/core/looks';
import type { Rgb } from '@variscen/core/scene';
import { useQuery } from '@tanstack/react-query';
import { type RefObject, useEffect, useRef } from 'react';
import { asset } from '../../../api/assets.ts';
import { call, download } from '../../../api/client.ts';
import { useScene } from '../../../api/queries.ts';
import type { FromMixer, ToMixer } from './mixMessages.ts';
import MixWorker from './mix.worker.ts?worker';

const MOST_WIDTH_PX = 960;

export interface MixedPicture {
  readonly about: LightPictureAbout;
  /** What it was rendered from. */
  readonly state: ResolvedState;
  readonly bytes: ArrayBuffer;
  readonly grade: Grade;
  readonly lut: Lut | undefined;
}

export function useLightPicture(renderId: string) {
  const look = useQuery({
    queryKey: ['render look', renderId],
    staleTime: Infinity,
    queryFn: () => call('renderLook', { params: { renderId } }),
  });
  const scene = useScene(look.data?.sceneHash);
  const picture = useQuery({
    queryKey: ['light picture', renderId],
    enabled: look.data !== undefined && scene.data !== undefined,
    staleTime: Infinity,
    gcTime: 0,
    retry: false,
    structuralSharing: false,
    queryFn: ({ signal }) => load(renderId, scene.data!, look.data!.changes as Change[], signal),
  });
  return { picture: picture.data, error: look.error ?? scene.error ?? picture.error };
}

async function load(
  renderId: string,
  index: SceneIndex,
  changes: readonly Change[],
  signal: AbortSignal,
): Promise<MixedPicture> {
  const query = { widthPx: String(MOST_WIDTH_PX) };
  const bytes = await download('renderLight', { params: { renderId }, query, signal });
  const { widthPx, heightPx, groups, by } = unpackLightPicture(bytes);
  const state = resolve(index, [{ id: 'look', name: '', kind: 'base', changes: [...changes] }]);
  const grade = gradeOf(state);
  const lut = grade.lut ? unpackLut(new Uint8Array(await asset(grade.lut.hash, signal)), grade.lut) : undefined;
  return { about: { widthPx, heightPx, groups, by }, state, bytes, grade, lut };
}

/** Draws it as it is mixed; while a mix is on its way, of those that come only the last is asked for. */
export function useMixing(
  { about, bytes, grade, lut }: MixedPicture,
  shares: readonly Rgb[],
): RefObject<HTMLCanvasElement | null> {
  const canvas = useRef<HTMLCanvasElement>(null);
  const mixer = useRef<{ ask: (shares: readonly Rgb[]) => void } | null>(null);
  useEffect(() => {
    const worker = new MixWorker();
    const post = (m: ToMixer) => worker.postMessage(m);
    let isBusy = false;
    let next: readonly Rgb[] | undefined;
    const ask = (wanted: readonly Rgb[]) => {
      if (isBusy) {
        next = wanted;
        return;
      }
      isBusy = true;
      post({ kind: 'mix', shares: wanted });
    };
    worker.onmessage = ({ data: { pixels } }: MessageEvent<FromMixer>) => {
      canvas.current?.getContext('2d')?.putImageData(new ImageData(pixels, about.widthPx, about.heightPx), 0, 0);
      canvas.current?.setAttribute('data-drawn', 'yes');
      isBusy = false;
      const wanted = next;
      next = undefined;
      if (wanted) ask(wanted);
    };
    post({ kind: 'picture', bytes, grade, lut });
    mixer.current = { ask };
    return () => worker.terminate();
  }, [about, bytes, grade, lut]);
  useEffect(() => mixer.current?.ask(shares), [shares, about]);
  return canvas;
}
