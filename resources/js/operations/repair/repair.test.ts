import { describe, expect, it } from 'vitest';
import { aMesh, aProject } from '../../test/project';
import repair from './index';

describe('what repairing begins with', () => {
  const begins = (area: number | undefined) => repair.beginsWith?.(aProject({ bodies: [{ ...aMesh('b'), faces: 1000, figures: { ...aMesh('b').figures, area } as never }] }).snapshot, aProject().project.brief);
  it('closes pin holes alone: three typical edges wide', () => {
    // A thousand even triangles with edges of 1 mm.
    expect(begins((1000 * Math.sqrt(3)) / 4)).toEqual({ holes: 3 });
  });
  it('closes none where nothing tells how wide a pin hole is', () => {
    expect(begins(undefined)).toEqual({ holes: 'none' });
    expect(repair.beginsWith?.(aProject().snapshot, aProject().project.brief)).toEqual({ holes: 'none' });
  });
});
