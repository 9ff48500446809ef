import { describe, expect, it } from 'vitest';
import { readGeometry, readMask } from './blob';

function blob(head: Record<string, unknown>, sections: Record<string, ArrayBuffer>): ArrayBuffer {
  const table: Record<string, { offset: number; length: number }> = {};
  let size = 0;
  for (const [name, bytes] of Object.entries(sections)) {
    table[name] = { offset: size, length: bytes.byteLength };
    size += (bytes.byteLength + 7) & ~7;
  }
  let json = JSON.stringify({ ...head, sections: table });
  while ((12 + json.length) % 8 !== 0) json += ' ';
  const buffer = new ArrayBuffer(12 + json.length + size);
  const view = new DataView(buffer);
  view.setUint32(0, 0x52424d45, true);
  view.setUint32(4, 1, true);
  view.setUint32(8, json.length, true);
  new Uint8Array(buffer).set(new TextEncoder().encode(json), 12);
  for (const [name, bytes] of Object.entries(sections)) new Uint8Array(buffer).set(new Uint8Array(bytes), 12 + json.length + table[name]!.offset);
  return buffer;
}

describe('a blob', () => {
  it('maps onto typed arrays without copying', () => {
    const buffer = blob({ kind: 'mesh', origin: [1, 2, 3], bounds: { min: [0, 0, 0], max: [1, 1, 1] } }, { positions: new Float32Array([0, 0, 0, 1, 0, 0, 0, 1, 0]).buffer, faces: new Uint32Array([0, 1, 2]).buffer, faceOrigin: new Uint8Array([1]).buffer });
    const geometry = readGeometry(buffer);
    expect([...geometry.positions]).toEqual([0, 0, 0, 1, 0, 0, 0, 1, 0]);
    expect(geometry.positions.buffer).toBe(buffer);
    expect([...(geometry.faces ?? [])]).toEqual([0, 1, 2]);
    expect([...(geometry.faceOrigin ?? [])]).toEqual([1]);
    expect(geometry.support).toBeNull();
  });
  it('of another kind is refused', () => {
    expect(() => readGeometry(new ArrayBuffer(64))).toThrow('not an Emberstone blob');
    expect(() => readMask(blob({ kind: 'cloud' }, {}))).toThrow('no mask');
  });
});
