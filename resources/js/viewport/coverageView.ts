import * as THREE from 'three';
import type { Geometry } from './blob';
import { SCANNER } from './palette';
import { shadeColours } from './shades';

/** Points of a cell from which it counts as dense, as the core says (Coverage::DENSE). */
const DENSE = 24;

/** What a running capture has seen so far: a point a cell, light where dense, dark where thin; and where the scanner stands. */
export class CoverageView {
  readonly object = new THREE.Group();

  show(cells: Geometry, standsAt: readonly [number, number, number] | null): void {
    this.clear();
    const [x, y, z] = cells.origin;
    const buffer = new THREE.BufferGeometry();
    buffer.setAttribute('position', new THREE.BufferAttribute(cells.positions, 3));
    buffer.setAttribute(
      'color',
      shadeColours(cells.positions.length / 3, (i) => 255 - Math.round(254 * Math.min(1, (cells.confidence?.[i] ?? 0) / DENSE))),
    );
    const points = new THREE.Points(buffer, new THREE.PointsMaterial({ size: 3.2, sizeAttenuation: false, vertexColors: true }));
    points.position.set(x, y, z);
    points.frustumCulled = false;
    this.object.add(points);
    if (standsAt) {
      const scanner = new THREE.Mesh(new THREE.SphereGeometry(6, 16, 12), new THREE.MeshBasicMaterial({ color: SCANNER }));
      scanner.position.set(...standsAt);
      this.object.add(scanner);
    }
  }

  clear(): void {
    for (const child of this.object.children) if (child instanceof THREE.Points || child instanceof THREE.Mesh) child.geometry.dispose();
    this.object.clear();
  }

  /** The box of the cells, not of the scanner. */
  box(): THREE.Box3 {
    const points = this.object.children[0];
    return points ? new THREE.Box3().setFromObject(points) : new THREE.Box3();
  }
}
