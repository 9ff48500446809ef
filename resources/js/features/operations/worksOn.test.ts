import { describe, expect, it } from 'vitest';
import { aMesh, anOperation, aPass, aProject } from '../../test/project';
import { inWordsOn, worksOn } from './worksOn';

const { snapshot } = aProject({ passes: ['p', 'q', 'r'].map(aPass), bodies: ['Cap', 'Bush'].map((id) => aMesh(id)) });
const decimate = anOperation('decimate', 'lighten', { needs: 'meshes' });
const fuse = anOperation('fuse', 'fuse', { needs: 'passes' });
const crop = anOperation('crop', 'gather');
const shift = anOperation('shift', 'orient', { needs: 'places', on: 'together' });

describe('what a step works on', () => {
  it('is all that suits, and the server is told nothing', () => {
    expect(worksOn(decimate, snapshot, [], {})).toMatchObject({ on: null, words: 'all 2 bodies', ids: ['Cap', 'Bush'] });
    expect(worksOn(fuse, snapshot, [], {})).toMatchObject({ on: null, words: 'all 3 passes' });
    expect(worksOn(crop, snapshot, [], {})?.words).toBe('all 2 bodies and all 3 passes');
  });
  it('is what is chosen in the tray, as far as it suits', () => {
    expect(worksOn(decimate, snapshot, ['Cap', 'p'], {})).toMatchObject({ on: ['Cap'], words: 'Cap' });
    expect(worksOn(fuse, snapshot, ['p', 'r', 'Cap'], {})).toMatchObject({ on: ['p', 'r'], words: '2 of 3 passes' });
    expect(worksOn(decimate, snapshot, ['p'], {})?.on).toBeNull();
  });
  it('leaves alone what is hidden; where all is, that must be asked for', () => {
    expect(worksOn(decimate, snapshot, [], { Bush: true })).toMatchObject({ on: ['Cap'], words: 'Cap' });
    expect(worksOn(fuse, snapshot, [], { p: true, q: true, r: true })).toMatchObject({ on: null, isUnseen: true });
    expect(worksOn(fuse, snapshot, ['p', 'q', 'r'], { p: true, q: true, r: true })).toMatchObject({ on: null, isUnseen: false });
    expect(worksOn(fuse, snapshot, [], { p: true })?.isUnseen).toBe(false);
    expect(worksOn(shift, snapshot, [], { p: true, q: true, r: true, Cap: true, Bush: true })?.isUnseen).toBe(false);
    expect(worksOn(decimate, snapshot, ['Bush'], { Bush: true })?.on).toEqual(['Bush']);
  });
  it('is everything for a frame, out of sight or not, unless some are chosen', () => {
    expect(worksOn(shift, snapshot, [], { p: true, Cap: true })).toMatchObject({ on: null, words: 'everything' });
    expect(worksOn(shift, snapshot, ['Cap'], {})?.on).toEqual(['Cap']);
  });
  it('is not asked where picks say it', () => expect(worksOn(anOperation('move', 'register', { on: null }), snapshot, [], {})).toBeNull());
  it('has words in the ledger too', () => {
    expect(inWordsOn(['Cap'], snapshot)).toBe('Cap');
    expect(inWordsOn(['p', 'q', 'r'], snapshot)).toBe('all 3 passes');
    expect(inWordsOn(['gone'], snapshot)).toBe('things that are gone');
  });
});
