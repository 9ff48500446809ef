import { describe, expect, it } from 'vitest';
import { FAMILIES, faultMarks, repairedAs, turned } from './faults';

const family = (name: string, places: number) => ({ family: name, count: places, more: 0, places: Array.from({ length: places }, (_, k) => ({ centre: [k, 0, 0] as [number, number, number], sizeMm: 1, count: 1 })) });

describe('faults', () => {
  it('are told apart by letter, not by colour alone', () => {
    const glyphs = Object.values(FAMILIES).map((f) => f.glyph);
    expect(new Set(glyphs).size).toBe(glyphs.length);
  });
  it('are gone through round and round', () => {
    expect([turned(null, 1, 3), turned(0, 1, 3), turned(2, 1, 3), turned(0, -1, 3), turned(null, -1, 3)]).toEqual([0, 1, 0, 2, 2]);
  });
  it('share the room in the view', () => {
    const marks = faultMarks([family('spikes', 300), family('openEdges', 2), { ...family('unknown', 5) }], 9);
    expect(marks.filter((m) => m.text === 'S')).toHaveLength(3);
    expect(marks.filter((m) => m.text === 'O')).toHaveLength(2);
    expect(marks).toHaveLength(5);
    expect(faultMarks([])).toEqual([]);
  });
  it('are repaired under the key of the step', () => {
    expect(repairedAs('pinHoles')).toBe('openEdges');
    expect(repairedAs('spikes')).toBe('spikes');
  });
});
