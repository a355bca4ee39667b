// The real-time view with the camera's frame in it.
import type { Camera } from '@variscen/contract';
import { type ResolvedState, type SceneIndex, lightTarget, objectTarget, parseTarget } from '@variscen/core/looks';
import { useEffect, useRef, useState } from 'react';
import type { CameraSettings } from '@variscen/core/scene';
import { count } from '../../shared/format.ts';
import { LivePane } from './LivePane.tsx';
import { type FrameRect, Viewport, type ViewReport } from './viewport.ts';

/** The view is still when nothing has moved for so long. */
const STILL_MS = 250;

interface Props { sceneHash: string; index: SceneIndex | undefined; state: ResolvedState | undefined; camera: Camera | undefined; selected: string | null; onSelect: (target: string | null) => void; onMovedAway: () => void }

export function View({ sceneHash, index, state, camera, selected, onSelect, onMovedAway }: Props) {
  const host = useRef<HTMLDivElement>(null), view = useRef<Viewport | null>(null), latest = useRef({ onSelect, onMovedAway });
  const [live, setLive] = useState(false), [around, setAround] = useState<{ camera: CameraSettings; rect: FrameRect } | null>(null), moving = useRef<ReturnType<typeof setTimeout>>(undefined);
  const [frame, setFrame] = useState<FrameRect | null>(null), [report, setReport] = useState<ViewReport | null>(null), [fault, setFault] = useState<string | null>(null);
  useEffect(() => { latest.current = { onSelect, onMovedAway }; });
  useEffect(() => {
    if (!index || !host.current) return;
    setFault(null);
    try {
      const v = new Viewport(host.current, index.document, {
        report: setReport, frame: setFrame, failed: setFault, movedAway: () => latest.current.onMovedAway(),
        moved: () => { setAround(null); clearTimeout(moving.current); moving.current = setTimeout(look, STILL_MS); },
        pick: (node) => { const n = node === null ? undefined : index.document.nodes[node]; latest.current.onSelect(n ? (n.parts ? objectTarget(n.path) : lightTarget(n.path)) : null); },
      });
      const look = () => { const c = v.freeCamera(); setAround({ camera: c, rect: { left: 0, top: 0, width: c.widthPx, height: c.heightPx } }); };
      view.current = v;
      return () => { clearTimeout(moving.current); v.close(); view.current = null; };
    } catch (e) {
      setFault(`The view needs WebGL 2, which this browser does not offer: ${e instanceof Error ? e.message : String(e)}`);
      return undefined;
    }
  }, [index]);
  useEffect(() => { if (state) view.current?.setState(state); }, [state, index]);
  const settings = camera?.settings;
  useEffect(() => { view.current?.lookThrough((settings as never) ?? null); }, [settings, index]);
  useEffect(() => { const t = selected ? parseTarget(selected) : undefined, node = t && (t.kind === 'object' || t.kind === 'light') ? index?.nodes.get(t.name) : undefined; view.current?.select(node ?? null); }, [selected, index]);
  return (
    <section aria-label="View" style={{ position: 'relative', background: '#202020', overflow: 'hidden', minWidth: 0 }}>
      <div ref={host} style={{ position: 'absolute', inset: 0 }} />
      {live && state && (settings ? frame && <LivePane key="live" sceneHash={sceneHash} state={state} camera={settings as never} rect={frame} /> : around && <LivePane key="live" sceneHash={sceneHash} state={state} camera={around.camera} rect={around.rect} />)}
      {frame && settings && (
        <div style={{ position: 'absolute', ...frame, boxShadow: '0 0 0 4000px #161616b8', border: '1px solid #ffffffb0', pointerEvents: 'none' }}>
          {[33.33, 66.66].map((p) => [<i key={`v${p}`} style={{ position: 'absolute', left: `${p}%`, top: 0, bottom: 0, width: 1, background: '#ffffff26' }} />, <i key={`h${p}`} style={{ position: 'absolute', top: `${p}%`, left: 0, right: 0, height: 1, background: '#ffffff26' }} />])}
          <span className="mono dim" style={{ position: 'absolute', left: 0, top: -22, fontSize: 11.5, whiteSpace: 'nowrap' }}>{Number(settings.focalLengthMm.toPrecision(3))} mm{settings.fStop !== null && ` · f/${settings.fStop}`} · {settings.focusDistanceM.toFixed(2)} m to focus</span>
          <span className="mono dim" style={{ position: 'absolute', right: 0, top: -22, fontSize: 11.5 }}>{settings.widthPx} × {settings.heightPx}</span>
        </div>
      )}
      <button type="button" className="quiet" aria-pressed={live} title="Render what the view shows with the engine of the batch, in this browser" style={{ position: 'absolute', right: 10, bottom: 8, padding: '3px 10px', background: live ? 'var(--ink)' : 'var(--raised)', color: live ? 'var(--deep)' : undefined }} onClick={() => setLive(!live)}>Live render</button>
      <div className="mono faint" style={{ position: 'absolute', left: 10, bottom: 6, fontSize: 11, textShadow: '0 0 3px #000' }} role="status" data-loaded={report && report.loaded === report.meshes ? 'yes' : 'no'}>
        {fault ?? (!report ? 'Loading the scene …' : report.loaded < report.meshes ? `Loading ${report.loaded} of ${report.meshes} meshes …` : `${count(report.triangles)} triangles${report.lightsShown < report.lights ? ` · the view shows the ${report.lightsShown} strongest of ${report.lights} lights, renders show all` : ''}`)}
      </div>
    </section>
  );
}
