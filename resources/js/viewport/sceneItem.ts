import * as THREE from 'three';
import { MeshBVH } from 'three-mesh-bvh';
import type { Geometry } from './blob';
import { spreadOrder } from './budget';
import { cellLines } from './cellSides';
import { meeting } from './cut';
import { hitPoint } from './hitPoint';
import { levelLayer, partsOf, type ShownLevel } from './levelLayer';
import { cloudNeighbours, meshNeighbours, type Neighbours, spacingOf } from './neighbours';
import { GHOST, MEASURED, RAMP, REMOVED, SUPPORT, rampAt } from './palette';
import { rimLoops } from './rimLoops';
import { sectionLines } from './sections';
import { shadeColours, shadeWithin } from './shades';
import { shapeLayer, type ShownShapes } from './shapeLayer';
import { MADE_UP, striped, surface, withEdges } from './surface';

/** evidence: measured plain, filled hatched; support: by how many passes saw a place; noise: by how far points lie off it; plain: one colour; own: one a body. Passes keep theirs. */
export type ColourMode = 'evidence' | 'support' | 'noise' | 'plain' | 'own';

/** What a ray hits of an item: index in the blob, distance, and the place in the project, where the item stands whatever is previewed. */
export interface ItemHit {
  index: number;
  distance: number;
  point: THREE.Vector3;
  /** nothing but strays is there */
  isStray: boolean;
}

/** So many places say how large an item is, and this share of them at either end may be strays. */
const SAMPLED = 4000;
const STRAY = 0.02;

/** A view of a whole pass goes so far beyond the bulk of it, in parts of its size: a thin end belongs to it, a stray does not. */
const THIN_END = 0.2;

/** A corner of a rim is where it was told to be within this, mm: places are told to ten thousandths. */
const SAME_CORNER = 0.01;

/** Size of a drawn point, as a share of how far points lie apart, and in pixels at least and at most. */
const POINT = 1.5;
const LEAST_POINT = 1.6;
const MOST_POINT = 9;

/** The box around places without the strays at its sides. */
function bulkOf(places: readonly THREE.Vector3[]): THREE.Box3 {
  const box = new THREE.Box3();
  if (places.length === 0) return box;
  for (const axis of ['x', 'y', 'z'] as const) {
    const sorted = places.map((at) => at[axis]).sort((a, b) => a - b);
    box.min[axis] = sorted[Math.floor(STRAY * (sorted.length - 1))]!;
    box.max[axis] = sorted[Math.ceil((1 - STRAY) * (sorted.length - 1))]!;
  }
  return box;
}

/** Rebuilt items, and the share of the usual support below which their surface counts as thin. */
export interface Thin {
  share: number;
  itemIds: readonly string[];
}

/** One pass or body as drawn: three objects and the way back from what is drawn to what the blob holds. */
export class SceneItem {
  readonly object: THREE.Mesh | THREE.Points;
  /** drawn face => face of the blob */
  private faceOrder: Uint32Array | null = null;
  private bvh: MeshBVH | null = null;
  /** vertices around each open rim; found when they are first asked for */
  private loops: number[][] | null = null;
  private readonly local = new THREE.Matrix4();
  private near: Neighbours | null = null;
  /** points of a cloud in the order in which they are drawn */
  private drawn: Uint32Array | null = null;
  private removed: THREE.Points | null = null;
  private apart: number | null = null;
  /** the box around what is not cut away, in the scene, and the matrix it was taken with */
  private readonly kept = { matrix: new THREE.Matrix4(), box: new THREE.Box3() };
  private by: THREE.Matrix4 | null = null;
  /** where the pale copy is: a motion in the project from where the item stands */
  private readonly copied = new THREE.Matrix4();
  private copy: THREE.Object3D | null = null;
  private shapes: THREE.Mesh | null = null;
  private level: THREE.Mesh | null = null;
  private met: THREE.LineSegments[] = [];
  private readonly cells: THREE.LineSegments | null;
  /** the weight, in hundredths, below which surface is left out */
  private readonly least = { value: 0 };

  constructor(
    readonly id: string,
    readonly kind: 'pass' | 'body',
    readonly geometry: Geometry,
    readonly mask: Uint8Array | null,
    private colour: number,
  ) {
    this.object = geometry.faces ? this.mesh(geometry) : this.points(geometry, mask, colour);
    this.object.matrixAutoUpdate = false;
    this.object.frustumCulled = false;
    this.cells = cellLines(geometry, this.object.geometry);
    if (this.cells) {
      this.object.add(this.cells);
      // The surface steps back, so that the lines on it are not drawn in pieces.
      for (const material of [this.object.material].flat()) Object.assign(material, { polygonOffset: true, polygonOffsetFactor: 1, polygonOffsetUnits: 1 });
    }
  }

  /** Who is next to whom; built when a gesture first asks. */
  neighbours(): Neighbours {
    const { positions, faces, adjacency } = this.geometry;
    this.near ??= faces && adjacency ? meshNeighbours({ positions, faces, adjacency }) : cloudNeighbours({ positions }, this.mask);
    return this.near;
  }

  /** How far apart the points of a cloud lie, in the scene; 0 for a mesh. */
  spacing(): number {
    return this.geometry.faces ? 0 : this.pointSpacing() * this.elements().mmPerUnit;
  }

  private pointSpacing(): number {
    const p = this.geometry.positions;
    this.apart ??= spacingOf(p, p.length / 3);
    return this.apart;
  }

  /** Points or faces, and how many millimetres a unit of the blob is. */
  elements(): { many: number; mmPerUnit: number } {
    return { many: (this.geometry.faces ?? this.geometry.positions).length / 3, mmPerUnit: this.object.matrix.getMaxScaleOnAxis() };
  }

  private mesh(geometry: Geometry): THREE.Mesh {
    const faces = geometry.faces!;
    const count = faces.length / 3;
    const buffer = new THREE.BufferGeometry();
    buffer.setAttribute('position', new THREE.BufferAttribute(geometry.positions, 3));
    const order = new Uint32Array(count);
    let next = 0;
    // Measured faces first, then what is made up, mark by mark.
    for (let mark = 0; mark <= MADE_UP.length; mark++) {
      const start = next;
      for (let f = 0; f < count; f++) if (Math.min(geometry.faceOrigin?.[f] ?? 0, MADE_UP.length) === mark) order[next++] = f;
      buffer.addGroup(3 * start, 3 * (next - start), mark);
    }
    const index = new Uint32Array(faces.length);
    for (let f = 0; f < count; f++) {
      const o = 3 * order[f]!;
      index[3 * f] = faces[o]!;
      index[3 * f + 1] = faces[o + 1]!;
      index[3 * f + 2] = faces[o + 2]!;
    }
    buffer.setIndex(new THREE.BufferAttribute(index, 1));
    buffer.computeVertexNormals();
    this.faceOrder = order;
    if (geometry.weight) buffer.setAttribute('backing', new THREE.BufferAttribute(geometry.weight, 1));
    return new THREE.Mesh(buffer, [surface(MEASURED, 0.8, this.least), ...MADE_UP.map(({ colour, where }) => surface(colour, 0.85, this.least, where))]);
  }

  private points(geometry: Geometry, mask: Uint8Array | null, colour: number): THREE.Points {
    const buffer = new THREE.BufferGeometry();
    buffer.setAttribute('position', new THREE.BufferAttribute(geometry.positions, 3));
    this.drawn = spreadOrder(geometry.positions.length / 3, mask);
    buffer.setIndex(new THREE.BufferAttribute(this.drawn, 1));
    return new THREE.Points(buffer, new THREE.PointsMaterial({ color: colour, size: 1.6, sizeAttenuation: false }));
  }

  /** Leaves out what has less support than this share of the usual; nothing at 0. */
  leaveOutBelow(share: number): void {
    this.least.value = this.geometry.weight ? 100 * share : 0;
  }

  /** The colour of each vertex by what is asked for; null where the body has nothing to say to that. */
  private vertexColours(mode: ColourMode, noiseToMm: number): Float32Array | null {
    const { support, spread } = this.geometry;
    const values = mode === 'support' ? support : mode === 'noise' ? spread : null;
    if (!values) return null;
    const shades = (mode === 'support' ? SUPPORT : Array.from({ length: 32 }, (_, k) => rampAt(k / 31, RAMP))).map((hex) => new THREE.Color(hex));
    const steps = (1e-4 * this.elements().mmPerUnit * 31) / noiseToMm;
    const colours = new Float32Array(3 * values.length);
    for (let v = 0; v < values.length; v++) {
      const at = mode === 'support' ? Math.max(1, values[v]!) - 1 : Math.round(steps * values[v]!);
      const shade = shades[Math.min(shades.length - 1, at)]!;
      colours[3 * v] = shade.r;
      colours[3 * v + 1] = shade.g;
      colours[3 * v + 2] = shade.b;
    }
    return colours;
  }

  /** Takes another colour of its own; it shows once it is painted again. */
  recolour(colour: number): boolean {
    if (this.colour === colour) return false;
    this.colour = colour;
    return true;
  }

  /** Colours a body by what is asked for; a cloud keeps the colour of its pass. */
  paint(mode: ColourMode, noiseToMm: number): void {
    if (!(this.object instanceof THREE.Mesh)) return;
    const [plain, ...madeUp] = this.object.material as THREE.MeshStandardMaterial[];
    const buffer = this.object.geometry as THREE.BufferGeometry;
    const colours = this.vertexColours(mode, noiseToMm);
    if (colours) buffer.setAttribute('color', new THREE.BufferAttribute(colours, 3));
    plain!.vertexColors = colours !== null;
    plain!.color.set(colours ? 0xffffff : mode === 'own' ? this.colour : MEASURED);
    plain!.needsUpdate = true;
    buffer.groups.forEach((group, mark) => {
      group.materialIndex = mode === 'plain' || mode === 'own' ? 0 : mark;
    });
    for (const material of madeUp) material.needsUpdate = true;
  }

  /** Colours a cloud or a body by a map, a byte a point of the pass or a vertex; null gives a cloud the colour of its pass back, and leaves a body as it is painted. */
  shade(map: Uint8Array | null, ramp: readonly number[] = RAMP): void {
    if (this.object instanceof THREE.Mesh) {
      if (map) this.shadeFaces(this.object, map, ramp);
      return;
    }
    const material = this.object.material as THREE.PointsMaterial;
    const every = this.geometry.every;
    if (map) {
      this.object.geometry.setAttribute(
        'color',
        shadeColours(this.geometry.positions.length / 3, (i) => map[i * every] ?? 0, ramp),
      );
    } else this.object.geometry.deleteAttribute('color');
    material.vertexColors = map !== null;
    material.color.set(map ? 0xffffff : this.colour);
    material.needsUpdate = true;
  }

  private shadeFaces(mesh: THREE.Mesh, map: Uint8Array, ramp: readonly number[]): void {
    const [plain] = mesh.material as THREE.MeshStandardMaterial[];
    mesh.geometry.setAttribute(
      'color',
      shadeColours(this.geometry.positions.length / 3, (v) => map[v] ?? 0, ramp),
    );
    plain!.vertexColors = true;
    plain!.color.set(0xffffff);
    plain!.needsUpdate = true;
    // What was made up has distances as well.
    for (const group of mesh.geometry.groups) group.materialIndex = 0;
  }

  /**
   * Draws the points of a cloud as large as they lie apart, so that a cloud that is looked at from near is a surface and not a haze.
   *
   * @param mmPerPixel of the scene
   * @param share of the points that is drawn
   */
  sizePoints(mmPerPixel: number, share: number): void {
    if (!(this.object instanceof THREE.Points)) return;
    const apart = this.spacing() / mmPerPixel / Math.sqrt(Math.max(share, 1e-3));
    (this.object.material as THREE.PointsMaterial).size = THREE.MathUtils.clamp(POINT * apart, LEAST_POINT, MOST_POINT);
  }

  /** Points that a cloud has to draw. */
  pointCount(): number {
    return this.drawn?.length ?? 0;
  }

  /** Draws so much of a cloud; bodies are always whole. */
  thin(share: number): void {
    if (this.drawn) this.object.geometry.setDrawRange(0, Math.ceil(share * this.drawn.length));
  }

  /** Shows, dimmed, what was cut away from a pass. */
  showRemoved(visible: boolean): void {
    if (visible && !this.removed && this.mask && this.object instanceof THREE.Points) {
      const buffer = new THREE.BufferGeometry();
      buffer.setAttribute('position', this.object.geometry.getAttribute('position'));
      buffer.setIndex(new THREE.BufferAttribute(spreadOrder(this.mask.length, this.mask, false), 1));
      this.removed = new THREE.Points(buffer, new THREE.PointsMaterial({ color: REMOVED, size: 1.2, sizeAttenuation: false }));
      this.removed.frustumCulled = false;
      this.object.add(this.removed);
    }
    if (this.removed) this.removed.visible = visible;
  }

  /** Lays the shapes of its faces over a body; null takes them away. */
  showShapes(shown: ShownShapes | null): void {
    if (this.shapes) {
      this.object.remove(this.shapes);
      // Corners and normals are those of the body, which is still drawn with them.
      for (const name of ['position', 'normal']) this.shapes.geometry.deleteAttribute(name);
      this.shapes.geometry.dispose();
      for (const material of [this.shapes.material].flat()) material.dispose();
      this.shapes = null;
    }
    if (!shown || 3 * shown.labels.length !== this.geometry.faces?.length) return;
    this.shapes = shapeLayer(this.geometry, this.object.geometry, shown, withEdges);
    this.object.add(this.shapes);
  }

  /** Draws a body with fewer faces in its own place; null draws it as it is. Picks still meet the body itself. */
  showLevel(shown: ShownLevel | null): void {
    if (!shown && !this.level) return;
    if (this.level) {
      this.object.remove(this.level);
      for (const part of partsOf(this.level)) {
        part.geometry.dispose();
        (part.material as THREE.Material).dispose();
      }
    }
    this.level = shown && levelLayer(shown);
    if (this.level) this.object.add(this.level);
    for (const material of [this.object.material, this.shapes?.material ?? [], this.cells?.material ?? []].flat()) material.visible = this.level === null;
  }

  /** What lies behind one of the planes is not drawn. */
  clip(planes: THREE.Plane[]): void {
    for (const material of [this.object.material, this.shapes?.material ?? [], this.cells?.material ?? [], ...(this.level ? partsOf(this.level).map((part) => part.material) : [])].flat()) {
      material.clippingPlanes = planes;
      material.needsUpdate = true;
    }
  }

  /** Draws where a plane of the scene meets a body; null takes the lines away. */
  showMeeting(plane: THREE.Plane | null): void {
    for (const lines of this.met) {
      this.object.remove(lines);
      (lines.material as THREE.Material).dispose();
      lines.geometry.dispose();
    }
    this.met = [];
    const { faces, positions } = this.geometry;
    if (!plane || !faces || !this.object.visible) return;
    const ends = meeting(positions, faces, plane.clone().applyMatrix4(this.object.matrix.clone().invert()));
    if (ends.length === 0) return;
    this.met = sectionLines(new THREE.BufferGeometry().setAttribute('position', new THREE.BufferAttribute(ends, 3)));
    this.object.add(...this.met);
  }

  /** How many points or faces lie outside a box about the origin, and are not cut away already. */
  outside(into: THREE.Matrix4, half: readonly [number, number, number]): number {
    const m = into.elements;
    const near = this.geometry.faces ? this.neighbours() : null;
    const p = this.geometry.positions;
    let n = 0;
    for (let i = 0, many = this.elements().many; i < many; i++) {
      if (this.mask && !this.mask[i]) continue;
      const [x, y, z] = near ? near.place(i) : [p[3 * i]!, p[3 * i + 1]!, p[3 * i + 2]!];
      if (([0, 1, 2] as const).some((k) => Math.abs(m[k]! * x + m[k + 4]! * y + m[k + 8]! * z + m[k + 12]!) > half[k])) n++;
    }
    return n;
  }

  place(transform: readonly number[], frame: THREE.Matrix4): void {
    const [x, y, z] = this.geometry.origin;
    this.local.set(...(transform as unknown as Parameters<THREE.Matrix4['set']>)).multiply(new THREE.Matrix4().makeTranslation(x, y, z));
    this.reframe(frame);
  }

  /** Shows the item moved in the project; its own place stays. */
  preview(by: readonly number[] | null, frame: THREE.Matrix4): void {
    this.by = by ? new THREE.Matrix4().set(...(by as unknown as Parameters<THREE.Matrix4['set']>)) : null;
    this.reframe(frame);
  }

  /** Shows a pale copy of the item, moved in the project, for as long as the item stays where it is shown; null takes it away. */
  showCopy(by: readonly number[] | null): void {
    if (this.copy) {
      this.object.remove(this.copy);
      for (const material of [(this.copy as THREE.Mesh).material].flat()) material.dispose();
      this.copy = null;
    }
    if (!by) return;
    const { geometry } = this.object;
    this.copy = this.object instanceof THREE.Points ? new THREE.Points(geometry, striped(new THREE.PointsMaterial({ color: GHOST, size: 1.6, sizeAttenuation: false }))) : new THREE.Mesh(geometry, striped(new THREE.MeshStandardMaterial({ color: GHOST, roughness: 0.85, side: THREE.DoubleSide })));
    this.copy.frustumCulled = false;
    this.copy.matrixAutoUpdate = false;
    this.copied.set(...(by as unknown as Parameters<THREE.Matrix4['set']>));
    this.object.add(this.copy);
    this.placeCopy();
  }

  /** The copy hangs on the item and goes where it goes; what that adds is taken off again. */
  private placeCopy(): void {
    if (!this.copy) return;
    this.copy.matrix.copy(this.local).invert();
    if (this.by) this.copy.matrix.multiply(this.by.clone().invert());
    this.copy.matrix.multiply(this.copied).multiply(this.local);
    this.copy.matrixWorldNeedsUpdate = true;
  }

  /** Where a place of the item is shown, in the project: elsewhere than it is while a preview moves the item. */
  shown(place: THREE.Vector3): THREE.Vector3 {
    return this.by ? place.clone().applyMatrix4(this.by) : place.clone();
  }

  /** Shows the item in another frame; its own place stays. */
  reframe(frame: THREE.Matrix4): void {
    this.object.matrix.copy(frame);
    if (this.by) this.object.matrix.multiply(this.by);
    this.object.matrix.multiply(this.local);
    this.object.matrixWorldNeedsUpdate = true;
    this.placeCopy();
  }

  /** The box around what is not cut away, in the scene; strays far off a pass do not count. */
  box(): THREE.Box3 {
    const { matrix } = this.object;
    if (this.kept.box.isEmpty() || !this.kept.matrix.equals(matrix)) {
      this.kept.matrix.copy(matrix);
      this.kept.box.copy(this.keptBox(matrix));
    }
    return this.kept.box.clone();
  }

  /** Around the points themselves: around the corners of a box that stands askew in the scene it would be half as large again. */
  private keptBox(matrix: THREE.Matrix4): THREE.Box3 {
    const box = new THREE.Box3();
    const at = new THREE.Vector3();
    const p = this.geometry.positions;
    for (let i = 0; 3 * i < p.length; i++) if (!this.mask || this.mask[i]) box.expandByPoint(at.fromArray(p, 3 * i).applyMatrix4(matrix));
    if (box.isEmpty()) {
      const { min, max } = this.geometry.bounds;
      const origin = new THREE.Vector3(...this.geometry.origin);
      return new THREE.Box3(new THREE.Vector3(...min).sub(origin), new THREE.Vector3(...max).sub(origin)).applyMatrix4(matrix);
    }
    if (this.geometry.faces) return box;
    const bulk = bulkOf(this.sample().map((place) => place.applyMatrix4(matrix)));
    return box.intersect(bulk.expandByVector(bulk.getSize(new THREE.Vector3()).multiplyScalar(THIN_END)));
  }

  /** The box around it in the project, where it stands whatever is previewed: close around its points, as the server takes its middle. */
  stood(): THREE.Box3 {
    const p = this.geometry.positions;
    const box = new THREE.Box3();
    const at = new THREE.Vector3();
    for (let i = 0, n = p.length / 3; i < n; i++) {
      if (!this.mask || this.mask[i]) box.expandByPoint(at.set(p[3 * i]!, p[3 * i + 1]!, p[3 * i + 2]!).applyMatrix4(this.local));
    }
    return box;
  }

  /** A ball around nearly all of it where it stands in the project: what lies far off, such as strays, is left out. */
  ball(): { centre: THREE.Vector3; radius: number } {
    const places = this.sample().map((at) => at.applyMatrix4(this.local));
    const centre = bulkOf(places).getCenter(new THREE.Vector3());
    const away = places.map((at) => at.distanceTo(centre)).sort((a, b) => a - b);
    return { centre, radius: away[Math.ceil((1 - STRAY) * (away.length - 1))] ?? 0 };
  }

  /** Some places of what is not cut away, as the blob has them. */
  private sample(): THREE.Vector3[] {
    const p = this.geometry.positions;
    const kept: number[] = [];
    for (let i = 0; 3 * i < p.length; i++) if (!this.mask || this.mask[i]) kept.push(i);
    const step = Math.max(1, Math.floor(kept.length / SAMPLED));
    return kept.filter((_, k) => k % step === 0).map((i) => new THREE.Vector3().fromArray(p, 3 * i));
  }

  /** The open rim with a corner at a place of the project: its corners there, from that one on; null where there is none. */
  rimAt(place: readonly [number, number, number]): [number, number, number][] | null {
    const { faces, adjacency, positions } = this.geometry;
    if (!faces || !adjacency) return null;
    this.loops ??= rimLoops({ faces, adjacency });
    const wanted = new THREE.Vector3(...place).applyMatrix4(this.local.clone().invert());
    let best: { loop: number[]; start: number; away: number } | null = null;
    for (const loop of this.loops) {
      for (const [start, v] of loop.entries()) {
        const away = Math.hypot(positions[3 * v]! - wanted.x, positions[3 * v + 1]! - wanted.y, positions[3 * v + 2]! - wanted.z);
        if (!best || away < best.away) best = { loop, start, away };
      }
    }
    // A trial that is shown in place of the body may have closed it.
    if (!best || best.away * this.local.getMaxScaleOnAxis() > SAME_CORNER) return null;
    return [...best.loop.slice(best.start), ...best.loop.slice(0, best.start)].map((v) =>
      new THREE.Vector3()
        .fromArray(positions, 3 * v)
        .applyMatrix4(this.local)
        .toArray(),
    );
  }

  /** The point nearest to a place of the project, or a face with the vertex that is. */
  nearestTo(place: readonly [number, number, number]): { index: number; away: number } | null {
    const p = this.geometry.positions;
    const wanted = new THREE.Vector3(...place).applyMatrix4(this.local.clone().invert());
    let best = -1;
    let least = Number.POSITIVE_INFINITY;
    for (let v = 0; 3 * v < p.length; v++) {
      if (this.mask && !this.mask[v]) continue;
      const away = (p[3 * v]! - wanted.x) ** 2 + (p[3 * v + 1]! - wanted.y) ** 2 + (p[3 * v + 2]! - wanted.z) ** 2;
      if (away < least) [best, least] = [v, away];
    }
    if (best < 0) return null;
    const { faces } = this.geometry;
    return { index: faces ? Math.max(0, Math.floor(faces.indexOf(best) / 3)) : best, away: Math.sqrt(least) * this.elements().mmPerUnit };
  }

  /** The mean normal of the surface around a place, in the project: towards the outside. Null of a cloud. */
  outwardAt(place: readonly [number, number, number], within: number): THREE.Vector3 | null {
    const normals = this.geometry.faces && this.object.geometry.getAttribute('normal');
    if (!normals) return null;
    const p = this.geometry.positions;
    const wanted = new THREE.Vector3(...place).applyMatrix4(this.local.clone().invert());
    const { mmPerUnit } = this.elements();
    const sum = new THREE.Vector3();
    let nearest = { away: Number.POSITIVE_INFINITY, vertex: 0 };
    for (let v = 0; 3 * v < p.length; v++) {
      const away = mmPerUnit * Math.hypot(p[3 * v]! - wanted.x, p[3 * v + 1]! - wanted.y, p[3 * v + 2]! - wanted.z);
      if (away < nearest.away) nearest = { away, vertex: v };
      if (away <= within) sum.add(new THREE.Vector3(normals.getX(v), normals.getY(v), normals.getZ(v)));
    }
    const of = sum.length() > 1e-6 ? sum : new THREE.Vector3(normals.getX(nearest.vertex), normals.getY(nearest.vertex), normals.getZ(nearest.vertex));
    return of.transformDirection(this.local);
  }

  /** The shade of a map at a place that was picked, in project coordinates; null where there is none. */
  shadeAt(shades: Uint8Array, index: number, at: THREE.Vector3): number | null {
    const { faces, positions } = this.geometry;
    if (!faces) return shades[index] || null;
    const corners = [faces[3 * index] ?? 0, faces[3 * index + 1] ?? 0, faces[3 * index + 2] ?? 0];
    return shadeWithin(
      corners.map((v) => new THREE.Vector3().fromArray(positions, 3 * v).applyMatrix4(this.local)),
      corners.map((v) => shades[v] ?? 0),
      at,
    );
  }

  /** The first hit along a world ray; null where there is none. */
  hit(ray: THREE.Ray, slackMm: number, span: readonly [number, number] = [0, Number.POSITIVE_INFINITY]): ItemHit | null {
    const inverse = this.object.matrix.clone().invert();
    const local = ray.clone().applyMatrix4(inverse);
    const scale = this.object.matrix.getMaxScaleOnAxis();
    if (this.faceOrder) {
      this.bvh ??= new MeshBVH(this.object.geometry, { indirect: true });
      const found = this.bvh.raycastFirst(local, THREE.DoubleSide, span[0] / scale, span[1] / scale);
      if (!found || found.faceIndex == null) return null;
      return { index: this.faceOrder[found.faceIndex] ?? 0, distance: found.distance * scale, point: found.point.clone().applyMatrix4(this.local), isStray: false };
    }
    const p = this.geometry.positions;
    const found = hitPoint({ positions: p, mask: this.mask, spacing: this.pointSpacing() }, local, slackMm / scale, [span[0] / scale, span[1] / scale]);
    return found && { index: found.index, distance: found.along * scale, point: new THREE.Vector3().fromArray(p, 3 * found.index).applyMatrix4(this.local), isStray: found.isStray };
  }

  dispose(): void {
    this.showCopy(null);
    this.showShapes(null);
    this.showMeeting(null);
    this.showLevel(null);
    this.object.geometry.dispose();
    this.removed?.geometry.dispose();
    this.cells?.geometry.dispose();
    for (const material of [this.object.material, this.cells?.material ?? []].flat()) material.dispose();
  }
}
