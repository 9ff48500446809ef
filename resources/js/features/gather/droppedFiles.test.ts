import { describe, expect, it } from 'vitest';
import { droppedFiles } from './droppedFiles';

const file = (name: string) => ({ isFile: true, name, file: (take: (f: File) => void) => take({ name } as File) });
const folder = (name: string, ...entries: unknown[]) => ({
  isFile: false,
  name,
  // Browsers hand out a folder in pieces, and nothing at its end.
  createReader: () => {
    const pieces = entries.map((e) => [e]);
    return { readEntries: (take: (e: unknown[]) => void) => take(pieces.shift() ?? []) };
  },
});
const drop = (...entries: unknown[]) => ({ items: entries.map((e) => ({ webkitGetAsEntry: () => e })), files: [] }) as unknown as DataTransfer;

describe('what is dropped', () => {
  it('is taken out of folders in folders, in the order of names', async () => {
    const files = await droppedFiles(drop(file('pass-10.ply'), folder('day 1', file('pass-2.ply'), folder('more', file('pass-1.ply'), file('.DS_Store')))));
    expect(files.map((f) => f.name)).toEqual(['pass-1.ply', 'pass-2.ply', 'pass-10.ply']);
  });
  it('is the plain list where there are no entries', async () => {
    const files = await droppedFiles({ items: [{ webkitGetAsEntry: () => null }], files: [{ name: 'a.stl' }] } as unknown as DataTransfer);
    expect(files.map((f) => f.name)).toEqual(['a.stl']);
  });
});
