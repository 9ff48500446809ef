import { Download } from 'lucide-react';
import { useState } from 'react';
import { useWorkspace } from '../../state/context';
import { Measurements } from './Measurements';

/** The files handed over, in the brief's unit and with its axis up. */
export function DeliverPanel() {
  const { data, projectId } = useWorkspace();
  const { brief } = data.project;
  const { bodies, artefacts } = data.snapshot;
  const sections = artefacts.filter((a) => a.kind === 'section');
  const frames = data.snapshot.datums.filter((d) => d.kind === 'frame');
  const [chosen, setChosen] = useState('');
  const frame = frames.find((f) => f.id === chosen);
  const openLines = (id: string) => (data.readyCards[id] ?? []).filter((l) => l.state === 'bad');
  if (bodies.length === 0) return <p className="p-2 opacity-85">There is no body to hand over yet: fuse the passes first.</p>;
  return (
    <div className="grid gap-3 p-1">
      <p className="opacity-85">
        Files come in {brief.unit} with {brief.up.toUpperCase()} up, as the brief asks.
      </p>
      {frames.length > 0 ? (
        <label className="flex items-center gap-2">
          <span className="flex-1">In the frame</span>
          <select className="select select-sm w-40" aria-label="In the frame" value={frame?.id ?? ''} onChange={(e) => setChosen(e.target.value)}>
            <option value="">that is set now</option>
            {frames.map((f) => (
              <option key={f.id} value={f.id}>
                {f.name}
              </option>
            ))}
          </select>
        </label>
      ) : null}
      <Measurements />
      {bodies.map((body) => (
        <div key={body.id} className="rounded-box border border-neutral p-2">
          <p className="mb-2 font-semibold">{body.name}</p>
          {openLines(body.id).length > 0 ? <p className="mb-2 text-warning">Its ready card still has {openLines(body.id).length === 1 ? 'one open line' : `${openLines(body.id).length} open lines`}: {openLines(body.id).map((l) => l.label.toLowerCase()).join(', ')}.</p> : null}
          <div className="grid grid-cols-2 gap-1">
            {(body.kind === 'mesh' ? ['stl', 'obj', 'ply', '3mf', 'glb'] : ['ply', 'obj', 'e57']).map((format) => (
              <a key={format} className="btn btn-sm" href={`/api/projects/${projectId}/bodies/${body.id}/download?format=${format}${frame ? `&frame=${frame.id}` : ''}`} download>
                <Download size={13} aria-hidden /> {format.toUpperCase()}
              </a>
            ))}
          </div>
        </div>
      ))}
      {sections.map((artefact) => (
        <div key={artefact.id} className="rounded-box border border-neutral p-2">
          <p className="mb-2 font-semibold">{artefact.name}</p>
          <div className="grid grid-cols-2 gap-1">
            {['dxf', 'svg'].map((format) => (
              <a key={format} className="btn btn-sm" href={`/api/projects/${projectId}/artefacts/${artefact.id}/download?format=${format}`} download>
                <Download size={13} aria-hidden /> {format.toUpperCase()}
              </a>
            ))}
          </div>
        </div>
      ))}
    </div>
  );
}
