import { readdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { describe, expect, it } from 'vitest';
import { moduleNames, moduleOf } from './index';

const HOME = 'resources/js';

/** Names of the catalogue, as the recipe's schema lists them. */
const catalogue: string[] = [...readFileSync('core/resources/recipe.schema.json', 'utf8').matchAll(/"op":\s*\{[^}]*?"const":\s*"([a-z-]+)"/g)].map((found) => found[1] ?? '');

const filesOf = (folder: string): string[] => readdirSync(folder, { withFileTypes: true }).flatMap((entry) => (entry.isDirectory() ? filesOf(join(folder, entry.name)) : /\.tsx?$/.test(entry.name) && !/\.test\./.test(entry.name) ? [join(folder, entry.name)] : []));

describe('the modules of operations', () => {
  it('are named as their folders and as the catalogue has them', () => {
    const folders = readdirSync(join(HOME, 'operations'), { withFileTypes: true }).filter((entry) => entry.isDirectory());
    expect(moduleNames().sort()).toEqual(folders.map((entry) => entry.name).sort());
    expect(catalogue.length).toBeGreaterThan(60);
    expect(moduleNames().filter((name) => !catalogue.includes(name))).toEqual([]);
  });

  it('leave an operation without one plain', () => {
    expect(moduleOf('smooth')).toEqual({ name: '' });
    expect(moduleOf(null)).toEqual({ name: '' });
  });

  it('are the one place where the window compares names of operations', () => {
    const compares = new RegExp(`(operation|\\bop|\\bopen|openOperation)(\\??\\.name)?\\s*[=!]==\\s*'|\\.(name|operation)\\s*[=!]==\\s*'(${catalogue.join('|')})'`);
    const found = filesOf(HOME)
      .filter((file) => !file.includes('/operations/') || file.includes('/features/operations/'))
      .flatMap((file) =>
        readFileSync(file, 'utf8')
          .split('\n')
          .flatMap((line, k) => (compares.test(line) ? [`${file}:${k + 1} ${line.trim()}`] : [])),
      );
    // The panel of live captures is opened like an operation, and is none.
    expect(found.filter((line) => !line.includes("'capture'"))).toEqual([]);
  });
});

describe('what modules say of a gesture', () => {
  it('names what is fused without its voxel, unless it is named', () => {
    const gestures = { picks: 0, values: {} } as never;
    expect(moduleOf('fuse').toSend?.({ voxel: 1 }, gestures)).toEqual({ voxel: 1, name: 'Fused' });
    expect(moduleOf('fuse').toSend?.({ voxel: 1, name: 'Cap' }, gestures)).toEqual({ voxel: 1, name: 'Cap' });
    expect(moduleOf('rebuild').toSend?.({ detail: 1 }, gestures)).toEqual({ detail: 1, name: 'Rebuilt' });
  });
  it('a datum of others takes no press, brushed surface takes a selection, a click what its parameters say', () => {
    const { presses } = moduleOf('add-datum');
    expect((['click', 'brush', 'datums', 'typed', 'shape'] as const).map((by) => presses?.(by, 'points'))).toEqual(['points', 'selection', null, null, null]);
  });

  it('the ends of lengths and pairs are numbered by twos', () => {
    expect(['pair-points', 'place', 'scale', 'turn'].map((name) => moduleOf(name).picksInPairs ?? false)).toEqual([true, true, true, false]);
    expect([0, 1].map((k) => moduleOf('pair-points').pickColour?.(k) ?? null)).toEqual([null, '#7fa8d9']);
  });

  it('handles move, turn and shift, and begin anew where a movement ended', () => {
    expect(['move', 'turn', 'shift', 'crop'].map((name) => moduleOf(name).handles ?? null)).toEqual(['move', 'turn', 'shift', null]);
    expect(moduleOf('move').startsAgain).toContain('shiftX');
    expect(moduleOf('crop').keepsGesture).toBe(true);
  });

  it('what is picked takes the place of what is typed', () => {
    const hides = (name: string, parameter: string, picks: number) => moduleOf(name).hides?.(parameter, { values: {}, picks, selected: 0, datumBy: 'click' }) ?? false;
    expect([hides('turn', 'angle', 0), hides('turn', 'angle', 1), hides('turn', 'about', 1), hides('scale', 'actual', 0)]).toEqual([false, true, false, true]);
  });

  it('a new datum has a free name of its kind', () => {
    const snapshot = { datums: [{ id: 'a', name: 'Plane 1' }] } as never;
    expect(moduleOf('add-datum').freeName?.({ kind: 'plane' }, { datumBy: 'click', snapshot })).toBe('Plane 2');
    expect(moduleOf('add-datum').freeName?.({ kind: 'line' }, { datumBy: 'datums', snapshot })).toBe('Datum 1');
  });
});
