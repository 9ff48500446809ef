import { describe, expect, it } from 'vitest';
import { readPlace } from './readPlace';

describe('a place by its numbers', () => {
  it.each([
    ['12.5, 0, -3', [12.5, 0, -3]],
    ['12,5; 0; -3', [12.5, 0, -3]],
    ['1,2,3', [1, 2, 3]],
    ['1.5 2 3', [1.5, 2, 3]],
    ['1 cm, 1/2 in, 0', [10, 12.7, 0]],
  ])('%s', (text, place) => expect(readPlace(text)).toEqual({ place }));
  it('says what is wrong', () => {
    expect(readPlace(' ')).toBeNull();
    expect(readPlace('1, 2')).toEqual({ why: 'Type three numbers, as in "12.5, 0, -3".' });
    expect(readPlace('1, two, 3')).toHaveProperty('why');
  });
});
