import * as THREE from 'three';

/** A measured line with its value. */
export interface ShownDimension {
  /** from end to end, mm in the project */
  line: readonly (readonly [number, number, number])[];
  words: string;
  /** one of many, as a drawing has them: in smaller letters */
  isSmall?: boolean;
}

const LIGHT = '#fff6dc';
const DARK = '#141110';

/** Height of the words, as a share of the view's. */
const WORDS = 0.028;

const SMALL_WORDS = 0.02;

/** A measured line as it is drawn: dark under light dashes, so that it is seen on any ground, a point at each end, and the value at its middle, always upright and in front. */
export function dimensionObject({ line, words, isSmall }: ShownDimension): THREE.Object3D {
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
  const sign = wordsSign(words, isSmall ? SMALL_WORDS : WORDS);
  sign.position.copy(middleOf(own));
  [under, over, ends].forEach((object, k) => {
    object.renderOrder = 7 + k;
    object.frustumCulled = false;
    group.add(object);
  });
  group.add(sign);
  return group;
}

/** A box on the screen: its middle and half its size. */
export interface Spot {
  x: number;
  y: number;
  wide: number;
  high: number;
}

/** Which of several boxes are shown so that none lies over another: each unless it meets one before it that is shown. */
export function apart(spots: readonly Spot[]): boolean[] {
  const shown: Spot[] = [];
  return spots.map((spot) => {
    const isFree = shown.every((other) => Math.abs(other.x - spot.x) >= other.wide + spot.wide || Math.abs(other.y - spot.y) >= other.high + spot.high);
    if (isFree) shown.push(spot);
    return isFree;
  });
}

/** Shows of the values of dimensions those that have room where it is looked from; the lines stay. */
export function keepApart(dimensions: readonly THREE.Object3D[], camera: THREE.Camera): void {
  const signs = dimensions.flatMap((dimension) => dimension.children.filter((child) => child instanceof THREE.Sprite));
  camera.updateMatrixWorld();
  const [across, up] = [camera.projectionMatrix.elements[0] ?? 1, camera.projectionMatrix.elements[5] ?? 1];
  const spots = signs.map((sign) => {
    const at = sign.getWorldPosition(new THREE.Vector3()).project(camera);
    return { x: at.x, y: at.y, wide: (across * sign.scale.x) / 2, high: (up * sign.scale.y) / 2 };
  });
  for (const [k, isFree] of apart(spots).entries()) signs[k]!.visible = isFree;
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

function wordsSign(words: string, height: number): THREE.Sprite {
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
  sprite.scale.set((height * canvas.width) / canvas.height, height, 1);
  sprite.renderOrder = 11;
  return sprite;
}
