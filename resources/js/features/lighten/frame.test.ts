import { describe, expect, it } from 'vitest';
import { frameFrom } from './frame';
import type { FoundShape } from './shapes';

const shape = (id: string, kind: FoundShape['kind'], direction: [number, number, number]): FoundShape => ({ id, kind, direction, radius: 5, halfAngle: 0, tube: 0, size: 1, place: [0, 0, 0], area: 1, faces: 1, rms: 0 });
const ids = (shapes: readonly FoundShape[]) => frameFrom(shapes).map((s) => s.id);

describe('frameFrom', () => {
  it('stands a pedestal on its base, along its bore, from an end', () => {
    expect(ids([shape('boss', 'cylinder', [0, 1, 0]), shape('base', 'plane', [0, 0, -1]), shape('top', 'plane', [0, 0, 1]), shape('side', 'plane', [1, 0, 0]), shape('end', 'plane', [0.01, -1, 0])])).toEqual(['base', 'boss', 'end']);
  });

  it('takes sides of a box, each square to the others', () => {
    expect(ids([shape('top', 'plane', [0, 0, 1]), shape('slope', 'plane', [0, 0.7, 0.7]), shape('front', 'plane', [0, -1, 0]), shape('back', 'plane', [0, 1, 0]), shape('end', 'plane', [1, 0, 0])])).toEqual(['top', 'front', 'end']);
  });

  it('centres a wheel on its bore and turns it by a keyway', () => {
    expect(ids([shape('disc', 'plane', [0, 0, 1]), shape('bore', 'cylinder', [0, 0, 1]), shape('slope', 'plane', [0, 0.5, 0.87])])).toEqual(['disc', 'bore']);
    // Sides that stand upright lock more than a second bore would.
    expect(ids([shape('disc', 'plane', [0, 0, 1]), shape('key', 'plane', [1, 0, 0]), shape('bore', 'cylinder', [0, 0, 1])])).toEqual(['disc', 'key', 'bore']);
  });

  it('has what there is: an axis alone, or nothing', () => {
    expect(ids([shape('free', 'free', [0, 0, 0]), shape('stem', 'cylinder', [0, 0, 1])])).toEqual(['stem']);
    expect(ids([shape('free', 'free', [0, 0, 0])])).toEqual([]);
  });
});
