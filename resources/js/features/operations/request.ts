import type { BodyItem, OperationInfo, ProjectState } from '../../api/types';
import type { Box } from '../../tools/cropBox/box';
import type { DatumBy } from '../../state/view/store';
import type { Hit } from '../../tools/events';
import type { Selection } from '../../viewport/marks';
import { listedHoles, type Wish, wishesToSend } from '../mend/holes';
import { type DatumPair, lackingDatumPairs } from '../register/datumPairs';
import { type Lengths, NO_LENGTHS, sentLengths } from '../orient/lengths';
import { datumsOf } from '../deliver/measured';
import { isOfUse } from './noUse';

/** Parameters that picks, selections and pickers of their own stand for. */
const PICKED: ReadonlySet<string> = new Set(['works', 'recipe', 'points', 'pairs', 'selection', 'locked', 'box', 'items', 'clusters', 'group', 'datumPairs', 'target', 'fixture', 'region', 'construct', 'hold', 'typed', 'shape', 'body', 'frame', 'lengths', 'rims']);

/** A parameter that has no field of its own. */
export const isPicked = (p: { picks: string | null }): boolean => p.picks !== null && PICKED.has(p.picks);

interface Gestures {
  picks: readonly Hit[];
  selection: readonly Selection[];
  /** ids of passes that must not move */
  locked: readonly string[];
  cropBox: Box | null;
  /** what a new datum is made of */
  datumBy: DatumBy;
  /** whose holes are listed */
  bodies?: readonly BodyItem[];
}

/** What the names in an operation's lists are names of. */
export const namesFor = (operation: OperationInfo, { passes, bodies, datums }: ProjectState['snapshot']): readonly { id: string; name: string; kind?: string }[] =>
  operation.name === 'move' || operation.name === 'place' ? [...passes, ...bodies] : operation.stage === 'register' ? passes : datums;

/** The parameters as the server wants them: what is empty is left out, picks and selections are filled in. */
export function parametersToSend(operation: OperationInfo, values: Record<string, unknown>, { picks, selection, locked, cropBox, datumBy, bodies = [] }: Gestures): Record<string, unknown> {
  const out: Record<string, unknown> = {};
  for (const p of operation.parameters) {
    const value = values[p.name];
    if (value !== undefined && value !== null && value !== '' && isOfUse(p, values)) out[p.name] = value;
  }
  // Of what a kind is not measured of, nothing is sent.
  if (operation.name === 'measure' && Array.isArray(out.of)) out.of = out.of.slice(0, datumsOf(String(out.kind)));
  if (operation.name === 'add-datum') {
    const points = picks.map((p) => p.pointMm);
    if (datumBy !== 'datums') delete out.construct;
    delete out.typed;
    delete out.shape;
    if (out.kind === 'frame') return frameToKeep(out);
    delete out.frameOf;
    if (datumBy === 'datums') delete out.kind;
    else if (datumBy === 'shape') out.shape = { find: out.kind === 'line' ? 'axis' : 'mirror', ...(typeof values.nth === 'number' && out.kind === 'plane' ? { nth: values.nth } : {}) };
    else if (datumBy === 'typed') out.typed = typedToSend(String(out.kind), (values.typed as Typed | undefined) ?? NO_TYPED);
    else if (datumBy === 'brush') out.region = selection.map(({ target, ranges }) => ({ target, ranges }));
    else if (out.kind === 'cylinder' || out.kind === 'cone' || (points.length === 1 && out.kind !== 'point' && out.kind !== 'line')) {
      if (points.length > 0) out.seed = points[0];
      if (points.length > 1) out.also = points.slice(1);
    } else if (points.length > 0) out.points = points;
    if (out.seed === undefined && out.region === undefined) delete out.hold;
  }
  if (operation.name === 'fill-holes') Object.assign(out, wishesToSend(listedHoles(bodies), (values.wishes as Record<string, Wish> | undefined) ?? {}));
  if (operation.name === 'fill-part' || operation.name === 'lay-strip') out.points = picks.map((p) => p.pointMm);
  if (operation.name === 'keep-pieces' && picks.length > 0) out.at = picks.map((p) => p.pointMm);
  if (operation.name === 'scale') {
    const lengths = sentLengths((out.lengths as Lengths | undefined) ?? NO_LENGTHS, picks);
    if (lengths.length > 0) out.lengths = lengths;
    else delete out.lengths;
  }
  if (operation.name === 'engrave' && picks.length > 0) out.at = { point: picks[picks.length - 1]?.pointMm };
  if (operation.name === 'frame-from-points') out.points = picks.map((p) => p.pointMm);
  if (operation.name === 'turn' && picks.length > 0) {
    out.level = picks.map((p) => p.pointMm);
    delete out.angle;
  }
  if (operation.name === 'move' && picks[0]) out.about = picks[0].pointMm;
  if (operation.name === 'pair-points' || (operation.name === 'place' && values.start === 'pairs')) {
    out.pairs = picks.flatMap((p, k) => (k % 2 === 1 ? [{ from: picks[k - 1]?.pointMm, to: p.pointMm }] : []));
  }
  if (operation.name === 'place' && values.start !== 'datums') delete out.datums;
  if (operation.parameters.some((p) => p.picks === 'locked')) {
    delete out.locked;
    if (locked.length > 0) out.locked = locked;
  }
  if (cropBox && operation.parameters.some((p) => p.picks === 'box')) out.box = { ...cropBox };
  if (selection.length > 0 && operation.parameters.some((p) => p.picks === 'selection')) out.selection = selection.map(({ target, ranges }) => ({ target, ranges }));
  return out;
}

/** A frame is kept as it is set, or as a body had it; nothing is picked for it. */
const frameToKeep = ({ name, kind, frameOf }: Record<string, unknown>) => ({ name, kind, ...(frameOf ? { frameOf } : {}) });

/** A datum made of others, as the server takes it. */
export interface Construction {
  how: string;
  of: string[];
  by?: number;
  /** mm */
  shift?: [number, number, number];
}

/** What a fitted datum keeps to, as the server takes it (FitConstraint.php). */
export interface Hold {
  how?: 'parallel' | 'square' | 'angle' | undefined;
  to?: string | undefined;
  angle?: number | undefined;
  through?: string | undefined;
  diameter?: number | undefined;
}

/** A datum in numbers, with what other kinds have too: it stays when the kind is changed. */
export interface Typed {
  origin: [number, number, number];
  direction: [number, number, number];
  diameter?: number | undefined;
  halfAngle?: number | undefined;
}

export const NO_TYPED: Typed = { origin: [0, 0, 0], direction: [0, 0, 1] };

/** What a kind of datum has of the typed numbers. */
function typedToSend(kind: string, { origin, direction, diameter, halfAngle }: Typed): Partial<Typed> {
  return {
    origin,
    ...(kind === 'point' || kind === 'sphere' ? {} : { direction }),
    ...(kind === 'cylinder' || kind === 'sphere' || kind === 'cone' ? { diameter } : {}),
    ...(kind === 'cone' ? { halfAngle } : {}),
  };
}

function lackingNumbers(typed: Partial<Typed>): string | null {
  if (typed.direction?.every((v) => v === 0)) return 'Type a direction: not all three can be 0.';
  if ('diameter' in typed && !typed.diameter) return 'Type the diameter.';
  return 'halfAngle' in typed && !typed.halfAngle ? 'Type the angle.' : null;
}


/** How many picks a kind is made of: the fewest places that fix it; a round area spreads from one click. */
const PLACES: Record<string, number> = { plane: 3, line: 2, sphere: 4 };

function lackingPicks(kind: string, picked: number): string | null {
  const places = PLACES[kind];
  if (picked === 0) return kind === 'line' ? 'Click two places that the line goes through.' : 'Click a place on the part.';
  if (kind === 'line') return picked < 2 ? 'Pick 1 more point.' : null;
  if (picked === 1) return null;
  if (kind === 'point') return 'A point is one place; press Backspace to take the last one back.';
  if (places === undefined) return null;
  const more = places - picked;
  return more > 0 ? `Pick ${more} more ${more === 1 ? 'point' : 'points'}, or press Backspace to spread from one click.` : null;
}

/** Ways of making a datum from a single other. */
const OF_ONE: ReadonlySet<string> = new Set(['offset', 'axis', 'centre', 'copy']);

function lackingParents(construct: Construction | undefined): string | null {
  if (!construct?.how) return 'Choose how it is made.';
  if (construct.of.length === 0) return 'Choose the datums it is made of.';
  if (construct.of.length === 1 && !OF_ONE.has(construct.how)) return 'Choose one more datum at least.';
  if (construct.how === 'copy' && construct.of.length > 1) return 'A copy is made of one datum.';
  return construct.how === 'offset' && !construct.by ? 'Type how far it is from the plane.' : null;
}

/** A name that no datum has yet: its kind and a number. */
export function freeName(kind: string, datums: readonly { id: string; name: string }[]): string {
  const word = kind.charAt(0).toUpperCase() + kind.slice(1);
  for (let n = 1; ; n++) {
    if (datums.every((d) => d.name !== `${word} ${n}` && d.id !== `${word} ${n}`)) return `${word} ${n}`;
  }
}

/** What to say of a parameter that is chosen from a list, and is not. */
const CHOSEN: Readonly<Record<string, string>> = { plane: 'Choose a plane.', axis: 'Choose an axis.', mesh: 'Choose the other body.' };

/** What is missing before the operation can run, in words; null when nothing is. */
export function lacking(operation: OperationInfo, sent: Record<string, unknown>, { picks, selection, datumBy, data, bodies: worked }: Omit<Gestures, 'locked' | 'cropBox'> & { data: ProjectState }): string | null {
  const { passes, bodies, datums } = data.snapshot;
  if (operation.needs === 'passes' && passes.length === 0) return 'Bring in a pass first.';
  if (operation.needs === 'meshes' && !bodies.some((b) => b.kind === 'mesh')) return 'There is no mesh yet: fuse the passes first.';
  if (operation.name === 'fill-holes' && (worked ?? bodies).every((b) => b.figures?.holeCount === 0)) return 'Every rim is closed already.';
  if (operation.name === 'register' && passes.length < 2) return 'Bring in a second pass.';
  if (operation.parameters.some((p) => p.picks === 'shapes' && sent[p.name] === undefined)) return 'Choose shapes in the list under Lighten first.';
  if (operation.parameters.some((p) => p.picks === 'selection' && p.required) && selection.length === 0) return 'Select what is meant: draw around it, or click a piece.';
  if (operation.name === 'crop' && sent.box === undefined) return 'Bring in a pass or a body first.';
  if (operation.name === 'place' && (!sent.moving || !sent.onto)) return 'Choose what moves, and what it is placed on.';
  if (operation.name === 'place' && sent.moving === sent.onto) return 'It cannot be placed on itself; choose another.';
  if (operation.name === 'place' && sent.start === 'datums') {
    const lack = lackingDatumPairs(sent.datums as DatumPair[] | undefined);
    if (lack) return lack;
  }
  if (operation.name === 'move' && !sent.moving) return 'Choose what moves.';
  if (operation.name === 'move' && ['shiftX', 'shiftY', 'shiftZ', 'turnX', 'turnY', 'turnZ'].every((k) => !sent[k])) return 'Drag a handle, or type by how much it should move.';
  if (operation.name === 'apply-fixture' && !sent.fixture) return 'Choose a fixture, or open the file of one.';
  if (['match', 'match-markers'].includes(operation.name) && passes.length < 2) return 'Bring in a second pass.';
  if (operation.name === 'pair-points' || (operation.name === 'place' && sent.start === 'pairs')) {
    if (!sent.moving) return 'Choose the pass that moves.';
    const pairs = Math.floor(picks.length / 2);
    if (pairs < 3) return `Pick ${3 - pairs} more ${pairs === 2 ? 'pair' : 'pairs'}: a place on what moves, then the same place on what stays.`;
  }
  if (operation.name === 'add-datum') {
    const lack = sent.kind === 'frame' ? null : datumBy === 'datums' ? lackingParents(sent.construct as Construction | undefined) : datumBy === 'typed' ? lackingNumbers(sent.typed as Partial<Typed>) : datumBy === 'shape' ? (sent.kind === 'plane' || sent.kind === 'line' ? null : 'Choose plane for the mirror of the shape, or line for its axis.') : datumBy === 'brush' ? (selection.length === 0 ? 'Brush over the surface, or draw around it.' : null) : lackingPicks(String(sent.kind), picks.length);
    if (lack) return lack;
    if (datums.some((d) => d.name === sent.name)) return 'There is a datum of that name; choose another.';
  }
  if (operation.name === 'frame-from-points' && picks.length !== 3) return picks.length > 3 ? 'Three places are enough; press Backspace to take the last one back.' : ['Click where the origin shall be.', 'Click a place towards which X shall point.', 'Click a place on the side of Y.'][picks.length] ?? null;
  if (operation.name === 'turn' && picks.length > 2) return 'Two places are enough; press Backspace to take the last one back.';
  if (operation.name === 'turn' && !sent.angle && !sent.level) return 'Drag a handle, or type by how much to turn.';
  if (operation.name === 'shift' && ![sent.x, sent.y, sent.z].some(Boolean)) return 'Drag a handle, or type by how much to shift.';
  if (operation.name === 'set-frame') {
    if (datums.length === 0) return 'Add a datum first: the frame is set by datums.';
    if (!sent.first) return 'Choose the first datum.';
  }
  if (operation.name === 'decimate' && [sent.ratio, sent.faces, sent.deviation].filter((v) => v !== undefined).length !== 1) return 'Fill in one of share, faces and deviation.';
  if (operation.name === 'remesh' && [sent.edge, sent.faces].filter((v) => v !== undefined).length !== 1) return 'Fill in one of edge and faces.';
  if (operation.name === 'fill-holes' && Array.isArray(sent.rims) && sent.rims.length === 0 && sent.leaveOpen === undefined) return 'Choose a rim to close, or one to leave open.';
  if (operation.name === 'engrave' && picks.length === 0) return 'Click the surface where the middle of the text shall be.';
  if (operation.name === 'fill-part' && picks.length !== 3) return picks.length > 3 ? 'Three places are enough; press Backspace to take the last one back.' : ['Click the rim where the part begins.', 'Click the same rim where the part ends.', 'Click the rim in the middle of the side to close.'][picks.length] ?? null;
  if (operation.name === 'lay-strip' && picks.length !== 4) return picks.length > 4 ? 'Four places are enough; press Backspace to take the last one back.' : ['Click the rim where the strip begins on one side.', 'Click the same rim, as far on as the strip is wide.', 'Click across the hole where the strip shall arrive.', 'Click the other end of its arrival.'][picks.length] ?? null;
  if (operation.name === 'keep-pieces' && [sent.largest, sent.minArea, sent.at].filter((v) => v !== undefined).length !== 1) return 'Click the pieces to keep, or fill in one of the two.';
  if (operation.name === 'scale' && picks.length % 2 === 1) return 'Click the other end of the length.';
  if (operation.name === 'scale' && Array.isArray(sent.lengths)) {
    const open = sent.lengths.findIndex((l: { actual?: number }) => !l.actual);
    if (open >= 0) return `Type what length ${open + 1} is on the real part.`;
    if ([sent.factor, sent.measured, sent.actual].some((v) => v !== undefined)) return 'Give a factor or lengths, not both.';
    return null;
  }
  if (operation.name === 'scale' && sent.factor === undefined && (sent.measured === undefined || sent.actual === undefined)) return 'Click both ends of a known length, or type a factor.';
  if (operation.name === 'measure') {
    const wanted = datumsOf(String(sent.kind));
    const given = (sent.of as unknown[] | undefined)?.length ?? 0;
    if (given < wanted && datums.length === 0) return 'Add a datum first: what is measured lies between datums.';
    if (given < wanted) return wanted === 2 ? 'Choose two datums to measure between.' : 'Choose the datum that is measured.';
    if (sent.nominal === undefined && (sent.plus !== undefined || sent.minus !== undefined)) return 'Say what it should be, or leave out what is allowed.';
  }
  if (operation.parameters.some((p) => p.picks === 'mesh') && bodies.filter((b) => b.kind === 'mesh').length < 2) return 'There is no other body: bring one in, or make a simple body.';
  // A plane may be left out only where it is of no use.
  const missing = operation.parameters.find((p) => sent[p.name] === undefined && (p.picks === 'plane' ? isOfUse(p, sent) : p.required && (!p.picks || p.picks in CHOSEN)));
  return missing ? (CHOSEN[missing.picks ?? ''] ?? `Fill in: ${missing.label.toLowerCase()}.`) : null;
}
