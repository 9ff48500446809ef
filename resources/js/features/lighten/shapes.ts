import { bytesOf } from '../../api/base64';
import type { ArtefactItem, BodyItem } from '../../api/types';

/** A shape that was found, as the core wrote it: mm and degrees, in the numbers of the artefact. */
export interface FoundShape {
  id: string;
  kind: 'plane' | 'cylinder' | 'cone' | 'sphere' | 'torus' | 'revolved' | 'free';
  /** of a plane, or an axis; 0 0 0 of what has none */
  direction: [number, number, number];
  radius: number;
  halfAngle: number;
  tube: number;
  size: number;
  place: [number, number, number];
  area: number;
  faces: number;
  rms: number;
}

export interface HeldShapes {
  /** of each face the place of its shape in the list: 16 bits, little-endian, in base 64 */
  labels: string;
  shapes: FoundShape[];
}

export const KINDS: Record<FoundShape['kind'], string> = { plane: 'Plane', cylinder: 'Cylinder', cone: 'Cone', sphere: 'Ball', torus: 'Ring', revolved: 'Turned', free: 'Free form' };

/** The shape of each face. */
export function labelsOf(held: HeldShapes): Uint16Array {
  return new Uint16Array(bytesOf(held.labels).buffer);
}

export const numberOf = (shape: FoundShape): string => shape.id.replace('shape-', '');

/** What a shape measures, where the artefact stands with this scale. */
export function figureOf(shape: FoundShape, scale: number): string {
  const diameter = `ø ${(2 * scale * shape.radius).toFixed(2)} mm`;
  if (shape.kind === 'cylinder' || shape.kind === 'sphere') return diameter;
  if (shape.kind === 'cone') return `${diameter}, ${shape.halfAngle.toFixed(2)}° to each side`;
  if (shape.kind === 'torus') return `${diameter}, tube ø ${(2 * scale * shape.tube).toFixed(2)} mm`;
  return '';
}

/** How many millimetres a number of the artefact is. */
export const scaleOf = ({ transform: t }: ArtefactItem): number => Math.hypot(t[0] ?? 1, t[4] ?? 0, t[8] ?? 0);

/** From the numbers of the artefact to the project. */
export function placed({ transform: t }: ArtefactItem, [x, y, z]: readonly [number, number, number]): [number, number, number] {
  const at = (row: number) => (t[row] ?? 0) * x + (t[row + 1] ?? 0) * y + (t[row + 2] ?? 0) * z + (t[row + 3] ?? 0);
  return [at(0), at(4), at(8)];
}

/** Shapes speak of a surface face by face: of one that has changed since they tell nothing. */
export const isCurrent = (artefact: ArtefactItem, bodies: readonly BodyItem[]): boolean => bodies.some((b) => b.id === artefact.bodyId && b.blob === artefact.surface);

/** The faces of one shape. */
export function facesOf(labels: Uint16Array, place: number): number[] {
  const faces: number[] = [];
  labels.forEach((label, face) => {
    if (label === place) faces.push(face);
  });
  return faces;
}

/** What a swatch looks like that is as a kind is drawn on the part. */
const SWATCHES: Readonly<Record<string, string>> = {
  cylinder: 'repeating-linear-gradient(90deg, rgb(0 0 0 / 0.45) 0 1px, transparent 1px 4px)',
  cone: 'repeating-linear-gradient(135deg, rgb(0 0 0 / 0.45) 0 1px, transparent 1px 4px)',
  sphere: 'radial-gradient(rgb(0 0 0 / 0.5) 1px, transparent 1.2px) 0 0 / 4px 4px',
  torus: 'repeating-linear-gradient(45deg, rgb(0 0 0 / 0.4) 0 1px, transparent 1px 4px), repeating-linear-gradient(135deg, rgb(0 0 0 / 0.4) 0 1px, transparent 1px 4px)',
  revolved: 'repeating-linear-gradient(0deg, rgb(0 0 0 / 0.45) 0 1px, transparent 1px 4px)',
};

/** The background of a sign for shapes of a kind. */
export const swatch = (kind: string, colour: string): string => (SWATCHES[kind] ? `${SWATCHES[kind]}, ${colour}` : colour);
