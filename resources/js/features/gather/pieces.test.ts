import { describe, expect, it } from 'vitest';
import { nextPiece, PIECE } from './pieces';

describe('pieces of an upload', () => {
  it('take about a second each', () => {
    expect(nextPiece(PIECE.first, 2000)).toBe(PIECE.first / 2);
    expect(nextPiece(PIECE.first, 500)).toBe(PIECE.first * 2);
  });

  it('grow with care and stay within what the server takes', () => {
    expect(nextPiece(PIECE.first, 1)).toBe(4 * PIECE.first);
    expect(nextPiece(PIECE.most, 1)).toBe(PIECE.most);
    expect(nextPiece(PIECE.least, 60_000)).toBe(PIECE.least);
    expect(nextPiece(PIECE.first, 0)).toBeLessThanOrEqual(PIECE.most);
  });
});
