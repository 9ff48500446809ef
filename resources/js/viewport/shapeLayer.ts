import * as THREE from 'three';
import type { Geometry } from './blob';

/** Colours of shapes that lie beside each other; what kind a shape is, its pattern says. */
export const SHAPE_COLOURS = [0xc7a25a, 0x7fa3a0, 0xb98373, 0x93a86d, 0x8f93c4, 0xc99a84, 0x6f9fb8, 0xb3a0b8] as const;

/** Of free form: the colour of measured surface, a little darker. */
export const FREE = 0x9a9084;

/** Where a kind is darkened, in pixels of the screen: stripes and dots tell kinds apart without colour. */
export const PATTERNS: Readonly<Record<string, string>> = {
  cylinder: 'mod(gl_FragCoord.x, 12.0) < 1.6',
  cone: 'mod(gl_FragCoord.x + gl_FragCoord.y, 14.0) < 1.8',
  sphere: 'mod(gl_FragCoord.x, 10.0) < 2.5 && mod(gl_FragCoord.y, 10.0) < 2.5',
  torus: 'mod(gl_FragCoord.x + gl_FragCoord.y, 14.0) < 1.6 || mod(gl_FragCoord.x - gl_FragCoord.y + 8000.0, 14.0) < 1.6',
  revolved: 'mod(gl_FragCoord.y, 12.0) < 1.6',
};

export interface ShownShapes {
  /** of each face its shape */
  labels: Uint16Array;
  /** of each shape its kind */
  kinds: readonly string[];
}

export const shapeColour = (place: number, kind: string): number => (kind === 'free' ? FREE : (SHAPE_COLOURS[place % SHAPE_COLOURS.length] ?? FREE));

function material(colour: number, kind: string, light: (shader: string) => string): THREE.MeshStandardMaterial {
  const made = new THREE.MeshStandardMaterial({ color: colour, roughness: 0.85, side: THREE.DoubleSide, polygonOffset: true, polygonOffsetFactor: -1, polygonOffsetUnits: -1 });
  const where = PATTERNS[kind];
  made.onBeforeCompile = (shader) => {
    shader.fragmentShader = light(shader.fragmentShader);
    if (where) shader.fragmentShader = shader.fragmentShader.replace('#include <dithering_fragment>', `#include <dithering_fragment>\n if (${where}) gl_FragColor.rgb *= 0.7;`);
  };
  made.customProgramCacheKey = () => `shapes ${where ?? ''}`;
  return made;
}

/** The faces of a body over it, each in the colour and pattern of its shape. */
export function shapeLayer(geometry: Geometry, of: THREE.BufferGeometry, { labels, kinds }: ShownShapes, light: (shader: string) => string): THREE.Mesh {
  const faces = geometry.faces ?? new Uint32Array();
  const looks = new Map<string, { colour: number; kind: string; faces: number[] }>();
  labels.forEach((label, face) => {
    const kind = kinds[label] ?? 'free';
    const colour = shapeColour(label, kind);
    const key = `${colour} ${kind}`;
    const look = looks.get(key) ?? { colour, kind, faces: [] };
    look.faces.push(face);
    looks.set(key, look);
  });
  const buffer = new THREE.BufferGeometry();
  buffer.setAttribute('position', of.getAttribute('position'));
  buffer.setAttribute('normal', of.getAttribute('normal'));
  const index = new Uint32Array(3 * labels.length);
  let next = 0;
  [...looks.values()].forEach((look, k) => {
    buffer.addGroup(next, 3 * look.faces.length, k);
    for (const face of look.faces) for (let c = 0; c < 3; c++) index[next++] = faces[3 * face + c] ?? 0;
  });
  buffer.setIndex(new THREE.BufferAttribute(index, 1));
  const mesh = new THREE.Mesh(
    buffer,
    [...looks.values()].map((look) => material(look.colour, look.kind, light)),
  );
  mesh.matrixAutoUpdate = false;
  mesh.frustumCulled = false;
  return mesh;
}
