import type { OperationInfo, ProjectState } from '../../api/types';
import { moduleOf } from '../../operations';
import type { Asked, Gestures, Values } from '../../operations/module';
import { isOfUse } from './noUse';

/** Parameters that picks, selections and pickers of their own stand for. */
const PICKED: ReadonlySet<string> = new Set(['works', 'recipe', 'strokes', 'points', 'pairs', 'selection', 'locked', 'box', 'items', 'clusters', 'group', 'datumPairs', 'target', 'fixture', 'region', 'construct', 'hold', 'typed', 'shape', 'body', 'frame', 'lengths', 'rims', 'flip']);

/** A parameter that has no field of its own. */
export const isPicked = (p: { picks: string | null }): boolean => p.picks !== null && PICKED.has(p.picks);

/** Of the parameters of a step those that are typed or chosen in its form. */
export const typedOf = (operation: OperationInfo, parameters: Values): Values => Object.fromEntries(Object.entries(parameters).filter(([name]) => operation.parameters.some((p) => p.name === name && !isPicked(p))));

/** What the names in an operation's lists are names of. */
export const namesFor = (operation: OperationInfo, snapshot: ProjectState['snapshot']): readonly { id: string; name: string; kind?: string }[] => moduleOf(operation.name).names?.(snapshot) ?? (operation.stage === 'register' ? snapshot.passes : snapshot.datums);

/** The parameters as the server wants them: what is empty is left out, picks and selections are filled in. */
export function parametersToSend(operation: OperationInfo, values: Values, gestures: Gestures): Values {
  const filled: Values = {};
  for (const p of operation.parameters) {
    const value = values[p.name];
    if (value !== undefined && value !== null && value !== '' && isOfUse(p, values)) filled[p.name] = value;
  }
  const out = moduleOf(operation.name).toSend?.(filled, { ...gestures, values }) ?? filled;
  const { locked, cropBox, selection } = gestures;
  if (operation.parameters.some((p) => p.picks === 'locked')) {
    delete out.locked;
    if (locked.length > 0) out.locked = locked;
  }
  if (cropBox && operation.parameters.some((p) => p.picks === 'box')) out.box = { ...cropBox };
  if (selection.length > 0 && operation.parameters.some((p) => p.picks === 'selection' && isOfUse(p, values))) out.selection = selection.map(({ target, ranges, of }) => ({ target, ranges, of }));
  return out;
}

/** What to say of a parameter that is chosen from a list, and is not. */
const CHOSEN: Readonly<Record<string, string>> = { plane: 'Choose a plane.', axis: 'Choose an axis.', mesh: 'Choose the other body.' };

/** What is missing before the operation can run, in words; null when nothing is. */
export function lacking(operation: OperationInfo, sent: Values, asked: Asked): string | null {
  const { passes, bodies } = asked.data.snapshot;
  if (operation.needs === 'passes' && passes.length === 0) return 'Bring in a pass first.';
  if ((operation.needs === 'any' || operation.needs === 'places') && passes.length + bodies.length === 0) return 'Bring in a pass or a body first.';
  if (operation.needs === 'bodies' && bodies.length === 0) return 'There is no body yet: fuse the passes first, or bring one in.';
  if (operation.needs === 'meshes' && !bodies.some((b) => b.kind === 'mesh')) return 'There is no mesh yet: fuse the passes first.';
  if (operation.parameters.some((p) => p.picks === 'shapes' && sent[p.name] === undefined)) return 'Choose shapes in the list under Lighten first.';
  if (operation.parameters.some((p) => p.picks === 'selection' && p.required) && asked.selection.length === 0) return 'Select what is meant: draw around it, or click a piece.';
  const own = moduleOf(operation.name).lacking?.(sent, asked) ?? null;
  if (own) return own;
  if (operation.parameters.some((p) => p.picks === 'mesh') && bodies.filter((b) => b.kind === 'mesh').length < 2) return 'There is no other body: bring one in, or make a simple body.';
  // A plane may be left out only where it is of no use.
  const missing = operation.parameters.find((p) => sent[p.name] === undefined && (p.picks === 'plane' ? isOfUse(p, sent) : p.required && (!p.picks || p.picks in CHOSEN)));
  return missing ? (CHOSEN[missing.picks ?? ''] ?? `Fill in: ${missing.label.toLowerCase()}.`) : null;
}
