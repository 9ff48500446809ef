import * as THREE from 'three';
import type { DatumKind } from '../api/types';
import { AXES } from './palette';

export interface DatumShape {
  kind: DatumKind;
  origin: readonly [number, number, number];
  direction: readonly [number, number, number];
  radius: number;
  size: number;
  halfAngleDeg: number;
  across: readonly [number, number, number];
}

const DATUM = 0x7fa8d9;
const AXIS = 0xd08a74;

/** A datum as it is drawn: a thin pane, an axis with rings, three rings about a centre, a small ball, or three short axes. */
export function datumObject(datum: DatumShape): THREE.Object3D {
  const group = new THREE.Group();
  const turn = new THREE.Quaternion().setFromUnitVectors(new THREE.Vector3(0, 0, 1), new THREE.Vector3(...datum.direction).normalize());
  if (datum.kind === 'plane') {
    const side = 2.1 * datum.size;
    const pane = new THREE.PlaneGeometry(side, side);
    group.add(
      new THREE.Mesh(pane, new THREE.MeshBasicMaterial({ color: DATUM, transparent: true, opacity: 0.16, side: THREE.DoubleSide, depthWrite: false, polygonOffset: true, polygonOffsetFactor: 4, polygonOffsetUnits: 40 })),
      new THREE.LineSegments(new THREE.EdgesGeometry(pane), new THREE.LineBasicMaterial({ color: DATUM })),
    );
    group.add(...arrow(0.6 * datum.size, DATUM));
    group.quaternion.copy(turn);
  } else if (datum.kind === 'frame') {
    const [x, z] = [new THREE.Vector3(...datum.across), new THREE.Vector3(...datum.direction)];
    [x, z.clone().cross(x), z].forEach((axis, k) => {
      const line = new THREE.BufferGeometry().setFromPoints([new THREE.Vector3(), axis.multiplyScalar(2 * datum.size)]);
      group.add(new THREE.Line(line, new THREE.LineBasicMaterial({ color: AXES[k]!, depthTest: false })));
    });
  } else if (datum.kind === 'point') {
    group.add(new THREE.Mesh(new THREE.SphereGeometry(1.2, 16, 12), new THREE.MeshBasicMaterial({ color: DATUM })));
  } else if (datum.kind === 'sphere') {
    for (const turn of [
      [0, 0],
      [Math.PI / 2, 0],
      [0, Math.PI / 2],
    ] as const) {
      const circle = ring(datum.radius, 0);
      circle.rotation.set(turn[0], turn[1], 0);
      group.add(circle);
    }
  } else {
    const half = 1.35 * datum.size;
    const line = new THREE.BufferGeometry().setFromPoints([new THREE.Vector3(0, 0, -half), new THREE.Vector3(0, 0, half)]);
    group.add(new THREE.Line(line, new THREE.LineBasicMaterial({ color: AXIS, depthTest: false })));
    const [head] = arrow(half, AXIS).slice(-1);
    if (head) group.add(head);
    // The axis of a cone points to its wide end.
    const slope = Math.tan((datum.halfAngleDeg * Math.PI) / 180);
    for (const end of datum.radius > 0 ? [-1, 1] : []) group.add(ring(Math.max(0, datum.radius + end * datum.size * slope), end * datum.size));
    group.quaternion.copy(turn);
  }
  group.position.set(...datum.origin);
  return group;
}

/** Which way a plane faces, or an axis points: a line along Z with a head on its end. */
function arrow(length: number, colour: number): THREE.Object3D[] {
  const head = new THREE.Mesh(new THREE.ConeGeometry(0.07 * length, 0.22 * length, 16), new THREE.MeshBasicMaterial({ color: colour }));
  head.rotation.x = Math.PI / 2;
  head.position.z = 0.89 * length;
  return [new THREE.Line(new THREE.BufferGeometry().setFromPoints([new THREE.Vector3(), new THREE.Vector3(0, 0, length)]), new THREE.LineBasicMaterial({ color: colour })), head];
}

function ring(radius: number, height: number): THREE.Line {
  const places: THREE.Vector3[] = [];
  for (let k = 0; k <= 64; k++) places.push(new THREE.Vector3(radius * Math.cos((k * Math.PI) / 32), radius * Math.sin((k * Math.PI) / 32), height));
  return new THREE.Line(new THREE.BufferGeometry().setFromPoints(places), new THREE.LineBasicMaterial({ color: AXIS }));
}

/** A sign in a disc, always in front; `size` as a share of the view's height. */
export function numberMark(text: string, colour: string, size = 0.035): THREE.Sprite {
  const canvas = document.createElement('canvas');
  canvas.width = canvas.height = 64;
  const c = canvas.getContext('2d')!;
  c.beginPath();
  c.arc(32, 32, 24, 0, 2 * Math.PI);
  c.fillStyle = colour;
  c.fill();
  c.lineWidth = 4;
  c.strokeStyle = '#141110';
  c.stroke();
  c.fillStyle = '#141110';
  c.font = '600 32px "Figtree Variable", sans-serif';
  c.textAlign = 'center';
  c.textBaseline = 'middle';
  c.fillText(text, 32, 34);
  const sprite = new THREE.Sprite(new THREE.SpriteMaterial({ map: new THREE.CanvasTexture(canvas), depthTest: false, sizeAttenuation: false }));
  sprite.scale.setScalar(size);
  sprite.renderOrder = 10;
  return sprite;
}
