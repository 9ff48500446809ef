import { describe, expect, it } from 'vitest';
import { aDatum, aMesh, anOperation, aParameter, aPass, aProject } from '../../test/project';
import type { Hit } from '../../tools/events';
import { NO_RIM_GESTURE, type RimGesture } from '../../tools/rims/closing';
import type { Selection } from '../../viewport/marks';
import type { DatumBy } from '../../state/view/store';
import { freeName } from '../../operations/add-datum/datum';
import { moduleOf } from '../../operations';
import { lacking, parametersToSend } from './request';

const pick = (x: number): Hit => ({ pointMm: [x, 0, 0] }) as unknown as Hit;
const none = { picks: [], selection: [], locked: [], cropBox: null, datumBy: 'click' as const, rims: NO_RIM_GESTURE };
const outline = [{ target: 'p', ranges: [[0, 4]], count: 5, of: 9, name: 'p' }] as unknown as Selection[];

describe('what is sent', () => {
  const fuse = anOperation('smooth', 'mend', { parameters: [aParameter('voxel'), aParameter('closeHoles'), aParameter('name')] });
  it('leaves out what is empty', () => {
    expect(parametersToSend(fuse, { voxel: 0.8, closeHoles: '', name: null }, none)).toEqual({ voxel: 0.8 });
    expect(parametersToSend(fuse, { voxel: 0 }, none)).toEqual({ voxel: 0 });
  });
  it('is as light as the brief asks, unless a share or a deviation is said', () => {
    const decimate = anOperation('decimate', 'lighten', { parameters: [aParameter('ratio'), aParameter('faces'), aParameter('deviation')] });
    expect(parametersToSend(decimate, { faces: 60000 }, none)).toEqual({ faces: 60000 });
    expect(parametersToSend(decimate, { faces: 60000, ratio: 0.2 }, none)).toEqual({ ratio: 0.2 });
    const { project, snapshot } = aProject({ bodies: [{ ...aMesh('b'), faces: 61000 }] });
    expect(moduleOf('decimate').beginsWith?.(snapshot, project.brief)).toEqual({ faces: 60000 });
    expect(moduleOf('decimate').beginsWith?.(snapshot, { ...project.brief, faceBudget: 70000 })).toEqual({});
  });
  it('keeps the largest piece, unless a least area or clicks say which stay', () => {
    const keep = anOperation('keep-pieces', 'mend', { parameters: [aParameter('largest'), aParameter('minArea'), aParameter('at')] });
    expect(parametersToSend(keep, { largest: 1 }, none)).toEqual({ largest: 1 });
    expect(parametersToSend(keep, { largest: 1, minArea: 4 }, none)).toEqual({ minArea: 4 });
    expect(parametersToSend(keep, { largest: 1, minArea: 4 }, { ...none, picks: [pick(1)] })).toEqual({ at: [[1, 0, 0]] });
  });
  it.each(['none', 'all', 12.5])('holes to close: %s', (chosen) => {
    expect(parametersToSend(fuse, { closeHoles: chosen }, none).closeHoles).toBe(chosen);
  });
  it('knows nothing of fields the operation does not have', () => {
    expect(parametersToSend(fuse, { surprise: 1 }, none)).toEqual({});
  });

  const datum = anOperation('add-datum', 'orient', { parameters: [aParameter('name'), aParameter('kind')] });
  it('spreads a plane from one click, lays it through three', () => {
    expect(parametersToSend(datum, { kind: 'plane' }, { ...none, picks: [pick(1)] })).toEqual({ kind: 'plane', seed: [1, 0, 0] });
    expect(parametersToSend(datum, { kind: 'plane' }, { ...none, picks: [pick(1), pick(2), pick(3)] }).points).toEqual([
      [1, 0, 0],
      [2, 0, 0],
      [3, 0, 0],
    ]);
  });
  it('fits brushed surface, and makes datums of others whose kinds decide', () => {
    expect(parametersToSend(datum, { kind: 'cylinder' }, { ...none, datumBy: 'brush', picks: [pick(1)], selection: outline })).toEqual({ kind: 'cylinder', region: [{ target: 'p', ranges: [[0, 4]], of: 9 }] });
    const made = anOperation('add-datum', 'orient', { parameters: [aParameter('kind'), aParameter('construct', { picks: 'construct' })] });
    const construct = { how: 'offset', of: ['base'], by: 12 };
    expect(parametersToSend(made, { kind: 'plane', construct }, { ...none, datumBy: 'datums', picks: [pick(1)] })).toEqual({ construct });
    expect(parametersToSend(made, { kind: 'plane', construct }, { ...none, picks: [pick(1)] })).toEqual({ kind: 'plane', seed: [1, 0, 0] });
  });
  it('lays datums on datums only where a place starts by them', () => {
    const place = anOperation('place', 'register', { parameters: [aParameter('moving'), aParameter('start'), aParameter('datums', { picks: 'datumPairs' })] });
    const datums = [{ from: 'base', to: 'top' }];
    expect(parametersToSend(place, { moving: 'm', start: 'datums', datums }, none)).toEqual({ moving: 'm', start: 'datums', datums });
    expect(parametersToSend(place, { moving: 'm', start: 'shape', datums }, none)).toEqual({ moving: 'm', start: 'shape' });
  });
  it('sends what is selected only where something goes by it, and asks for it there', () => {
    const compare = anOperation('compare', 'deliver', {
      parameters: [aParameter('to'), aParameter('bestFit'), aParameter('fitBy', { with: [{ name: 'bestFit', value: true }] }), aParameter('selection', { picks: 'selection', with: [{ name: 'fitBy', value: 'selection' }] })],
    });
    const fit = { to: 'passes', bestFit: true, fitBy: 'selection' };
    expect(parametersToSend(compare, fit, { ...none, selection: outline })).toEqual({ ...fit, selection: [{ target: 'p', ranges: [[0, 4]], of: 9 }] });
    expect(parametersToSend(compare, { ...fit, fitBy: 'all' }, { ...none, selection: outline })).not.toHaveProperty('selection');
    const asked = { ...none, data: aProject({ bodies: [aMesh('b')] }) };
    expect(lacking(compare, fit, asked)).toContain('Select what the fit goes by');
    expect(lacking(compare, { to: 'earlier' }, asked)).toContain('Choose the step');
    expect(lacking(compare, { ...fit, fitBy: 'datums' }, asked)).toContain('two bodies');
    expect(lacking(compare, { ...fit, fitBy: 'datums', to: 'other' }, asked)).toContain('Choose a datum');
    expect(lacking(compare, { to: 'shapes', bestFit: true }, asked)).toContain('leave out the best fit');
    expect(lacking(compare, { to: 'passes' }, asked)).toBeNull();
  });
  it('joins further areas of a round shape', () => {
    expect(parametersToSend(datum, { kind: 'cylinder' }, { ...none, picks: [pick(1), pick(2)] })).toEqual({ kind: 'cylinder', seed: [1, 0, 0], also: [[2, 0, 0]] });
    expect(parametersToSend(datum, { kind: 'line' }, { ...none, picks: [pick(1)] })).toEqual({ kind: 'line', points: [[1, 0, 0]] });
  });
  it('keeps to something only where a shape is fitted', () => {
    const held = anOperation('add-datum', 'orient', { parameters: [...datum.parameters, aParameter('hold', { picks: 'hold' }), aParameter('typed', { picks: 'typed' })] });
    const hold = { how: 'square', to: 'Base' };
    expect(parametersToSend(held, { kind: 'plane', hold }, { ...none, picks: [pick(1)] })).toMatchObject({ seed: [1, 0, 0], hold });
    expect(parametersToSend(held, { kind: 'plane', hold }, { ...none, picks: [1, 2, 3].map(pick) })).not.toHaveProperty('hold');
    expect(parametersToSend(held, { kind: 'plane', hold }, { ...none, datumBy: 'brush', selection: outline })).toHaveProperty('hold');
  });
  it('sends of typed numbers what the kind has', () => {
    const typed = { origin: [1, 2, 3] as [number, number, number], direction: [0, 0, 1] as [number, number, number], diameter: 4 };
    const send = (kind: string, more = {}) => parametersToSend(anOperation('add-datum', 'orient', { parameters: [aParameter('kind'), aParameter('typed', { picks: 'typed' })] }), { kind, typed: { ...typed, ...more } }, { ...none, datumBy: 'typed' }).typed;
    expect(send('point')).toEqual({ origin: [1, 2, 3] });
    expect(send('plane')).toEqual({ origin: [1, 2, 3], direction: [0, 0, 1] });
    expect(send('sphere')).toEqual({ origin: [1, 2, 3], diameter: 4 });
  });
  it('takes a point as it was clicked', () => {
    expect(parametersToSend(datum, { kind: 'point' }, { ...none, picks: [pick(1)] })).toEqual({ kind: 'point', points: [[1, 0, 0]] });
  });

  const pairs = anOperation('pair-points', 'register', { parameters: [aParameter('moving'), aParameter('pairs', { picks: 'pairs' })] });
  it('pairs picks in their order and leaves a half pair out', () => {
    const sent = parametersToSend(pairs, { moving: 'p' }, { ...none, picks: [1, 2, 3, 4, 5].map(pick) });
    expect(sent.pairs).toEqual([
      { from: [1, 0, 0], to: [2, 0, 0] },
      { from: [3, 0, 0], to: [4, 0, 0] },
    ]);
  });
  it('adds the selection without its counts', () => {
    expect(parametersToSend(anOperation('cut-away', 'gather', { parameters: [aParameter('selection', { picks: 'selection' })] }), {}, { ...none, selection: outline })).toEqual({ selection: [{ target: 'p', ranges: [[0, 4]], of: 9 }] });
    expect(parametersToSend(anOperation('thin', 'gather'), {}, { ...none, selection: outline })).toEqual({});
    const box = { centre: [0, 0, 0], size: [1, 2, 3], turn: [0, 0, 90] } as const;
    expect(parametersToSend(anOperation('crop', 'gather', { parameters: [aParameter('box', { picks: 'box' })] }), {}, { ...none, cropBox: box })).toEqual({ box });
  });
  it('names locked passes only to operations that may not move them', () => {
    const register = anOperation('register', 'register', { parameters: [aParameter('locked', { picks: 'locked' })] });
    expect(parametersToSend(register, { locked: ['old'] }, { ...none, locked: ['p'] })).toEqual({ locked: ['p'] });
    expect(parametersToSend(register, { locked: ['old'] }, none)).toEqual({});
    expect(parametersToSend(fuse, {}, { ...none, locked: ['p'] })).toEqual({});
  });
});

describe('a name nobody has yet', () => {
  it.each([
    [[], 'Plane 1'],
    [['Plane 1', 'Boss'], 'Plane 2'],
    [['Plane 2'], 'Plane 1'],
  ])('beside %j', (taken, name) => expect(freeName('plane', taken.map(aDatum))).toBe(name));
});

describe('what is measured', () => {
  it('is sent for as many datums as the kind takes', () => {
    const measure = anOperation('measure', 'deliver', { parameters: [aParameter('kind'), aParameter('of', { picks: 'measured' })] });
    const of = (kind: string) => parametersToSend(measure, { kind, of: ['a', 'b'] }, none).of;
    expect([of('distance'), of('diameter'), of('volume')]).toEqual([['a', 'b'], ['a'], undefined]);
  });
  it('is a datum and a click with what was fitted there, or a place into the wall', () => {
    const measure = anOperation('measure', 'deliver', { parameters: [aParameter('kind'), aParameter('of', { picks: 'measured' })] });
    const sent = (kind: string, values: object, ...picks: Hit[]) => parametersToSend(measure, { kind, ...values }, { ...none, picks }).of;
    expect(sent('distance', { of: ['a'], found: ['plane'] }, pick(1))).toEqual(['a', { at: [1, 0, 0], fit: 'plane' }]);
    expect(sent('diameter', { found: ['cylinder', 'plane'] }, pick(1), pick(2))).toEqual([{ at: [1, 0, 0], fit: 'cylinder' }]);
    expect(sent('wall', { found: ['plane'] }, pick(1))).toEqual([[1, 0, 0]]);
  });
});

describe('what is missing, in words', () => {
  const lack = (name: string, sent: Record<string, unknown> = {}, more: { picks?: Hit[]; selection?: Selection[]; datumBy?: DatumBy; rims?: RimGesture; needs?: 'passes' | 'meshes' | 'any' | 'bodies' | 'nothing'; data?: Parameters<typeof aProject>[0]; parameters?: ReturnType<typeof aParameter>[] } = {}) =>
    lacking(anOperation(name, 'any', { needs: more.needs ?? 'nothing', parameters: more.parameters ?? [] }), sent, { picks: more.picks ?? [], selection: more.selection ?? [], datumBy: more.datumBy ?? 'click', rims: more.rims ?? NO_RIM_GESTURE, data: aProject(more.data) });

  it('something to work on at all', () => {
    expect(lack('confirm-scale', {}, { needs: 'any' })).toBe('Bring in a pass or a body first.');
    expect(lack('add-datum', {}, { needs: 'bodies', data: { passes: [aPass('a')] } })).toContain('There is no body yet');
  });
  it('passes and meshes', () => {
    expect(lack('drop-base', {}, { needs: 'passes' })).toBe('Bring in a pass first.');
    expect(lack('repair', {}, { needs: 'meshes' })).toContain('fuse the passes first');
    expect(lack('repair', {}, { needs: 'meshes', data: { bodies: [aMesh('m')] } })).toBeNull();
    expect(lack('register', {}, { needs: 'passes', data: { passes: [aPass('a')] } })).toBe('Bring in a second pass.');
    expect(lack('register', {}, { needs: 'passes', data: { passes: [aPass('a'), aPass('b')] } })).toBeNull();
  });
  it('what is measured', () => {
    const data = { datums: [aDatum('Base'), aDatum('Top')] };
    expect(lack('measure', { kind: 'distance' })).toBe('Click what is measured on the part, or choose two datums.');
    expect(lack('measure', { kind: 'distance', of: ['Base'] }, { data })).toBe('Click the second place, or choose a second datum.');
    expect(lack('measure', { kind: 'diameter' }, { data })).toBe('Click what is measured on the part, or choose a datum.');
    expect(lack('measure', { kind: 'diameter', of: [{ at: [1, 0, 0], fit: undefined }] }, { data, picks: [pick(1)] })).toBe('Looking at what was clicked.');
    expect(lack('measure', { kind: 'volume' })).toBeNull();
    expect(lack('measure', { kind: 'volume', plus: 1 })).toBe('Say what it should be, or leave out what is allowed.');
  });
  it('what is chosen from a list', () => {
    const parameters = [aParameter('with', { picks: 'mesh', required: true }), aParameter('axis', { picks: 'axis', required: true })];
    expect(lack('take-away', {}, { parameters, data: { bodies: [aMesh('a')] } })).toBe('There is no other body: bring one in, or make a simple body.');
    const data = { bodies: [aMesh('a'), aMesh('b')] };
    expect(lack('take-away', {}, { parameters, data })).toBe('Choose the other body.');
    expect(lack('take-away', { with: 'b' }, { parameters, data })).toBe('Choose an axis.');
    expect(lack('take-away', { with: 'b', axis: 'Z' }, { parameters, data })).toBeNull();
  });
  it('rims to fill', () => {
    expect(lack('fill-holes', {}, { data: { bodies: [aMesh('m', 0)] } })).toBe('Every rim is closed already.');
    expect(lack('fill-holes', {}, { data: { bodies: [aMesh('m', 0), aMesh('n', 2)] } })).toBeNull();
  });
  it('a selection', () => {
    const parameters = [aParameter('selection', { picks: 'selection', required: true })];
    expect(lack('cut-away', {}, { parameters })).toContain('Select what is meant');
    expect(lack('cut-away', {}, { parameters, selection: outline })).toBeNull();
  });
  it.each([
    [0, '3 more pairs'],
    [3, '2 more pairs'],
    [4, '1 more pair:'],
    [6, null],
  ])('%i picks of pairs', (n, words) => {
    const said = lack('pair-points', { moving: 'p' }, { picks: Array.from({ length: n }, (_, k) => pick(k)) });
    if (words === null) expect(said).toBeNull();
    else expect(said).toContain(words);
  });
  it('a pair of datums to place by', () => {
    expect(lack('place', { moving: 'm', onto: 'n', start: 'datums' })).toMatch(/^Choose a datum of what moves/);
    expect(lack('place', { moving: 'm', onto: 'n', start: 'datums', datums: [{ from: 'base', to: 'top' }] })).toBeNull();
  });
  it('the pass that moves', () => expect(lack('pair-points')).toBe('Choose the pass that moves.'));
  it.each([
    ['plane', 0, 'Click a place'],
    ['plane', 2, '1 more point'],
    ['cylinder', 0, 'Click a place'],
    ['cylinder', 2, null],
    ['plane', 1, null],
    ['plane', 3, null],
    ['point', 1, null],
    ['point', 2, 'one place'],
    ['line', 1, '1 more point'],
    ['line', 2, null],
    ['sphere', 2, '2 more points'],
    ['sphere', 4, null],
  ])('a %s with %i picks', (kind, n, words) => {
    const said = lack('add-datum', { kind, name: 'Bore' }, { picks: Array.from({ length: n }, (_, k) => pick(k)) });
    if (words === null) expect(said).toBeNull();
    else expect(said).toContain(words);
  });
  it('typed numbers', () => {
    const typed = (kind: string, more: object) => lack('add-datum', { name: 'New', kind, typed: { origin: [1, 2, 3], direction: [0, 0, 1], ...more } }, { datumBy: 'typed' });
    expect(typed('plane', {})).toBeNull();
    expect(typed('plane', { direction: [0, 0, 0] })).toContain('direction');
    expect(typed('cylinder', { diameter: undefined })).toContain('diameter');
    expect(typed('cone', { diameter: 3, halfAngle: undefined })).toContain('angle');
  });
  it('a way, parents and a distance for a datum made of others', () => {
    const made = (construct?: object) => lack('add-datum', { name: 'Half', ...(construct ? { construct } : {}) }, { datumBy: 'datums' });
    expect(made()).toBe('Choose how it is made.');
    expect(made({ how: 'halfway', of: [] })).toContain('Choose the datums');
    expect(made({ how: 'halfway', of: ['base'] })).toContain('one more datum');
    expect(made({ how: 'axis', of: ['bore'] })).toBeNull();
    expect(made({ how: 'offset', of: ['base'] })).toContain('how far');
    expect(made({ how: 'halfway', of: ['base', 'top'] })).toBeNull();
    expect(lack('add-datum', { name: 'Half' }, { datumBy: 'brush' })).toContain('Brush over');
  });
  it.each([
    [0, 'origin'],
    [1, 'X'],
    [2, 'Y'],
    [3, null],
    [4, 'Backspace'],
  ])('a frame from %i places', (n, words) => {
    const said = lack('frame-from-points', {}, { picks: Array.from({ length: n }, (_, k) => pick(k)) });
    if (words === null) expect(said).toBeNull();
    else expect(said).toContain(words);
  });
  it('the middle of a text is the last click', () => {
    expect(lack('engrave', { text: 'B7' }, { data: { bodies: [aMesh('b')] } })).toContain('Click the surface');
    expect(lack('engrave', { text: 'B7' }, { picks: [pick(1)], data: { bodies: [aMesh('b')] } })).toBeNull();
    expect(parametersToSend(anOperation('engrave', 'deliver', { parameters: [aParameter('at', { picks: 'points' })] }), {}, { ...none, picks: [pick(4), pick(5)] })).toEqual({ at: { point: [5, 0, 0] } });
  });
  it('a rim to close or to leave open', () => {
    expect(lack('fill-holes', { rims: [] }, { data: { bodies: [aMesh('b', 2)] } })).toContain('Choose a rim');
    expect(lack('fill-holes', { rims: [], leaveOpen: [[0, 0, 0]] }, { data: { bodies: [aMesh('b', 2)] } })).toBeNull();
    expect(lack('fill-holes', { rims: [], parts: [{}] }, { data: { bodies: [aMesh('b', 2)] } })).toBeNull();
    const place = { rim: 'a', corner: 0, pointMm: [0, 0, 0] as const };
    expect(lack('fill-holes', {}, { data: { bodies: [aMesh('b', 2)] }, rims: { ...NO_RIM_GESTURE, pending: { from: place, to: { ...place, corner: 3 } } } })).toContain('A stretch waits');
  });
  it('no selection where it only narrows', () => {
    const smooth = (required: boolean) => lacking(anOperation('smooth', 'mend', { parameters: [aParameter('selection', { picks: 'selection', required })] }), {}, { ...none, data: aProject({ bodies: [aMesh('b')] }) });
    expect(smooth(false)).toBeNull();
    expect(smooth(true)).toContain('Select what is meant');
  });
  it('a name of its own for a datum', () => {
    expect(lack('add-datum', { kind: 'point', name: 'Bore' }, { picks: [pick(0)], data: { datums: [aDatum('Bore')] } })).toContain('choose another');
  });
  it('datums for a frame', () => {
    expect(lack('set-frame')).toContain('Add a datum first');
    expect(lack('set-frame', {}, { data: { datums: [aDatum('Base')] } })).toBe('Choose the first datum.');
    expect(lack('set-frame', { first: 'Base' }, { data: { datums: [aDatum('Base')] } })).toBeNull();
  });
  it('exactly one measure of lightness', () => {
    expect(lack('decimate')).toContain('one of share');
    expect(lack('decimate', { ratio: 0.1, faces: 100 })).toContain('one of share');
    expect(lack('decimate', { deviation: 0.1 })).toBeNull();
    expect(lack('remesh')).toContain('one of edge');
    expect(lack('remesh', { edge: 1, faces: 100 })).toContain('one of edge');
    expect(lack('remesh', { edge: 1 })).toBeNull();
    expect(lack('keep-pieces', { largest: 1, minArea: 2 })).toContain('fill in one of the two');
    expect(lack('keep-pieces', { at: [[0, 0, 0]] })).toBeNull();
    expect(lack('keep-pieces', { largest: 1 })).toBeNull();
  });
  it('a factor or two lengths', () => {
    expect(lack('scale', { measured: 10 })).toContain('type a factor');
    expect(lack('scale', { measured: 10, actual: 11 })).toBeNull();
    expect(lack('scale', { factor: 2 })).toBeNull();
  });
  it('the other end and the truth of a known length', () => {
    const scale = anOperation('scale', 'orient', { parameters: [aParameter('factor'), aParameter('lengths', { picks: 'lengths' })] });
    const sent = parametersToSend(scale, { lengths: { picked: [51], between: [{ from: 'base', to: 'top' }] } }, { ...none, picks: [pick(0), pick(50), pick(1)] });
    expect(sent).toEqual({
      lengths: [
        { from: [0, 0, 0], to: [50, 0, 0], actual: 51 },
        { from: 'base', to: 'top' },
      ],
    });
    expect(parametersToSend(scale, { factor: 2, lengths: { picked: [51], between: [] } }, none)).toEqual({ factor: 2 });
    expect(lack('scale', sent, { picks: [pick(0), pick(50), pick(1)] })).toContain('the other end');
    expect(lack('scale', sent, { picks: [pick(0), pick(50)] })).toBe('Type what length 2 is on the real part.');
    const whole = { lengths: [{ actual: 51 }, { actual: 80 }] };
    expect(lack('scale', whole)).toBeNull();
    expect(lack('scale', { ...whole, factor: 2 })).toContain('not both');
  });
  it('fields that must be filled in, by their labels', () => {
    const parameters = [aParameter('voxel', { required: true, label: 'Voxel' })];
    expect(lack('fuse', {}, { parameters })).toBe('Fill in: voxel.');
    expect(lack('fuse', { voxel: 1 }, { parameters })).toBeNull();
  });
});
