import { Download } from 'lucide-react';
import { useState } from 'react';
import type { ArtefactItem, BodyItem } from '../../api/types';
import { useWorkspace } from '../../state/context';
import { count } from '../../ui/format';
import { changedSince } from './measured';
import { Measurements } from './Measurements';
import { ReceiverLinks } from './ReceiverLinks';

/** A height map as it looks, and its files. */
function Heights({ artefact, address }: { artefact: ArtefactItem; address: string }) {
  // With one side only, the server knows which.
  const sides = artefact.parts > 1 ? ['&side=front', '&side=back'] : [''];
  return (
    <div className="rounded-box border border-neutral p-2">
      <p className="mb-2 font-semibold">{artefact.name}</p>
      {sides.map((side, k) => (
        <div key={side} className="mb-2">
          <img className="mb-1 max-h-40 w-full rounded-field bg-black object-contain" src={`${address}?format=png${side}`} alt={`${artefact.name}${side === '' ? '' : k === 0 ? ', front' : ', back'}: light is near, black is nothing`} />
          <div className="grid grid-cols-2 gap-1">
            {['png', 'xyz'].map((format) => (
              <a key={format} className="btn btn-sm" href={`${address}?format=${format}${side}`} download>
                <Download size={13} aria-hidden /> {side === '' ? '' : k === 0 ? 'Front ' : 'Back '}
                {format.toUpperCase()}
              </a>
            ))}
          </div>
        </div>
      ))}
    </div>
  );
}

/** What was handed over, the newest first: its report, and all of it in one zip, as it was then. */
function Deliveries() {
  const { data, projectId } = useWorkspace();
  const deliveries = data.snapshot.artefacts.filter((a) => a.kind === 'delivery').reverse();
  if (deliveries.length === 0) return null;
  const changed = changedSince(data.steps, data.snapshot.bodies);
  return (
    <section aria-label="Deliveries" className="grid grid-cols-[minmax(0,1fr)] gap-1 rounded-box border border-neutral p-2">
      <p className="font-semibold">Handed over</p>
      {deliveries.map((delivery) => (
        <div key={delivery.id} className="grid grid-cols-[minmax(0,1fr)] gap-1">
          <p className="truncate">
            {delivery.name} <span className="opacity-85">· {delivery.parts === 1 ? '1 file' : `${delivery.parts} files`}, kept as they were</span>
          </p>
          {changed.has(delivery.id) ? <p className="text-warning">The part has changed since: hand over again if the receiver shall have it as it is now.</p> : null}
          <div className="grid grid-cols-3 gap-1">
            {(
              [
                ['pdf', 'Report PDF'],
                ['html', 'Report HTML'],
                ['zip', 'All, ZIP'],
              ] as const
            ).map(([format, says]) => (
              <a key={format} className="btn btn-sm whitespace-nowrap px-1" href={`/api/projects/${projectId}/artefacts/${delivery.id}/download?format=${format}`} download>
                {says}
              </a>
            ))}
          </div>
          <ReceiverLinks artefact={delivery.id} />
        </div>
      ))}
    </section>
  );
}

/** Flat faces for which the server still writes STEP; see Deliver\StepModel. */
const MOST_FLATS = 300_000;

const hasShapes = (body: BodyItem, artefacts: readonly ArtefactItem[]): boolean => artefacts.some((a) => a.kind === 'shapes' && a.bodyId === body.id);

const isHeavyForStep = (body: BodyItem, artefacts: readonly ArtefactItem[]): boolean => !hasShapes(body, artefacts) && body.faces > MOST_FLATS;

/** What a STEP file of a body holds, or why there is none. */
function aboutStep(body: BodyItem, artefacts: readonly ArtefactItem[]): string {
  if (hasShapes(body, artefacts)) return 'STEP holds its found shapes as faces, with its datums and sections.';
  return isHeavyForStep(body, artefacts) ? 'For STEP, find its shapes first, or make it lighter: as flat faces alone it is too heavy.' : 'STEP holds flat faces only, as no shapes were found on it.';
}

/** The files handed over, in the brief's unit and with its axis up. */
export function DeliverPanel() {
  const { commands, data, projectId, store } = useWorkspace();
  const { brief } = data.project;
  const { bodies, artefacts } = data.snapshot;
  const sections = artefacts.filter((a) => a.kind === 'section');
  const heights = artefacts.filter((a) => a.kind === 'height-map');
  const frames = data.snapshot.datums.filter((d) => d.kind === 'frame');
  const [chosen, setChosen] = useState('');
  const frame = frames.find((f) => f.id === chosen);
  const openLines = (id: string) => (data.readyCards[id] ?? []).filter((l) => l.state === 'bad');
  if (bodies.length === 0) return <p className="p-2 opacity-85">There is no body to hand over yet: fuse the passes first.</p>;
  return (
    <div className="grid grid-cols-[minmax(0,1fr)] gap-3 p-1">
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
      <Deliveries />
      <Measurements />
      {bodies.map((body) => (
        <div key={body.id} className="rounded-box border border-neutral p-2">
          <p className="mb-2 font-semibold">{body.name}</p>
          {openLines(body.id).length > 0 ? (
            <p className="mb-2 text-warning">
              Its ready card still has {openLines(body.id).length === 1 ? 'one open line' : `${openLines(body.id).length} open lines`}:{' '}
              {openLines(body.id)
                .map((l) => l.label.toLowerCase())
                .join(', ')}
              .
            </p>
          ) : null}
          {body.faces > brief.faceBudget ? (
            <p className="mb-2 flex items-center gap-2 text-warning">
              <span className="flex-1">
                {count(body.faces)} faces: more than the {count(brief.faceBudget)} asked for.
              </span>
              <button
                type="button"
                className="btn btn-xs"
                onClick={() => {
                  store.setState({ chosen: [body.id] });
                  commands.reopen('decimate', 'lighten', { faces: brief.faceBudget });
                }}
              >
                Lighten it
              </button>
            </p>
          ) : null}
          <div className="grid grid-cols-2 gap-1">
            {(body.kind === 'mesh' ? ['stl', 'obj', 'ply', '3mf', 'glb', ...(isHeavyForStep(body, artefacts) ? [] : ['step'])] : ['ply', 'obj', 'e57']).map((format) => (
              <a key={format} className="btn btn-sm" href={`/api/projects/${projectId}/bodies/${body.id}/download?format=${format}${frame ? `&frame=${frame.id}` : ''}`} download>
                <Download size={13} aria-hidden /> {format.toUpperCase()}
              </a>
            ))}
          </div>
          {body.kind === 'mesh' ? <p className="mt-1 opacity-85">{aboutStep(body, artefacts)}</p> : null}
        </div>
      ))}
      {sections.map((artefact) => (
        <div key={artefact.id} className="rounded-box border border-neutral p-2">
          <p className="mb-2 font-semibold">{artefact.name}</p>
          <div className="grid grid-cols-3 gap-1">
            {['dxf', 'svg', 'csv'].map((format) => (
              <a key={format} className="btn btn-sm" href={`/api/projects/${projectId}/artefacts/${artefact.id}/download?format=${format}`} download>
                <Download size={13} aria-hidden /> {format.toUpperCase()}
              </a>
            ))}
          </div>
        </div>
      ))}
      <a className="btn btn-sm" href={`/api/projects/${projectId}/file`} download>
        <Download size={13} aria-hidden /> The whole project, as one file
      </a>
      {heights.map((artefact) => (
        <Heights key={artefact.id} artefact={artefact} address={`/api/projects/${projectId}/artefacts/${artefact.id}/download`} />
      ))}
    </div>
  );
}
