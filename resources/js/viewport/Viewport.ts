import * as THREE from 'three';
import type { Hit, ScreenPoint } from '../tools/events';
import { isInside } from '../tools/outline/outlineTool';
import { type DatumShape, datumObject, numberMark } from './datumShapes';
import { AXES, SELECTED } from './palette';
import { type ColourMode, SceneItem } from './sceneItem';

export type StandardView = 'front' | 'back' | 'left' | 'right' | 'top' | 'bottom';

const DIRECTIONS: Record<StandardView, [number, number, number]> = {
  front: [0, -1, 0], back: [0, 1, 0], left: [-1, 0, 0], right: [1, 0, 0], top: [0, 0, 1], bottom: [0, 0, -1],
};

export interface Selection {
  target: string;
  ranges: [number, number][];
  count: number;
}

/** The 3D view: draws items, turns the camera, finds what is under the pointer. Knows three.js, not React. */
export class Viewport {
  private readonly renderer: THREE.WebGLRenderer;
  private readonly scene = new THREE.Scene();
  /** Where the view is taken from; with parallel rays too: then only its place and direction count. */
  private readonly camera = new THREE.PerspectiveCamera(32, 1, 0.1, 10000);
  private readonly flat = new THREE.OrthographicCamera();
  private parallel = false;
  private colours: ColourMode = 'evidence';
  private readonly headlight = new THREE.DirectionalLight(0xffffff, 1.5);
  private readonly items = new Map<string, SceneItem>();
  private readonly datums = new THREE.Group();
  private readonly marks = new THREE.Group();
  private readonly highlight = new THREE.Group();
  private readonly axes = new THREE.Group();
  private readonly frame = new THREE.Matrix4();
  private readonly target = new THREE.Vector3();
  private readonly observer: ResizeObserver;
  private queued = false;
  private fitted = false;
  onDraw: (mmPerPixel: number) => void = () => {};

  constructor(private readonly host: HTMLElement) {
    this.renderer = new THREE.WebGLRenderer({ antialias: true, alpha: true, preserveDrawingBuffer: true });
    this.renderer.setPixelRatio(Math.min(2, window.devicePixelRatio));
    host.append(this.renderer.domElement);
    this.renderer.domElement.setAttribute('aria-hidden', 'true');
    this.camera.up.set(0, 0, 1);
    this.camera.position.set(180, -260, 180);
    this.scene.add(new THREE.HemisphereLight(0xfff4e6, 0x4a4038, 1.4), this.headlight, this.headlight.target, this.datums, this.marks, this.highlight, this.axes);
    this.observer = new ResizeObserver(() => this.resize());
    this.observer.observe(host);
    this.resize();
  }

  dispose(): void {
    this.observer.disconnect();
    for (const item of this.items.values()) item.dispose();
    this.renderer.dispose();
    this.renderer.domElement.remove();
  }

  private resize(): void {
    const { clientWidth: w, clientHeight: h } = this.host;
    if (w === 0 || h === 0) return;
    this.renderer.setSize(w, h);
    this.camera.aspect = w / h;
    this.camera.updateProjectionMatrix();
    this.draw();
  }

  /** Draws before the next frame; many calls draw once. */
  draw(): void {
    if (this.queued) return;
    this.queued = true;
    requestAnimationFrame(() => {
      this.queued = false;
      const distance = this.camera.position.distanceTo(this.target);
      this.camera.near = distance / 200;
      this.camera.far = distance * 50;
      this.camera.updateProjectionMatrix();
      this.camera.lookAt(this.target);
      this.camera.updateMatrixWorld();
      this.headlight.position.copy(this.camera.position).addScaledVector(new THREE.Vector3(0.4, 0.7, 0).applyQuaternion(this.camera.quaternion), 0.4 * distance);
      this.headlight.target.position.copy(this.target);
      this.headlight.target.updateMatrixWorld();
      if (this.parallel) this.flatten(distance);
      this.renderer.render(this.scene, this.lens());
      this.onDraw(this.mmPerPixel());
    });
  }

  private lens(): THREE.Camera {
    return this.parallel ? this.flat : this.camera;
  }

  /** The parallel camera shows what the other shows at the middle, from far enough back that nothing is cut off. */
  private flatten(distance: number): void {
    const half = distance * Math.tan(THREE.MathUtils.degToRad(this.camera.fov / 2));
    const back = distance + 2 * this.visibleBox().getSize(new THREE.Vector3()).length();
    this.flat.left = -half * this.camera.aspect;
    this.flat.right = half * this.camera.aspect;
    this.flat.top = half;
    this.flat.bottom = -half;
    this.flat.near = 0;
    this.flat.far = 2 * back;
    this.flat.quaternion.copy(this.camera.quaternion);
    this.flat.position.copy(this.camera.position).sub(this.target).setLength(back).add(this.target);
    this.flat.updateProjectionMatrix();
    this.flat.updateMatrixWorld();
  }

  setParallel(parallel: boolean): void {
    this.parallel = parallel;
    this.draw();
  }

  setColours(mode: ColourMode): void {
    this.colours = mode;
    for (const item of this.items.values()) item.paint(mode);
    this.draw();
  }

  /** Draws what is around a place of the view, enlarged, into a small canvas. */
  magnify(at: ScreenPoint, into: HTMLCanvasElement, times: number): void {
    const context = into.getContext('2d');
    if (!context) return;
    const ratio = this.renderer.getPixelRatio();
    const w = into.width / times;
    const h = into.height / times;
    context.imageSmoothingEnabled = false;
    context.clearRect(0, 0, into.width, into.height);
    context.drawImage(this.renderer.domElement, (at.x - w / 2) * ratio, (at.y - h / 2) * ratio, w * ratio, h * ratio, 0, 0, into.width, into.height);
  }

  private mmPerPixel(): number {
    return (2 * this.camera.position.distanceTo(this.target) * Math.tan(THREE.MathUtils.degToRad(this.camera.fov / 2))) / Math.max(1, this.host.clientHeight);
  }

  has(key: string): boolean {
    return this.items.has(key);
  }

  add(key: string, item: SceneItem): void {
    this.items.set(key, item);
    item.paint(this.colours);
    this.scene.add(item.object);
  }

  /** Shows exactly these items (by key), placed; drops the others. */
  arrange(wanted: ReadonlyMap<string, { transform: readonly number[]; visible: boolean }>): void {
    for (const [key, item] of this.items) {
      const want = wanted.get(key);
      if (!want) {
        this.scene.remove(item.object);
        item.dispose();
        this.items.delete(key);
      } else {
        item.place(want.transform, this.frame);
        item.object.visible = want.visible;
      }
    }
    if (!this.fitted && this.items.size > 0) this.fit();
    this.draw();
  }

  setFrame(matrix: readonly number[] | null): void {
    if (matrix) this.frame.set(...(matrix as unknown as Parameters<THREE.Matrix4['set']>));
    else this.frame.identity();
    for (const item of this.items.values()) item.reframe(this.frame);
    for (const group of [this.datums, this.marks, this.highlight]) {
      group.matrixAutoUpdate = false;
      group.matrix.copy(this.frame);
      group.matrixWorldNeedsUpdate = true;
    }
    this.draw();
  }

  setAxes(visible: boolean): void {
    this.axes.clear();
    if (visible) {
      AXES.forEach((colour, k) => {
        const end = new THREE.Vector3().setComponent(k, 30);
        this.axes.add(new THREE.Line(new THREE.BufferGeometry().setFromPoints([new THREE.Vector3(), end]), new THREE.LineBasicMaterial({ color: colour, depthTest: false })));
        const mark = numberMark('XYZ'[k] ?? '', `#${colour.toString(16)}`);
        mark.position.copy(end);
        this.axes.add(mark);
      });
    }
    this.draw();
  }

  setDatums(datums: readonly DatumShape[]): void {
    this.datums.clear();
    for (const datum of datums) this.datums.add(datumObject(datum));
    this.draw();
  }

  setMarks(marks: readonly { point: readonly [number, number, number]; text: string; colour: string }[]): void {
    this.marks.clear();
    for (const { point, text, colour } of marks) {
      const mark = numberMark(text, colour);
      mark.position.set(...point);
      this.marks.add(mark);
    }
    this.draw();
  }

  /** Lays amber over some faces of a body. */
  highlightFaces(itemId: string | null, faces: readonly number[]): void {
    this.highlight.clear();
    const item = [...this.items.values()].find((i) => i.id === itemId);
    if (item?.geometry.faces) {
      const source = item.geometry.faces;
      const index = new Uint32Array(3 * faces.length);
      faces.forEach((f, k) => {
        for (let c = 0; c < 3; c++) index[3 * k + c] = source[3 * f + c] ?? 0;
      });
      const buffer = new THREE.BufferGeometry();
      buffer.setAttribute('position', new THREE.BufferAttribute(item.geometry.positions, 3));
      buffer.setIndex(new THREE.BufferAttribute(index, 1));
      this.overlay(new THREE.Mesh(buffer, new THREE.MeshBasicMaterial({ color: SELECTED, transparent: true, opacity: 0.55, side: THREE.DoubleSide, polygonOffset: true, polygonOffsetFactor: -2, polygonOffsetUnits: -2 })), item);
    }
    this.draw();
  }

  private overlay(object: THREE.Object3D, item: SceneItem): void {
    object.matrixAutoUpdate = false;
    // Items already stand in the previewed frame; the overlay's group would apply it twice.
    object.matrix.copy(this.frame).invert().multiply(item.object.matrix);
    object.frustumCulled = false;
    this.highlight.add(object);
  }

  private visibleBox(): THREE.Box3 {
    const box = new THREE.Box3();
    for (const item of this.items.values()) if (item.object.visible) box.union(item.box());
    return box;
  }

  fit(): void {
    const box = this.visibleBox();
    if (box.isEmpty()) return;
    this.fitted = true;
    const radius = 0.5 * box.getSize(new THREE.Vector3()).length();
    const away = this.camera.position.clone().sub(this.target).normalize();
    box.getCenter(this.target);
    const distance = radius / Math.sin(THREE.MathUtils.degToRad(this.camera.fov / 2)) / Math.min(1, this.camera.aspect);
    this.camera.position.copy(this.target).addScaledVector(away, 0.92 * distance);
    this.draw();
  }

  look(view: StandardView): void {
    const direction = new THREE.Vector3(...DIRECTIONS[view]);
    const distance = this.camera.position.distanceTo(this.target);
    // Straight down there is no "up" along Z: a hair off it keeps Y up in the picture.
    if (Math.abs(direction.z) === 1) direction.y = -1e-4;
    this.camera.position.copy(this.target).addScaledVector(direction.normalize(), distance);
    this.fit();
  }

  private ray(at: ScreenPoint): THREE.Ray {
    const caster = new THREE.Raycaster();
    caster.setFromCamera(new THREE.Vector2((2 * at.x) / this.host.clientWidth - 1, 1 - (2 * at.y) / this.host.clientHeight), this.lens() as THREE.PerspectiveCamera | THREE.OrthographicCamera);
    return caster.ray;
  }

  /** What is under the pointer, in project coordinates (a previewed frame taken off again). */
  pick(at: ScreenPoint, only?: (itemId: string) => boolean): Hit | undefined {
    const ray = this.ray(at);
    let best: { item: SceneItem; index: number; distance: number; point: THREE.Vector3 } | null = null;
    for (const item of this.items.values()) {
      if (!item.object.visible || (only && !only(item.id))) continue;
      const found = item.hit(ray, 4 * this.mmPerPixel());
      if (found && (!best || found.distance < best.distance)) best = { item, ...found };
    }
    if (!best) return undefined;
    const p = best.point.applyMatrix4(this.frame.clone().invert());
    return { itemId: best.item.id, kind: best.item.kind, index: best.index, pointMm: [p.x, p.y, p.z] };
  }

  /** Where a project point is on the screen, in CSS pixels of the view. */
  project(point: readonly [number, number, number]): ScreenPoint {
    const v = new THREE.Vector3(...point).applyMatrix4(this.frame).project(this.lens());
    return { x: (0.5 + 0.5 * v.x) * this.host.clientWidth, y: (0.5 - 0.5 * v.y) * this.host.clientHeight };
  }

  turn(dx: number, dy: number, about: readonly [number, number, number] | null): void {
    const pivot = about ? new THREE.Vector3(...about).applyMatrix4(this.frame) : this.target;
    const right = new THREE.Vector3(1, 0, 0).applyQuaternion(this.camera.quaternion);
    const yaw = new THREE.Quaternion().setFromAxisAngle(this.camera.up, -0.006 * dx);
    const view = this.camera.position.clone().sub(this.target).normalize();
    const polar = Math.acos(THREE.MathUtils.clamp(view.dot(this.camera.up), -1, 1));
    const pitchBy = THREE.MathUtils.clamp(-0.006 * dy, 0.02 - polar, Math.PI - 0.02 - polar);
    const q = yaw.multiply(new THREE.Quaternion().setFromAxisAngle(right, pitchBy));
    for (const p of [this.camera.position, this.target]) p.sub(pivot).applyQuaternion(q).add(pivot);
    this.draw();
  }

  shift(dx: number, dy: number): void {
    const k = this.mmPerPixel();
    const move = new THREE.Vector3(-dx * k, dy * k, 0).applyQuaternion(this.camera.quaternion);
    this.camera.position.add(move);
    this.target.add(move);
    this.draw();
  }

  zoom(factor: number, at: ScreenPoint): void {
    const ray = this.ray(at);
    const distance = this.camera.position.distanceTo(this.target);
    // The place under the pointer at the depth of the target stays under the pointer.
    const forward = this.target.clone().sub(this.camera.position).normalize();
    const toward = ray.at(this.target.clone().sub(ray.origin).dot(forward) / ray.direction.dot(forward), new THREE.Vector3());
    this.camera.position.lerp(toward, 1 - factor);
    this.target.lerp(toward, 1 - factor);
    const away = this.camera.position.clone().sub(this.target).setLength(distance * factor);
    this.camera.position.copy(this.target).add(away);
    this.draw();
  }

  /**
   * Points and faces inside a closed path on the screen. Front only takes those within reach of the foremost ones around them,
   * through takes all.
   */
  selectInside(path: readonly ScreenPoint[], through: boolean): Selection[] {
    const w = this.host.clientWidth;
    const h = this.host.clientHeight;
    const cell = 6;
    const columns = Math.ceil(w / cell);
    const front = new Float32Array(columns * Math.ceil(h / cell)).fill(Infinity);
    const found: { item: SceneItem; index: number[]; depth: number[]; cells: number[] }[] = [];
    const v = new THREE.Vector3();
    const lens = this.lens();
    for (const item of this.items.values()) {
      if (!item.object.visible) continue;
      const entry = { item, index: [] as number[], depth: [] as number[], cells: [] as number[] };
      const { positions: p, faces } = item.geometry;
      const many = faces ? faces.length / 3 : p.length / 3;
      const matrix = item.object.matrix;
      for (let i = 0; i < many; i++) {
        if (item.mask && !item.mask[i]) continue;
        if (faces) {
          const [a, b, c] = [3 * faces[3 * i]!, 3 * faces[3 * i + 1]!, 3 * faces[3 * i + 2]!];
          v.set((p[a]! + p[b]! + p[c]!) / 3, (p[a + 1]! + p[b + 1]! + p[c + 1]!) / 3, (p[a + 2]! + p[b + 2]! + p[c + 2]!) / 3);
        } else v.set(p[3 * i]!, p[3 * i + 1]!, p[3 * i + 2]!);
        v.applyMatrix4(matrix);
        const depth = v.distanceTo(lens.position);
        v.project(lens);
        const x = (0.5 + 0.5 * v.x) * w;
        const y = (0.5 - 0.5 * v.y) * h;
        if (x < 0 || y < 0 || x >= w || y >= h) continue;
        const k = Math.floor(y / cell) * columns + Math.floor(x / cell);
        if (depth < front[k]!) front[k] = depth;
        if (!isInside(path, x, y)) continue;
        entry.index.push(i);
        entry.depth.push(depth);
        entry.cells.push(k);
      }
      found.push(entry);
    }
    const reach = Math.max(3 * cell * this.mmPerPixel(), 1);
    return found
      .map(({ item, index, depth, cells }) => {
        const kept = through ? index : index.filter((_, n) => depth[n]! <= front[cells[n]!]! + reach);
        return { target: item.id, ranges: toRanges(kept), count: kept.length };
      })
      .filter((s) => s.count > 0);
  }

  /** Shows a selection in amber. */
  highlightSelection(selection: readonly Selection[]): void {
    this.highlight.clear();
    for (const part of selection) {
      const item = [...this.items.values()].find((i) => i.id === part.target);
      if (!item) continue;
      const list: number[] = [];
      for (const [from, to] of part.ranges) for (let i = from; i <= to; i++) list.push(i);
      const buffer = new THREE.BufferGeometry();
      buffer.setAttribute('position', new THREE.BufferAttribute(item.geometry.positions, 3));
      const faces = item.geometry.faces;
      if (faces) {
        buffer.setIndex(list.flatMap((f) => [faces[3 * f]!, faces[3 * f + 1]!, faces[3 * f + 2]!]));
        this.overlay(new THREE.Mesh(buffer, new THREE.MeshBasicMaterial({ color: SELECTED, side: THREE.DoubleSide, polygonOffset: true, polygonOffsetFactor: -2, polygonOffsetUnits: -2 })), item);
      } else {
        buffer.setIndex(list);
        this.overlay(new THREE.Points(buffer, new THREE.PointsMaterial({ color: SELECTED, size: 2.4, sizeAttenuation: false })), item);
      }
    }
    this.draw();
  }
}

export function toRanges(sorted: readonly number[]): [number, number][] {
  const ranges: [number, number][] = [];
  for (const i of sorted) {
    const last = ranges[ranges.length - 1];
    if (last && last[1] === i - 1) last[1] = i;
    else ranges.push([i, i]);
  }
  return ranges;
}
