import * as THREE from 'three';
import type { Geometry } from './blob';
import { SIDES } from './palette';

/** The sides of the cells of a body, two vertices each, every side once; the diagonals of four-sided cells are none. */
export function cellSides({ faces, adjacency, quads }: Pick<Geometry, 'faces' | 'adjacency' | 'quads'>): Uint32Array {
  if (!faces || !quads) return new Uint32Array();
  const halves = new Set(quads);
  const sides: number[] = [];
  for (let face = 0; 3 * face < faces.length; face++) {
    for (let k = 0; k < 3; k++) {
      const a = faces[3 * face + k]!;
      const b = faces[3 * face + ((k + 1) % 3)]!;
      // The first half of a cell ends with its diagonal, the second begins with it.
      if ((k === 2 && halves.has(face)) || (k === 0 && halves.has(face - 1))) continue;
      const across = adjacency?.[3 * face + k] ?? 0xffffffff;
      if (a < b || across === 0xffffffff) sides.push(a, b);
    }
  }
  return Uint32Array.from(sides);
}

/** The lines of a body of four-sided cells, over its surface; null for one of triangles, which would be grey with them. */
export function cellLines(geometry: Geometry, of: THREE.BufferGeometry): THREE.LineSegments | null {
  if (!geometry.quads?.length) return null;
  const buffer = new THREE.BufferGeometry();
  buffer.setAttribute('position', of.getAttribute('position'));
  buffer.setIndex(new THREE.BufferAttribute(cellSides(geometry), 1));
  const lines = new THREE.LineSegments(buffer, new THREE.LineBasicMaterial({ color: SIDES, transparent: true, opacity: 0.55 }));
  lines.frustumCulled = false;
  return lines;
}
