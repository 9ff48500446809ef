import { ChevronDown, ChevronUp } from 'lucide-react';
import { useEffect, useState } from 'react';
import type { StageName } from '../state/view/store';
import { useView, useWorkspace } from '../state/context';
import { MiddleCut } from '../ui/MiddleCut';
import { READY_SIGNS, TO_CHECK } from '../ui/readySigns';

/** A window this high has room for the card beside the list of tools, CSS pixels. */
const ROOMY = 900;

/** What the receiver would still complain about, each line with the verb that fixes it. */
export function ReadyCard() {
  const { data, operations, commands, store } = useWorkspace();
  const open = useView((s) => s.openOperation !== null || s.openStep !== null || s.openItem !== null);
  // An open tool needs the room: the card folds to its signs, one click from its words.
  const [folded, setFolded] = useState(open);
  const stage = useView((s) => s.stage);
  // The longest list of tools is that of the first stage, where the card has little to say yet.
  useEffect(() => setFolded(open || (stage === 'gather' && window.innerHeight < ROOMY)), [open, stage]);
  const chosen = useView((s) => s.chosen);
  const meshes = data.snapshot.bodies.filter((b) => data.readyCards[b.id]);
  const hidden = useView((s) => s.hidden);
  const last = meshes.find((b) => b.id === data.readyBody);
  // The one chosen; else the one made last, if it is in sight, or one that is.
  const body = meshes.find((b) => chosen.includes(b.id)) ?? (last && hidden[last.id] ? meshes.findLast((b) => !hidden[b.id]) : undefined) ?? last ?? null;
  const empty = data.snapshot.passes.length + data.snapshot.bodies.length === 0;
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
          <span className="flex min-w-0 flex-1 whitespace-pre">
            Ready card
            {body ? (
              <span className="flex min-w-0 font-normal opacity-80">
                {' of '}
                <MiddleCut>{body.name}</MiddleCut>
              </span>
            ) : null}
          </span>
          <span className="font-normal opacity-80">{empty ? `${lines.length} checks` : `${good} of ${lines.length}`}</span>
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
          // Of nothing nothing is amiss yet: what will be looked at is said.
          const sign = empty ? TO_CHECK : READY_SIGNS[line.state];
          const mend = line.fix ? fix(line.fix) : null;
          return (
            <li key={line.key} className={`flex items-center gap-2 ${folded ? '' : 'h-7'}`} data-line={line.key} data-state={empty ? 'later' : line.state} title={folded ? `${line.label}: ${line.figure}` : undefined}>
              <sign.icon size={15} className={sign.tint} aria-label={folded ? `${line.label}: ${sign.words}` : sign.words} />
              {folded ? null : (
                <>
                  <span className="flex-1 whitespace-nowrap">{line.label}</span>
                  <span className="truncate opacity-80" title={line.figure}>
                    {empty ? 'will be checked' : line.figure}
                  </span>
                  {mend && !empty ? (
                    <button type="button" className="link ember-text whitespace-nowrap no-underline hover:underline" onClick={mend.act}>
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
