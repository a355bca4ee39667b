// All cameras side by side in their true shapes, by the engine, in the look that the stage shows; made anew in the background where something of it changed.
import type { Project, Variant } from '@variscen/contract';
import { type ResolvedState, type SceneIndex, hashOf, inputsOf, layersOf, resolve } from '@variscen/core/looks';
import type { CameraSettings } from '@variscen/core/scene';
import { useEffect, useMemo, useRef, useState } from 'react';
import { LiveRender } from '../../live/liveRender.ts';

const HEIGHT_PX = 100, SAMPLES = 24, KEPT = 200, REST_MS = 400;

interface Picture { readonly rgba: Uint8ClampedArray<ArrayBuffer>; readonly widthPx: number; readonly heightPx: number }
interface Job { readonly id: string; readonly key: string; readonly state: ResolvedState; readonly camera: CameraSettings }

export function ContactStrip({ sceneHash, index, project, variant, current, onLook }: { sceneHash: string; index: SceneIndex | undefined; project: Project; variant: Variant; current: string | undefined; onLook: (id: string) => void }) {
  const pictures = useRef(new Map<string, Picture>()), live = useRef<LiveRender | null>(null), [done, setDone] = useState(0), [doing, setDoing] = useState<string | null>(null), [fault, setFault] = useState<string | null>(null);
  const { base, options, patches, pending, cameras } = project;
  const jobs = useMemo((): Job[] => (index ? cameras.map((c) => {
    const state = resolve(index, layersOf({ base, options, patches } as never, variant, c.id, pending as never)), camera = c.settings as CameraSettings;
    return { id: c.id, key: hashOf(inputsOf(sceneHash, { ...camera, cullMarginPct: null, crop: undefined }, state)), state, camera };
  }) : []), [index, cameras, base, options, patches, pending, variant, sceneHash]);
  const hear = useRef<(m: Parameters<ConstructorParameters<typeof LiveRender>[0]>[0]) => void>(() => undefined);
  const next = jobs.find((j) => !pictures.current.has(j.key));
  useEffect(() => {
    if (!next) { setDoing(null); return; }
    let ended = false;
    const l = (live.current ??= new LiveRender((m) => hear.current(m)));
    const start = setTimeout(() => {
      setDoing(next.id);
      hear.current = (m) => {
        if (ended) return;
        if (m.kind === 'failed') { setFault(m.message); setDoing(null); }
        if (m.kind !== 'picture' || !m.finished) return;
        pictures.current.set(next.key, { rgba: m.rgba, widthPx: m.widthPx, heightPx: m.heightPx });
        while (pictures.current.size > KEPT) pictures.current.delete(pictures.current.keys().next().value!);
        setFault(null);
        setDone((n) => n + 1);
      };
      l.show({ sceneHash, state: next.state, camera: next.camera, width: Math.round((HEIGHT_PX * next.camera.widthPx) / next.camera.heightPx), height: HEIGHT_PX, samples: SAMPLES });
    }, REST_MS);
    return () => { ended = true; clearTimeout(start); l.forget(); };
  }, [next, sceneHash, done]);
  useEffect(() => () => { live.current?.close(); live.current = null; }, []);
  return (
    <div role="group" aria-label="All cameras" style={{ display: 'flex', gap: 12, padding: '12px 10px 6px', overflowX: 'auto', alignItems: 'flex-start' }}>
      {jobs.map((j, i) => {
        const c = cameras[i]!, aspect = c.settings.widthPx / c.settings.heightPx, picture = pictures.current.get(j.key);
        return (
          <button type="button" key={j.id} onClick={() => onLook(j.id)} aria-label={`Look through ${c.name}`} aria-pressed={j.id === current} data-picture={picture ? 'yes' : 'no'} style={{ flex: 'none', width: HEIGHT_PX * aspect }}>
            <div style={{ width: HEIGHT_PX * aspect, height: HEIGHT_PX, background: 'var(--deep)', outline: j.id === current ? '2px solid var(--ink)' : undefined, outlineOffset: 1 }}>{picture && <Print picture={picture} />}</div>
            <div className="ellipsis" style={{ fontSize: 11, marginTop: 5, color: j.id === current ? 'var(--ink)' : 'var(--dim)' }}>{c.name}{doing === j.id && <span className="faint"> · rendering</span>}</div>
          </button>
        );
      })}
      {fault && <p className="dim" style={{ maxWidth: 240 }}>{fault}</p>}
    </div>
  );
}

function Print({ picture }: { picture: Picture }) {
  const canvas = useRef<HTMLCanvasElement>(null);
  useEffect(() => { const c = canvas.current!; c.width = picture.widthPx; c.height = picture.heightPx; c.getContext('2d')!.putImageData(new ImageData(picture.rgba, picture.widthPx, picture.heightPx), 0, 0); }, [picture]);
  return <canvas ref={canvas} style={{ width: '100%', height: '100%', display: 'block' }} />;
}
