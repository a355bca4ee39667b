// Layers of finished pictures, opened: which there are, how large they are, how they are shown.
import { type QueryClient, useQueries, useQuery, useQueryClient } from '@tanstack/react-query';
import type { RouteAnswer } from '@variscen/contract';
import type { Grade, PictureLayer } from '@variscen/core/image';
import { useEffect } from 'react';
import { call } from '../api/client.ts';
import type { OpenedLayer, ShowingAsked } from './messages.ts';
import { pictures } from './pictureService.ts';

export interface ShownLayer {
  readonly of: OpenedLayer;
  readonly about: PictureLayer & { readonly isLinear: boolean };
  readonly how: ShowingAsked;
  /** Of its look. */
  readonly grade: Grade;
}
const PICTURE = 'picture';
/** Who goes through pictures quickly waits for none but the one that is looked at. */
const AHEAD_MS = 250;
export type LayersOfRender = RouteAnswer<'pictureLayers'>;

const layersQuery = (renderId: string) => ({
  queryKey: ['layers', renderId],
  staleTime: Infinity,
  retry: false,
  queryFn: () => call('pictureLayers', { params: { renderId } }),
});
export const useLayersOf = (renderId: string | undefined) =>
  useQuery({ ...layersQuery(renderId ?? ''), enabled: renderId !== undefined });

const shownKey = (renderId: string) => ['layer', renderId];
const shownQuery = (renderId: string, layer: string) => ({
  queryKey: [...shownKey(renderId), layer],
  staleTime: Infinity,
  retry: false,
  queryFn: async ({
    client,
    signal,
  }: {
    client: { fetchQuery: (q: ReturnType<typeof layersQuery>) => Promise<LayersOfRender> };
    signal: AbortSignal;
  }): Promise<ShownLayer | null> => {
    const open = () => call('tiledPicture', { params: { renderId, layer }, signal });
    // the one that every picture has is not waited for until it is known to be there
    const early = layer === PICTURE ? open() : undefined;
    early?.catch(() => undefined); // said below
    const { layers, grade } = await client.fetchQuery(layersQuery(renderId));
    const about = layers.find((l) => l.name === layer);
    if (!about) return null;
    const size = await (early ?? open());
    const of = { renderId, layer, ...size, isLinear: about.isLinear };
    const isLight = about.kind === 'light';
    const range = isLight ? null : await pictures.ask({ kind: 'range', of, layerKind: about.kind });
    return { of, about, grade, how: range ? { kind: 'ranged', range } : { kind: 'graded', grade } };
  },
});

/** As asked for: undefined while it is opened, null where a picture has no such layer, or why it cannot be opened. */
export function useShownLayers(
  wanted: readonly { readonly renderId: string; readonly layer: string }[],
): readonly (ShownLayer | null | undefined | Error)[] {
  return useQueries({
    queries: wanted.map(({ renderId, layer }) => shownQuery(renderId, layer)),
    combine: (results) => results.map((r) => r.error ?? r.data),
  });
}
/** Nothing more is asked of a picture that is about to go. */
export const stopOpening = (client: QueryClient, renderId: string): Promise<void> =>
  client.cancelQueries({ queryKey: shownKey(renderId) });
/** Makes ready what somebody may go to next. */
export function useOpenedAhead(renderIds: readonly string[], layer: string): void {
  const client = useQueryClient();
  const ids = renderIds.join();
  useEffect(() => {
    const later = setTimeout(() => {
      for (const renderId of ids.split(',').filter(Boolean)) void client.prefetchQuery(shownQuery(renderId, layer));
    }, AHEAD_MS);
    return () => clearTimeout(later);
  }, [client, ids, layer]);
}
