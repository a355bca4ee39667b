// All projects: make one, bring a scene in, open it.
import { Modal, TextInput } from '@mantine/core';
import { useQueryClient } from '@tanstack/react-query';
import type { Project, ProjectSummary, Revision } from '@variscen/contract';
import { useRef, useState } from 'react';
import { Link, useNavigate } from 'react-router';
import { call, uploadScene } from '../../api/client.ts';
import { useProgress } from '../../api/progress.ts';
import { keys, useProjects } from '../../api/queries.ts';
import { bytes, count, metres, plural } from '../../shared/format.ts';
import { say, sayError } from '../../shared/notify.ts';

interface Upload { readonly projectId: string; readonly fileName: string; readonly sent: number; readonly stop: AbortController }

export function ProjectsPlace() {
  const projects = useProjects(), client = useQueryClient(), navigate = useNavigate(), file = useRef<HTMLInputElement>(null), target = useRef<string>('');
  const [name, setName] = useState(''), [upload, setUpload] = useState<Upload | null>(null), [report, setReport] = useState<{ project: Project; revision: Revision } | null>(null), [doomed, setDoomed] = useState<ProjectSummary | null>(null), [over, setOver] = useState<string | null>(null);
  const read = useProgress((s) => (upload ? s.imports[upload.projectId] : undefined));

  const create = async () => {
    try {
      const p = await call('createProject', { body: { name } });
      setName('');
      await client.invalidateQueries({ queryKey: keys.projects });
      target.current = p.id;
      file.current?.click();
    } catch (e) { sayError(e); }
  };
  const bring = async (projectId: string, f: File) => {
    const stop = new AbortController();
    setUpload({ projectId, fileName: f.name, sent: 0, stop });
    try {
      await uploadScene(projectId, f, (sent) => setUpload((u) => u && { ...u, sent }), stop.signal);
      const project = await call('getProject', { params: { projectId } });
      setReport({ project, revision: project.revision! });
      void client.invalidateQueries();
    } catch (e) { sayError(e); } finally { setUpload(null); }
  };
  const remove = async (p: ProjectSummary) => {
    try { await call('deleteProject', { params: { projectId: p.id } }); if (localStorage.getItem('variscen.project') === p.id) localStorage.removeItem('variscen.project'); say(`Project “${p.name}” is deleted`, 'Its rendered files are still in the output folder.'); await client.invalidateQueries({ queryKey: keys.projects }); } catch (e) { sayError(e); } finally { setDoomed(null); }
  };

  return (
    <>
      <header className="sentence">{projects.data ? <>You have <b className="pick">{plural(projects.data.length, 'project')}</b>. Open one, or start another.</> : ''}</header>
      <main className="place" style={{ padding: '18px 20px', overflow: 'auto' }}>
        <form onSubmit={(e) => { e.preventDefault(); void create(); }} style={{ display: 'flex', gap: 8, maxWidth: 520, marginBottom: 18 }}>
          <TextInput aria-label="Name of the new project" placeholder="Name of a new project" value={name} onChange={(e) => setName(e.currentTarget.value)} maxLength={120} style={{ flex: 1 }} size="sm" />
          <button type="submit" className="go" disabled={!name.trim()}>Start project</button>
        </form>
        <input ref={file} type="file" accept=".glb,.gltf,.zip" hidden aria-label="Scene file" onChange={(e) => { const f = e.currentTarget.files?.[0]; e.currentTarget.value = ''; if (f) void bring(target.current, f); }} />
        <table className="rows">
          <thead><tr><th>Project</th><th className="n">Cameras</th><th className="n">Variants</th><th>Scene</th><th /></tr></thead>
          <tbody>
            {projects.data?.map((p) => (
              <tr key={p.id} onDragOver={(e) => { e.preventDefault(); setOver(p.id); }} onDragLeave={() => setOver(null)} onDrop={(e) => { e.preventDefault(); setOver(null); const f = e.dataTransfer.files[0]; if (f) void bring(p.id, f); }} style={over === p.id ? { background: 'var(--raised)' } : undefined}>
                <td><Link to={p.hasScene ? `/projects/${p.id}/board` : '#'} style={{ color: 'var(--ink)', fontWeight: 500 }}>{p.name}</Link></td>
                <td className="n">{count(p.cameras)}</td><td className="n">{count(p.variants)}</td>
                <td>{upload?.projectId === p.id ? <UploadLine upload={upload} read={read} /> : p.hasScene ? <span className="dim">in place</span> : <span className="faint">none yet — drop a .glb, .gltf or .zip here</span>}</td>
                <td style={{ textAlign: 'right', whiteSpace: 'nowrap' }}>
                  {upload?.projectId !== p.id && <button type="button" className="quiet" style={{ padding: '3px 10px' }} onClick={() => { target.current = p.id; file.current?.click(); }}>{p.hasScene ? 'Bring in a newer scene…' : 'Bring in a scene…'}</button>}{' '}
                  <button type="button" className="quiet" style={{ padding: '3px 10px' }} onClick={() => setDoomed(p)} aria-label={`Delete project ${p.name}`}>Delete…</button>
                </td>
              </tr>
            ))}
          </tbody>
        </table>
        {projects.data?.length === 0 && <div className="empty" style={{ height: 300 }}><h1>No project yet</h1><p>Give the first one a name above; then choose its scene file.</p></div>}
      </main>
      <Modal opened={report !== null} onClose={() => setReport(null)} title={report && `${report.revision.report.fileName} is in`} size="lg">
        {report && <Report revision={report.revision} onOpen={() => void navigate(`/projects/${report.project.id}/stage`)} />}
      </Modal>
      <Modal opened={doomed !== null} onClose={() => setDoomed(null)} title={`Delete project “${doomed?.name ?? ''}”?`}>
        <p>{doomed && `Its ${plural(doomed.cameras, 'camera')}, ${plural(doomed.variants, 'variant')} and recorded looks go with it. Rendered files stay on disk.`}</p>
        <div style={{ display: 'flex', gap: 8, justifyContent: 'flex-end' }}><button type="button" className="quiet" onClick={() => setDoomed(null)}>Leave it</button><button type="button" className="go" onClick={() => doomed && void remove(doomed)}>Delete project</button></div>
      </Modal>
    </>
  );
}

function UploadLine({ upload, read }: { upload: Upload; read: number | undefined }) {
  const sending = upload.sent < 1;
  return (
    <div style={{ display: 'flex', gap: 10, alignItems: 'center' }} role="status">
      <div style={{ width: 160 }}><div className="dim">{sending ? `Sending ${Math.round(upload.sent * 100)} %` : `Reading ${Math.round((read ?? 0) * 100)} %`}</div><div className="bar"><i style={{ width: `${(sending ? upload.sent : (read ?? 0)) * 100}%` }} /></div></div>
      <button type="button" className="quiet" style={{ padding: '3px 10px' }} onClick={() => upload.stop.abort()}>Cancel</button>
    </div>
  );
}

function Report({ revision: { report: r }, onOpen }: { revision: Revision; onOpen: () => void }) {
  return (
    <>
      <div className="kv" style={{ maxWidth: 420 }}>
        <span>Objects</span><b>{count(r.objects)}</b><span>Triangles, placed</span><b>{count(r.trianglesPlaced)}</b><span>Triangles, stored</span><b>{count(r.trianglesStored)}</b><span>Materials</span><b>{count(r.materials)}</b>
        <span>Textures</span><b>{count(r.textures)} · {bytes(r.textureBytes)}</b><span>Lights</span><b>{count(r.lights)}</b><span>Cameras</span><b>{count(r.cameras)}</b><span>Size</span><b>{r.sizeM.map(metres).join(' × ')}</b>
      </div>
      <hr className="hair" />
      <h4>{r.faults.length ? `${plural(r.faults.length, 'remark')}` : 'Nothing was left out.'}</h4>
      <div style={{ maxHeight: 220, overflow: 'auto' }}>{r.faults.map((f, i) => <p key={i} style={{ margin: '0 0 4px' }}>{f.message}</p>)}</div>
      <div style={{ display: 'flex', justifyContent: 'flex-end', marginTop: 12 }}><button type="button" className="go" onClick={onOpen}>Open the stage</button></div>
    </>
  );
}
