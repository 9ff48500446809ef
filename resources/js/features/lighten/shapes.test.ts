import { describe, expect, it } from 'vitest';
import type { ArtefactItem, BodyItem } from '../../api/types';
import { facesOf, figureOf, type FoundShape, isCurrent, labelsOf, placed, scaleOf } from './shapes';

const shape = (kind: FoundShape['kind'], more: Partial<FoundShape> = {}): FoundShape => ({ id: 'shape-7', kind, direction: [0, 0, 1], radius: 15, halfAngle: 0, tube: 0, size: 10, place: [1, 2, 3], area: 4, faces: 5, rms: 0.01, ...more });
/** Twice as large, turned a quarter about Z, shifted. */
const artefact = { bodyId: 'b', surface: 'now', transform: [0, -2, 0, 100, 2, 0, 0, 0, 0, 0, 2, 5, 0, 0, 0, 1] } as unknown as ArtefactItem;

describe('shapes', () => {
  it('tells the shape of each face from 16 bits in base 64', () => {
    const labels = labelsOf({ labels: btoa('\x00\x00\x02\x00\x00\x01\x02\x00'), shapes: [] });
    expect([...labels]).toEqual([0, 2, 256, 2]);
    expect(facesOf(labels, 2)).toEqual([1, 3]);
  });

  it('measures in millimetres of the project, whatever the artefact was scaled by since', () => {
    expect(scaleOf(artefact)).toBeCloseTo(2, 12);
    expect(figureOf(shape('cylinder'), 2)).toBe('ø 60.00 mm');
    expect(figureOf(shape('cone', { halfAngle: 12.345 }), 1)).toBe('ø 30.00 mm, 12.35° to each side');
    expect(figureOf(shape('torus', { tube: 3 }), 1)).toBe('ø 30.00 mm, tube ø 6.00 mm');
    expect(figureOf(shape('plane'), 1)).toBe('');
    expect(placed(artefact, [1, 2, 3])).toEqual([96, 2, 11]);
  });

  it('speaks of the surface that it was found on alone', () => {
    expect(isCurrent(artefact, [{ id: 'b', blob: 'now' } as BodyItem])).toBe(true);
    expect(isCurrent(artefact, [{ id: 'b', blob: 'later' } as BodyItem])).toBe(false);
    expect(isCurrent(artefact, [{ id: 'other', blob: 'now' } as BodyItem])).toBe(false);
  });
});
