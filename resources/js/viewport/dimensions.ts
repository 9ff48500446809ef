import * as THREE from 'three';

/** A measured line with its value. */
export interface ShownDimension {
  /** from end to end, mm in the project */
  line: readonly (readonly [number, number, number])[];
  words: string;
}

const LIGHT = '#fff6dc';
const DARK = '#141110';

/** Height of the words, as a share of the view's. */
const WORDS = 0.028;

/** A measured line as it is drawn: dark under light dashes, so that it is seen on any ground, a point at each end, and the value at its middle, always upright and in front. */
export function dimensionObject({ line, words }: ShownDimension): THREE.Object3D {
  const group = new THREE.Group();
  const places = line.map((p) => new THREE.Vector3(...p));
  const [first] = places;
  if (!first) return group;
  // About the first place: far from the origin the numbers that graphics cards take are too coarse.
  group.position.copy(first);
  const own = places.map((p) => p.clone().sub(first));
  const geometry = new THREE.BufferGeometry().setFromPoints(own);
  const long = own.reduce((sum, p, k) => sum + (k > 0 ? p.distanceTo(own[k - 1] ?? p) : 0), 0);
  const under = new THREE.Line(geometry, new THREE.LineBasicMaterial({ color: DARK, depthTest: false }));
  const over = new THREE.Line(geometry.clone(), new THREE.LineDashedMaterial({ color: LIGHT, depthTest: false, dashSize: long / 24, gapSize: long / 48 }));
  over.computeLineDistances();
  const ends = new THREE.Points(new THREE.BufferGeometry().setFromPoints(own.length > 1 ? [own[0]!, own[own.length - 1]!] : own), new THREE.PointsMaterial({ color: LIGHT, size: 7, sizeAttenuation: false, depthTest: false }));
  const sign = wordsSign(words);
  sign.position.copy(middleOf(own));
  [under, over, ends].forEach((object, k) => {
    object.renderOrder = 7 + k;
    object.frustumCulled = false;
    group.add(object);
  });
  group.add(sign);
  return group;
}

/** The place half-way along a line of places. */
export function middleOf(places: readonly THREE.Vector3[]): THREE.Vector3 {
  const lengths = places.slice(1).map((p, k) => p.distanceTo(places[k]!));
  let left = lengths.reduce((a, b) => a + b, 0) / 2;
  for (const [k, length] of lengths.entries()) {
    if (left <= length) return places[k]!.clone().lerp(places[k + 1]!, length > 0 ? left / length : 0);
    left -= length;
  }
  return (places[places.length - 1] ?? new THREE.Vector3()).clone();
}

function wordsSign(words: string): THREE.Sprite {
  const canvas = document.createElement('canvas');
  const c = canvas.getContext('2d')!;
  const font = '600 36px "Figtree Variable", sans-serif';
  c.font = font;
  const wide = Math.ceil(c.measureText(words).width) + 40;
  // Setting a size sets everything back.
  canvas.height = 64;
  canvas.width = wide;
  c.font = font;
  c.fillStyle = DARK;
  c.beginPath();
  c.roundRect(1, 1, canvas.width - 2, 62, 14);
  c.fill();
  c.lineWidth = 2;
  c.strokeStyle = LIGHT;
  c.stroke();
  c.fillStyle = LIGHT;
  c.textAlign = 'center';
  c.textBaseline = 'middle';
  c.fillText(words, canvas.width / 2, 34);
  const sprite = new THREE.Sprite(new THREE.SpriteMaterial({ map: new THREE.CanvasTexture(canvas), depthTest: false, sizeAttenuation: false }));
  sprite.scale.set((WORDS * canvas.width) / canvas.height, WORDS, 1);
  sprite.renderOrder = 11;
  return sprite;
}
