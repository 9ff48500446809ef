import { ChevronDown, ChevronUp } from 'lucide-react';
import { useEffect, useState } from 'react';
import type { StageName } from '../state/view/store';
import { useView, useWorkspace } from '../state/context';
import { READY_SIGNS } from '../ui/readySigns';

/** What the receiver would still complain about, each line with the verb that fixes it. */
export function ReadyCard() {
  const { data, operations, commands, store } = useWorkspace();
  const open = useView((s) => s.openOperation !== null || s.openStep !== null || s.openItem !== null);
  // An open tool needs the room: the card folds to its signs, one click from its words.
  const [folded, setFolded] = useState(open);
  useEffect(() => setFolded(open), [open]);
  const chosen = useView((s) => s.chosen);
  const meshes = data.snapshot.bodies.filter((b) => data.readyCards[b.id]);
  const hidden = useView((s) => s.hidden);
  const last = meshes.find((b) => b.id === data.readyBody);
  // The one chosen; else the one made last, if it is in sight, or one that is.
  const body = meshes.find((b) => chosen.includes(b.id)) ?? (last && hidden[last.id] ? meshes.findLast((b) => !hidden[b.id]) : undefined) ?? last ?? null;
  const lines = (body && data.readyCards[body.id]) ?? data.readyCard;
  const good = lines.filter((l) => l.state === 'good').length;
  const ready = meshes.filter((b) => data.readyCards[b.id]?.every((l) => l.state === 'good')).length;
  const fix = (name: string) => {
    const operation = operations.find((o) => o.name === name);
    const open = () => {
      // The card's body is what its verbs work on.
      if (body && meshes.length > 1) store.setState({ chosen: [body.id] });
      commands.openOperation(name, operation?.stage as StageName);
    };
    return operation ? { label: operation.label, act: open } : null;
  };
  return (
    <section className="border-t border-neutral p-3" aria-label="Ready card">
      <h2 className="font-semibold">
        <button type="button" className="flex w-full items-center gap-1 text-left" aria-expanded={!folded} title={folded ? 'Show the lines' : 'Fold'} onClick={() => setFolded(!folded)}>
          {folded ? <ChevronUp size={14} aria-hidden /> : <ChevronDown size={14} aria-hidden />}
          <span className="min-w-0 flex-1 truncate">
            Ready card
            {body ? <span className="font-normal opacity-80"> of {body.name}</span> : null}
          </span>
          <span className="font-normal opacity-80">
            {good} of {lines.length}
          </span>
        </button>
      </h2>
      {meshes.length > 1 ? (
        <div className="flex items-center gap-2" data-ready-bodies>
          <span className="flex-1 opacity-80">
            {ready} of {meshes.length} bodies ready
          </span>
          {folded ? null : (
            <select className="select select-xs w-36" aria-label="Body of the ready card" value={body?.id ?? ''} onChange={(e) => store.setState({ chosen: [e.target.value] })}>
              {meshes.map((b) => (
                <option key={b.id} value={b.id}>
                  {b.name}
                </option>
              ))}
            </select>
          )}
        </div>
      ) : null}
      <ul className={folded ? 'mt-1 flex justify-between' : 'mt-1'}>
        {lines.map((line) => {
          const sign = READY_SIGNS[line.state];
          const mend = line.fix ? fix(line.fix) : null;
          return (
            <li key={line.key} className={`flex items-center gap-2 ${folded ? '' : 'h-7'}`} data-line={line.key} data-state={line.state} title={folded ? `${line.label}: ${line.figure}` : undefined}>
              <sign.icon size={15} className={sign.tint} aria-label={folded ? `${line.label}: ${sign.words}` : sign.words} />
              {folded ? null : (
                <>
                  <span className="flex-1 whitespace-nowrap">{line.label}</span>
                  <span className="truncate opacity-80" title={line.figure}>
                    {line.figure}
                  </span>
                  {mend ? (
                    <button type="button" className="link link-primary whitespace-nowrap no-underline hover:underline" onClick={mend.act}>
                      {mend.label}
                    </button>
                  ) : null}
                </>
              )}
            </li>
          );
        })}
      </ul>
    </section>
  );
}
