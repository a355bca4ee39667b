// The real-time view with the camera's frame in it.
import type { Camera } from '@variscen/contract';
import { type ResolvedState, type SceneIndex, lightTarget, objectTarget, parseTarget } from '@variscen/core/looks';
import { useEffect, useRef, useState } from 'react';
import { count } from '../../shared/format.ts';
import { type FrameRect, Viewport, type ViewReport } from './viewport.ts';

interface Props { index: SceneIndex | undefined; state: ResolvedState | undefined; camera: Camera | undefined; selected: string | null; onSelect: (target: string | null) => void; onMovedAway: () => void }

export function View({ index, state, camera, selected, onSelect, onMovedAway }: Props) {
  const host = useRef<HTMLDivElement>(null), view = useRef<Viewport | null>(null), latest = useRef({ onSelect, onMovedAway });
  const [frame, setFrame] = useState<FrameRect | null>(null), [report, setReport] = useState<ViewReport | null>(null), [fault, setFault] = useState<string | null>(null);
  useEffect(() => { latest.current = { onSelect, onMovedAway }; });
  useEffect(() => {
    if (!index || !host.current) return;
    setFault(null);
    try {
      const v = new Viewport(host.current, index.document, {
        report: setReport, frame: setFrame, failed: setFault, movedAway: () => latest.current.onMovedAway(),
        pick: (node) => { const n = node === null ? undefined : index.document.nodes[node]; latest.current.onSelect(n ? (n.parts ? objectTarget(n.path) : lightTarget(n.path)) : null); },
      });
      view.current = v;
      return () => { v.close(); view.current = null; };
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
      {frame && settings && (
        <div style={{ position: 'absolute', ...frame, boxShadow: '0 0 0 4000px #161616b8', border: '1px solid #ffffffb0', pointerEvents: 'none' }}>
          {[33.33, 66.66].map((p) => [<i key={`v${p}`} style={{ position: 'absolute', left: `${p}%`, top: 0, bottom: 0, width: 1, background: '#ffffff26' }} />, <i key={`h${p}`} style={{ position: 'absolute', top: `${p}%`, left: 0, right: 0, height: 1, background: '#ffffff26' }} />])}
          <span className="mono dim" style={{ position: 'absolute', left: 0, top: -22, fontSize: 11.5, whiteSpace: 'nowrap' }}>{Number(settings.focalLengthMm.toPrecision(3))} mm{settings.fStop !== null && ` · f/${settings.fStop}`} · {settings.focusDistanceM.toFixed(2)} m to focus</span>
          <span className="mono dim" style={{ position: 'absolute', right: 0, top: -22, fontSize: 11.5 }}>{settings.widthPx} × {settings.heightPx}</span>
        </div>
      )}
      <div className="mono faint" style={{ position: 'absolute', left: 10, bottom: 6, fontSize: 11, textShadow: '0 0 3px #000' }} role="status" data-loaded={report && report.loaded === report.meshes ? 'yes' : 'no'}>
        {fault ?? (!report ? 'Loading the scene …' : report.loaded < report.meshes ? `Loading ${report.loaded} of ${report.meshes} meshes …` : `${count(report.triangles)} triangles${report.lightsShown < report.lights ? ` · the view shows the ${report.lightsShown} strongest of ${report.lights} lights, renders show all` : ''}`)}
      </div>
    </section>
  );
}
