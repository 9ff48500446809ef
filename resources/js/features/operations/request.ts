import type { OperationInfo, ProjectState } from '../../api/types';
import type { Box } from '../../tools/cropBox/box';
import type { Hit } from '../../tools/events';
import type { Selection } from '../../viewport/marks';

/** Which parameters the picks of an operation stand for; they have no field of their own. */
/** A parameter that has no field of its own. */
export const isPicked = (p: { name: string; picks: string | null }): boolean => PICKED.has(p.name) || ['clusters', 'group', 'target', 'fixture'].includes(p.picks ?? '') || (p.picks === 'points' && p.name === 'about');

const PICKED: ReadonlySet<string> = new Set(['seed', 'points', 'pairs', 'selection', 'locked', 'box', 'items']);

interface Gestures {
  picks: readonly Hit[];
  selection: readonly Selection[];
  /** ids of passes that must not move */
  locked: readonly string[];
  cropBox: Box | null;
}

/** What the names in an operation's lists are names of. */
export const namesFor = (operation: OperationInfo, { passes, bodies, datums }: ProjectState['snapshot']): readonly { id: string; name: string }[] =>
  operation.name === 'move' || operation.name === 'place' ? [...passes, ...bodies] : operation.stage === 'register' ? passes : datums;

/** The parameters as the server wants them: what is empty is left out, picks and selections are filled in. */
export function parametersToSend(operation: OperationInfo, values: Record<string, unknown>, { picks, selection, locked, cropBox }: Gestures): Record<string, unknown> {
  const out: Record<string, unknown> = {};
  for (const p of operation.parameters) {
    const value = values[p.name];
    if (value !== undefined && value !== null && value !== '') out[p.name] = value;
  }
  if (operation.name === 'fuse' && typeof out.closeHoles === 'string' && out.closeHoles !== '' && !Number.isNaN(Number(out.closeHoles))) out.closeHoles = Number(out.closeHoles);
  if (operation.name === 'add-datum') {
    const points = picks.map((p) => p.pointMm);
    if (points.length === 1 && out.kind !== 'point') out.seed = points[0];
    else if (points.length > 0) out.points = points;
  }
  if (operation.name === 'move' && picks[0]) out.about = picks[0].pointMm;
  if (operation.name === 'pair-points' || (operation.name === 'place' && values.start === 'pairs')) {
    out.pairs = picks.flatMap((p, k) => (k % 2 === 1 ? [{ from: picks[k - 1]?.pointMm, to: p.pointMm }] : []));
  }
  if (operation.parameters.some((p) => p.picks === 'locked')) {
    delete out.locked;
    if (locked.length > 0) out.locked = locked;
  }
  if (cropBox && operation.parameters.some((p) => p.picks === 'box')) out.box = { ...cropBox };
  if (selection.length > 0 && operation.parameters.some((p) => p.picks === 'selection')) out.selection = selection.map(({ target, ranges }) => ({ target, ranges }));
  return out;
}

/** What is missing before the operation can run, in words; null when nothing is. */
export function lacking(operation: OperationInfo, sent: Record<string, unknown>, { picks, selection, data }: Omit<Gestures, 'locked' | 'cropBox'> & { data: ProjectState }): string | null {
  const { passes, bodies, datums } = data.snapshot;
  if (operation.needs === 'passes' && passes.length === 0) return 'Bring in a pass first.';
  if (operation.needs === 'meshes' && !bodies.some((b) => b.kind === 'mesh')) return 'There is no mesh yet: fuse the passes first.';
  if (operation.name === 'fill-holes' && bodies.every((b) => b.figures?.holeCount === 0)) return 'Every rim is closed already.';
  if (operation.name === 'register' && passes.length < 2) return 'Bring in a second pass.';
  if (operation.parameters.some((p) => p.picks === 'selection') && selection.length === 0) return 'Select what is meant: draw around it, or click a piece.';
  if (operation.name === 'crop' && sent.box === undefined) return 'Bring in a pass or a body first.';
  if (operation.name === 'place' && (!sent.moving || !sent.onto)) return 'Choose what moves, and what it is placed on.';
  if (operation.name === 'place' && sent.moving === sent.onto) return 'It cannot be placed on itself; choose another.';
  if (operation.name === 'move' && !sent.moving) return 'Choose what moves.';
  if (operation.name === 'move' && ['shiftX', 'shiftY', 'shiftZ', 'turnX', 'turnY', 'turnZ'].every((k) => !sent[k])) return 'Type by how much it should move.';
  if (operation.name === 'apply-fixture' && !sent.fixture) return 'Choose a fixture, or open the file of one.';
  if (['match', 'match-markers'].includes(operation.name) && passes.length < 2) return 'Bring in a second pass.';
  if (operation.name === 'pair-points' || (operation.name === 'place' && sent.start === 'pairs')) {
    if (!sent.moving) return 'Choose the pass that moves.';
    const pairs = Math.floor(picks.length / 2);
    if (pairs < 3) return `Pick ${3 - pairs} more ${pairs === 2 ? 'pair' : 'pairs'}: a place on what moves, then the same place on what stays.`;
  }
  if (operation.name === 'add-datum') {
    if (picks.length === 0) return 'Click a place on the part.';
    if (picks.length === 2 && sent.kind === 'plane') return 'Pick 1 more point, or press Backspace to spread from one click.';
    if (picks.length > 1 && sent.kind === 'cylinder') return 'A cylinder spreads from one click; press Backspace until one is left.';
    if (datums.some((d) => d.name === sent.name)) return 'There is a datum of that name; choose another.';
  }
  if (operation.name === 'set-frame') {
    if (datums.length === 0) return 'Add a datum first: the frame is set by datums.';
    if (!sent.first) return 'Choose the first datum.';
  }
  if (operation.name === 'decimate' && [sent.ratio, sent.faces, sent.deviation].filter((v) => v !== undefined).length !== 1) return 'Fill in one of share, faces and deviation.';
  if (operation.name === 'keep-pieces' && (sent.largest === undefined) === (sent.minArea === undefined)) return 'Fill in one of the two.';
  if (operation.name === 'scale' && sent.factor === undefined && (sent.measured === undefined || sent.actual === undefined)) return 'Type a factor, or a measured and an actual length.';
  const missing = operation.parameters.find((p) => p.required && sent[p.name] === undefined && !p.picks);
  return missing ? `Fill in: ${missing.label.toLowerCase()}.` : null;
}
