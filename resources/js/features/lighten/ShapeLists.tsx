import { Axis3d, Combine, Move3d, Scissors } from 'lucide-react';
import { useEffect, useMemo, useState } from 'react';
import { toast } from 'sonner';
import { api } from '../../api/client';
import { heldBy } from '../../api/artefacts';
import type { ArtefactItem } from '../../api/types';
import { useView, useWorkspace } from '../../state/context';
import { count } from '../../ui/format';
import { css } from '../../viewport/palette';
import { shapeColour } from '../../viewport/shapeLayer';
import { freeName } from '../../operations/add-datum/datum';
import { PLACES } from '../orient/frame';
import { frameFrom } from './frame';
import { facesOf, figureOf, type FoundShape, type HeldShapes, isCurrent, KINDS, labelsOf, numberOf, placed, scaleOf, swatch } from './shapes';

interface RowProps {
  shape: FoundShape;
  place: number;
  figure: string;
  share: number;
  chosen: boolean;
  onChoose: (more: boolean) => void;
  onLook: (looks: boolean) => void;
}

function ShapeRow({ shape, place, figure, share, chosen, onChoose, onLook }: RowProps) {
  return (
    <li>
      <button
        type="button"
        className={`grid w-full grid-cols-[auto_minmax(0,1fr)_auto] items-center gap-x-2 rounded-field px-1 py-1 text-left ${chosen ? 'bg-primary/20 outline outline-primary' : 'hover:bg-base-300'}`}
        aria-pressed={chosen}
        title="Click shows it on the part; with Ctrl it joins those that are chosen"
        data-shape={shape.id}
        onClick={(e) => onChoose(e.ctrlKey || e.metaKey)}
        onPointerEnter={() => onLook(true)}
        onPointerLeave={() => onLook(false)}
        onFocus={() => onLook(true)}
        onBlur={() => onLook(false)}
      >
        <span className="size-3.5 rounded-sm border border-black/40" style={{ background: swatch(shape.kind, css(shapeColour(place, shape.kind))) }} aria-hidden />
        <span className="min-w-0 truncate">
          {KINDS[shape.kind]} {numberOf(shape)}
          {figure === '' ? '' : `, ${figure}`}
        </span>
        <span className="tabular-nums opacity-80">{share < 0.1 ? '< 0.1' : share.toFixed(1)} %</span>
      </button>
    </li>
  );
}

/** The shapes of one body: looked at, chosen, joined, split, made datums of. */
function ShapeList({ artefact }: { artefact: ArtefactItem }) {
  const { data, projectId, run, commands, viewport, store } = useWorkspace();
  const [held, setHeld] = useState<HeldShapes | null>(null);
  const [chosen, setChosen] = useState<readonly string[]>([]);
  const [looked, setLooked] = useState<string | null>(null);
  const [framed, setFramed] = useState<readonly string[]>([]);
  const clicked = useView((s) => s.clicked);
  useEffect(() => {
    let live = true;
    heldBy<HeldShapes>(projectId, artefact.blob)
      .then((found) => {
        if (!live) return;
        setHeld(found);
        setChosen((ids) => ids.filter((id) => found.shapes.some((s) => s.id === id)));
      })
      .catch((problem: Error) => toast.error(problem.message));
    return () => {
      live = false;
    };
  }, [projectId, artefact.blob]);
  const labels = useMemo(() => (held ? labelsOf(held) : null), [held]);
  const body = data.snapshot.bodies.find((b) => b.id === artefact.bodyId);
  const isNow = isCurrent(artefact, data.snapshot.bodies);
  const seen = looked === null ? chosen : [looked];
  const seenKey = seen.join();
  // biome-ignore lint/correctness/useExhaustiveDependencies: the words say which are seen
  useEffect(() => {
    if (!held || !labels || !isNow || seen.length === 0) return;
    const faces = seen.flatMap((id) =>
      facesOf(
        labels,
        held.shapes.findIndex((s) => s.id === id),
      ),
    );
    viewport.current?.highlightFaces(artefact.bodyId, faces);
    return () => viewport.current?.highlightFaces(null, []);
  }, [held, labels, isNow, seenKey, viewport]);
  // A click on the part chooses the shape that it hits.
  useEffect(() => {
    if (!clicked || !held || !labels || !isNow || clicked.hit.itemId !== artefact.bodyId) return;
    const id = held.shapes[labels[clicked.hit.index] ?? -1]?.id;
    if (!id) return;
    setChosen((ids) => (clicked.more ? (ids.includes(id) ? ids.filter((one) => one !== id) : [...ids, id]) : [id]));
    document.querySelector(`[data-shape="${id}"]`)?.scrollIntoView({ block: 'nearest' });
  }, [clicked, held, labels, isNow, artefact.bodyId]);
  // Once the datums of a proposal are there, Set frame opens with them.
  const { datums } = data.snapshot;
  useEffect(() => {
    if (framed.length === 0 || !framed.every((name) => datums.some((d) => d.name === name))) return;
    setFramed([]);
    commands.reopen('set-frame', 'orient', Object.fromEntries(framed.map((name, k) => [PLACES[k] ?? '', { datum: name }])));
  }, [framed, datums, commands]);
  if (!held) return null;
  const all = held.shapes.reduce((sum, s) => sum + s.area, 0);
  const choose = (shape: FoundShape, more: boolean) => {
    if (more) {
      setChosen((ids) => (ids.includes(shape.id) ? ids.filter((id) => id !== shape.id) : [...ids, shape.id]));
      return;
    }
    setChosen([shape.id]);
    viewport.current?.flyTo(placed(artefact, shape.place), Math.max(15, 3 * scaleOf(artefact) * shape.size));
  };
  const one = chosen.length === 1 ? held.shapes.find((s) => s.id === chosen[0]) : undefined;
  const kindOf = (shape: FoundShape) => (shape.kind === 'revolved' || shape.kind === 'torus' ? 'line' : shape.kind);
  const addDatum = (shape: FoundShape, name: string) => api.addStep(projectId, 'add-datum', { name, kind: kindOf(shape), shape: { find: 'found', id: shape.id } });
  const makeDatum = (shape: FoundShape) => run(() => addDatum(shape, freeName(kindOf(shape), data.snapshot.datums)));
  const proposed = frameFrom(held.shapes);
  const propose = () => {
    const names: string[] = [];
    for (const shape of proposed) names.push(freeName(kindOf(shape), [...data.snapshot.datums, ...names.map((name) => ({ id: name, name }))]));
    run(async () => {
      // One after the other: steps are carried out in the order in which they come in.
      for (const [k, shape] of proposed.entries()) await addDatum(shape, names[k] ?? '');
      setFramed(names);
    });
  };
  const noDatum = one === undefined ? 'Choose one shape first' : one.kind === 'free' ? 'Free form is no reference' : null;
  const noSplit = one === undefined ? 'Choose one shape first' : isNow ? null : 'Its body has changed: find shapes again';
  const noJoin = chosen.length < 2 ? 'Choose two shapes or more, with Ctrl' : isNow ? null : 'Its body has changed: find shapes again';
  return (
    <section className="my-1 grid gap-1 rounded-box border border-neutral p-2" aria-label={artefact.name}>
      <h3 className="font-semibold">{artefact.name}</h3>
      {isNow ? (
        <p className="opacity-85">Click the part, or a line here; Ctrl takes more.</p>
      ) : (
        <p className="text-warning">
          Found on an earlier surface{body ? ` of ${body.name}` : ''}.{' '}
          <button type="button" className="link" onClick={() => commands.openOperation('find-shapes')}>
            Find them again
          </button>
        </p>
      )}
      <ul className="max-h-72 overflow-y-auto" aria-label={`${count(held.shapes.length)} shapes`}>
        {held.shapes.map((shape, k) => (
          <ShapeRow key={shape.id} shape={shape} place={k} figure={figureOf(shape, scaleOf(artefact))} share={(100 * shape.area) / all} chosen={chosen.includes(shape.id)} onChoose={(more) => choose(shape, more)} onLook={(looks) => setLooked(looks ? shape.id : null)} />
        ))}
      </ul>
      <div className="grid grid-cols-3 gap-1">
        <button type="button" className="btn btn-sm" disabled={noDatum !== null} title={noDatum ?? 'A datum of its plane, axis or ball, as sure as its fit'} onClick={() => one && makeDatum(one)}>
          <Axis3d size={13} aria-hidden /> Datum
        </button>
        <button type="button" className="btn btn-sm" disabled={noJoin !== null} title={noJoin ?? 'They become one shape, fitted anew'} onClick={() => run(() => api.addStep(projectId, 'join-shapes', { shapes: chosen }))}>
          <Combine size={13} aria-hidden /> Join
        </button>
        <button
          type="button"
          className="btn btn-sm"
          disabled={noSplit !== null}
          title={noSplit ?? 'What is selected of it becomes a shape of its own, or each piece'}
          onClick={() => {
            commands.reopen('split-shape', 'lighten', { shapes: chosen });
            store.setState({ clicked: null });
          }}
        >
          <Scissors size={13} aria-hidden /> Split
        </button>
      </div>
      <button type="button" className="btn btn-sm" disabled={proposed.length === 0} title={proposed.length === 0 ? 'There is no plane or axis here to set a frame by' : `Datums of ${proposed.map((s) => `${KINDS[s.kind].toLowerCase()} ${numberOf(s)}`).join(', ')}, and Set frame with them`} onClick={propose}>
        <Move3d size={13} aria-hidden /> Propose a frame
      </button>
      {noDatum && noJoin ? <p className="opacity-80">{noDatum}.</p> : null}
    </section>
  );
}

/** The shapes that were found, body by body. */
export function ShapeLists() {
  const { data } = useWorkspace();
  const hidden = useView((s) => s.hidden);
  return data.snapshot.artefacts.filter((a) => a.kind === 'shapes' && !hidden[a.id]).map((a) => <ShapeList key={a.id} artefact={a} />);
}
