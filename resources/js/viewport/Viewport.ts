import * as THREE from 'three';
import type { Box, BoxUse, Handle, Vec } from '../tools/cropBox/box';
import type { Hit, ScreenPoint } from '../tools/events';
import { Aside } from './aside';
import type { Geometry } from './blob';
import { BUDGET, shareOf } from './budget';
import { MOVED, SIDES, type StandardView, ViewCamera } from './ViewCamera';
import { CoverageView } from './coverageView';
import { CropBoxView, intoBox, sidesOf, spanInside } from './cropBoxView';
import { beforePlane, type Cut, planeOf } from './cut';
import type { DatumShape } from './datumShapes';
import type { ShownDimension } from './dimensions';
import { Magnified } from './magnified';
import type { Marks } from './marks';
import { Overlays, type TextMark } from './Overlays';
import { RAMP } from './palette';
import type { Place, RimPlace } from '../tools/rims/rims';
import type { RimPicks, ShownRim } from './rimLayer';
import type { ShownStroke } from './strokes';
import { inside } from './screenMask';
import { Relief } from './relief';
import { markInside, renderDepth } from './select';
import type { ColourMode, ItemHit, SceneItem, Thin } from './sceneItem';
import type { ShownSection } from './sections';
import type { ShownLevel } from './levelLayer';
import type { ShownShapes } from './shapeLayer';
import { stills } from './stills';

/** Strength of the light that goes with the camera, by the theme of the page. */
const HEADLIGHT = { onDark: 1.5, onLight: 2.3 };

/**
 * The 3D view: draws items, turns the camera, finds what is under the pointer. Knows three.js, not React.
 *
 * Long because all that the page asks of the view comes in here; what is asked is done by camera, items, overlays and crop box, each in a file of its own.
 */
export class Viewport {
  private readonly renderer: THREE.WebGLRenderer;
  private readonly scene = new THREE.Scene();
  private readonly camera = new ViewCamera();
  private colours: ColourMode = 'evidence';
  private noiseToMm = 1;
  /** items that a preview shows moved */
  private previewed = 0;
  /** by key, the boxes of what was shown when things were last arranged */
  private stood: ReadonlyMap<string, THREE.Box3> = new Map();
  private lacking: Thin = { share: 0, itemIds: [] };
  private readonly headlight = new THREE.DirectionalLight(0xffffff);
  private readonly items = new Map<string, SceneItem>();
  private readonly cropBox = new CropBoxView();
  private readonly coverage = new CoverageView();
  private readonly magnified = new Magnified();
  private readonly relief = new Relief();
  private shades: ReadonlyMap<string, Uint8Array> | null = null;
  private shadeRamp: readonly number[] = RAMP;
  private hiddenOutside: Box | null = null;
  private cut: Cut | null = null;
  private removedShown: Readonly<Record<string, boolean>> = {};
  /** from the project to the scene: another than the project's while a frame is previewed */
  readonly frame = new THREE.Matrix4();
  private readonly over = new Overlays(this.frame, (id) => this.find(id));
  private readonly aside = new Aside();
  private asideIds: readonly string[] = [];
  private readonly observer: ResizeObserver;
  private queued = false;
  private isMoving = false;
  private rest: ReturnType<typeof setTimeout> | undefined;
  /** the share of the points that is drawn, below 1 when there are more than the budget allows */
  private share = 1;
  onDraw: (mmPerPixel: number) => void = () => {};
  /** told which share of the points is drawn */
  onShare: (share: number) => void = () => {};
  /** told that the graphics card has dropped the picture, or has it again */
  onLost: (isLost: boolean) => void = () => {};

  constructor(private readonly host: HTMLElement) {
    this.renderer = new THREE.WebGLRenderer({ antialias: true, alpha: true, preserveDrawingBuffer: true });
    this.renderer.setPixelRatio(Math.min(2, window.devicePixelRatio));
    host.append(this.renderer.domElement);
    this.renderer.domElement.setAttribute('aria-hidden', 'true');
    this.scene.add(new THREE.HemisphereLight(0xfff4e6, 0x4a4038, 1.4), this.headlight, this.headlight.target, ...this.over.groups, this.cropBox.object, this.coverage.object);
    this.renderer.localClippingEnabled = true;
    this.renderer.domElement.addEventListener('webglcontextlost', (e) => {
      // Without this the browser would not give it back.
      e.preventDefault();
      this.onLost(true);
    });
    this.renderer.domElement.addEventListener('webglcontextrestored', () => {
      this.onLost(false);
      this.draw();
    });
    this.observer = new ResizeObserver(() => this.resize());
    this.observer.observe(host);
    this.resize();
  }

  dispose(): void {
    this.observer.disconnect();
    clearTimeout(this.rest);
    for (const item of this.items.values()) item.dispose();
    this.magnified.dispose();
    this.relief.dispose();
    this.renderer.dispose();
    this.renderer.domElement.remove();
  }

  private resize(): void {
    const { clientWidth: w, clientHeight: h } = this.host;
    if (w === 0 || h === 0) return;
    this.renderer.setSize(w, h);
    this.camera.resize(w, h);
    this.draw();
  }

  /** Draws fewer points while the view moves, and all that the budget allows as soon as it rests. */
  private moving(): void {
    this.isMoving = true;
    this.thin(BUDGET.moving);
    this.draw();
  }

  /** The wait for rest begins with a drawn frame: on slow hardware all points would be drawn in the middle of a movement. */
  private waitForRest(): void {
    clearTimeout(this.rest);
    this.rest = setTimeout(() => {
      this.isMoving = false;
      this.thin(BUDGET.resting);
      this.draw();
    }, 180);
  }

  private thin(budget: number): void {
    let points = 0;
    for (const item of this.visible()) points += item.pointCount();
    this.share = shareOf(points, budget);
    for (const item of this.items.values()) item.thin(this.share);
    this.onShare(this.share);
  }

  /** Draws before the next frame, where there is room to draw in; many calls draw once. */
  draw(): void {
    if (this.queued) return;
    this.queued = true;
    requestAnimationFrame(() => {
      this.queued = false;
      if (this.host.clientWidth === 0) return;
      this.update();
      this.render(this.camera);
      this.renderer.domElement.dataset.drawn = `${this.renderer.info.render.calls} calls, ${this.renderer.info.render.points} points`;
      if (this.isMoving) this.waitForRest();
      this.onDraw(this.mmPerPixel());
    });
  }

  private render(camera: ViewCamera): void {
    this.headlight.position.copy(camera.position).addScaledVector(new THREE.Vector3(0.4, 0.7, 0).applyQuaternion(camera.quaternion), 0.4 * camera.distance);
    // On a light ground a part that is lit as on a dark one looks dark.
    this.headlight.intensity = document.documentElement.dataset.theme === 'limestone' ? HEADLIGHT.onLight : HEADLIGHT.onDark;
    this.headlight.target.position.copy(camera.target);
    this.headlight.target.updateMatrixWorld();
    this.over.keepApart(camera.lens);
    this.over.rims.spread(
      (place) => camera.project(this.scenePlace(place)),
      (place, dx, dy) => this.projectPlace(camera.shifted(this.scenePlace(place), dx, dy)),
      (place) => this.isInSight(place),
    );
    // In motion the marks keep what they had: it is looked at when the view rests.
    if (!this.isMoving) this.over.dimBehind((place) => this.isInSight(place));
    for (const item of this.visible()) item.sizePoints(camera.mmPerPixel(), this.share);
    // Surfaces have normals to be shaded by; points have not.
    if (this.hasPoints()) this.relief.render(this.renderer, this.scene, camera.lens);
    else this.renderer.render(this.scene, camera.lens);
  }

  private hasPoints(): boolean {
    for (const item of this.visible()) if (item.pointCount() > 0) return true;
    return false;
  }

  /** Makes the camera, and what stands by it, fit where it looks from now. */
  private update(): void {
    this.camera.update(this.visibleBox().getSize(new THREE.Vector3()).length());
    if (!this.aside.isShown) return;
    this.aside.place(new THREE.Vector3(1, 0, 0).applyQuaternion(this.camera.quaternion).transformDirection(this.frame.clone().invert()), this.frame);
    this.over.placeTexts();
  }

  setParallel(parallel: boolean): void {
    this.camera.parallel = parallel;
    this.draw();
  }

  /** @param noiseToMm what noise has the last colour */
  setColours(mode: ColourMode, noiseToMm: number): void {
    this.colours = mode;
    this.noiseToMm = noiseToMm;
    for (const item of this.items.values()) this.colour(item);
    this.draw();
  }

  /** Leaves surface of these items out that has less support than this share of the usual. */
  setLeastSupport(thin: Thin): void {
    this.lacking = thin;
    for (const item of this.items.values()) item.leaveOutBelow(thin.itemIds.includes(item.id) ? thin.share : 0);
    this.draw();
  }

  /** Colours passes and bodies by a map, a byte a point or vertex; null gives them their own colours back. */
  setShades(shades: ReadonlyMap<string, Uint8Array> | null, ramp: readonly number[] = RAMP): void {
    this.shades = shades;
    this.shadeRamp = ramp;
    for (const item of this.items.values()) this.colour(item);
    this.draw();
  }

  /** The shade of the map that is shown at a place that was picked; null where it has none. */
  shadeAt(hit: Hit): number | null {
    const shades = this.shades?.get(hit.itemId);
    return (shades && this.find(hit.itemId)?.shadeAt(shades, hit.index, new THREE.Vector3(...hit.pointMm))) ?? null;
  }

  /** What a running capture has seen so far; null when there is none. */
  setCoverage(cells: Geometry | null, standsAt: readonly [number, number, number] | null = null): void {
    const first = this.coverage.object.children.length === 0;
    if (cells) this.coverage.show(cells, standsAt);
    else this.coverage.clear();
    if (cells && first) this.fit();
    this.draw();
  }

  /** From what is looked at to where it is looked from, in project coordinates. */
  lookingFrom(): Vec {
    return this.camera.position.clone().sub(this.camera.target).transformDirection(this.frame.clone().invert()).toArray();
  }

  /** Goes to a place, near enough that a length in millimetres fills the view; looks at it from the outside of the surface there, where there is any. */
  flyTo(point: Place, acrossMm: number): void {
    let outward: THREE.Vector3 | null = null;
    for (const item of this.visible()) if (item.box().expandByScalar(acrossMm).containsPoint(this.scenePlace(point))) outward = item.outwardAt(point, acrossMm / 4) ?? outward;
    this.camera.flyTo(this.scenePlace(point), acrossMm, outward?.transformDirection(this.frame));
    this.draw();
  }

  /** Draws what is around a place of the view, enlarged, into a small canvas: the part itself, not the marks on it. */
  magnify(at: ScreenPoint, into: HTMLCanvasElement, times: number): void {
    const marks = [...this.over.gestures, this.cropBox.object].filter((group) => group.visible);
    for (const group of marks) group.visible = false;
    this.magnified.draw(this.renderer, this.scene, this.camera.lens, { width: this.host.clientWidth, height: this.host.clientHeight }, at, into, times);
    for (const group of marks) group.visible = true;
  }

  mmPerPixel(): number {
    return this.camera.mmPerPixel();
  }

  isEmpty(): boolean {
    return this.items.size === 0;
  }

  private colour(item: SceneItem): void {
    item.paint(this.colours, this.noiseToMm);
    item.shade(this.shades?.get(item.id) ?? null, this.shadeRamp);
  }

  has(key: string): boolean {
    return this.items.has(key);
  }

  add(key: string, item: SceneItem): void {
    this.items.set(key, item);
    this.colour(item);
    item.leaveOutBelow(this.lacking.itemIds.includes(item.id) ? this.lacking.share : 0);
    item.clip(this.clip());
    this.scene.add(item.object);
  }

  /** Shows exactly these items (by key), placed; drops the others. */
  arrange(wanted: ReadonlyMap<string, { transform: readonly number[]; visible: boolean; colour?: number }>): void {
    for (const [key, item] of this.items) {
      const want = wanted.get(key);
      if (!want) {
        this.scene.remove(item.object);
        item.dispose();
        this.items.delete(key);
      } else {
        item.place(want.transform, this.frame);
        item.object.visible = want.visible;
        if (want.colour !== undefined && item.recolour(want.colour)) this.colour(item);
      }
    }
    // Passes that were far apart come together or go elsewhere, a body takes the place of its passes: whoever has not chosen a view sees them whole.
    this.putAside();
    if (this.cut) this.meet();
    // Rims are drawn along the edges of what stands there now.
    this.over.rims.lay();
    const box = this.visibleBox();
    // While things are shown elsewhere than they stand the view must not jump under the pointer.
    if (this.previewed === 0 && !this.aside.isShown && !box.isEmpty()) {
      if (this.camera.hasLost(box) || (this.hasMovedFar() && !this.camera.shows(box))) this.fit();
      this.stood = new Map([...this.items].filter(([, item]) => item.object.visible).map(([key, item]) => [key, item.box()]));
    }
    this.thin(BUDGET.resting);
    this.draw();
  }

  /** Does something stand elsewhere than it did by far, as after a frame was set? A view that was chosen for where it stood says nothing then. */
  private hasMovedFar(): boolean {
    return [...this.stood].some(([key, box]) => {
      const now = this.items.get(key)?.box();
      const far = MOVED * box.getSize(new THREE.Vector3()).length();
      return now !== undefined && (now.min.distanceTo(box.min) > far || now.max.distanceTo(box.max) > far);
    });
  }

  /** Shows items moved, until null puts them back. */
  preview(itemIds: readonly string[], by: readonly number[] | null): void {
    this.previewed = by === null ? 0 : itemIds.length;
    for (const id of itemIds) this.find(id)?.preview(by, this.frame);
    this.over.placeTexts();
    this.draw();
  }

  /** Shows pale copies of items, moved; null takes them away. */
  previewCopies(itemIds: readonly string[], by: readonly number[] | null): void {
    for (const id of itemIds) this.find(id)?.showCopy(by);
    this.draw();
  }

  /** Shows items beside all others, until none are named; picks on them are of where they stand. */
  setAside(itemIds: readonly string[]): void {
    this.asideIds = itemIds;
    const wasShown = this.aside.isShown;
    this.putAside();
    if (this.aside.isShown || wasShown) this.fit();
    this.over.placeTexts();
  }

  private putAside(): void {
    const visible = [...this.visible()];
    const isAside = (item: SceneItem) => this.asideIds.includes(item.id);
    this.aside.set(
      visible.filter(isAside),
      visible.filter((item) => !isAside(item)),
      this.frame,
    );
  }

  /** Shows what was cut away from these passes. */
  showRemoved(ids: Readonly<Record<string, boolean>>): void {
    this.removedShown = ids;
    for (const item of this.items.values()) item.showRemoved(ids[item.id] === true);
    this.draw();
  }

  setFrame(matrix: readonly number[] | null): void {
    if (matrix) this.frame.set(...(matrix as unknown as Parameters<THREE.Matrix4['set']>));
    else this.frame.identity();
    for (const item of this.items.values()) item.reframe(this.frame);
    for (const item of this.items.values()) item.clip(this.clip());
    this.over.reframe();
    this.cropBox.object.matrixAutoUpdate = false;
    this.cropBox.object.matrix.copy(this.frame);
    this.cropBox.object.matrixWorldNeedsUpdate = true;
    const box = this.visibleBox();
    if (!box.isEmpty() && this.camera.hasLost(box)) this.fit();
    this.draw();
  }

  setAxes(visible: boolean): void {
    this.over.showAxes(visible);
    this.draw();
  }

  private clip(): THREE.Plane[] {
    return [...(this.hiddenOutside ? sidesOf(this.hiddenOutside, this.frame) : []), ...(this.cut ? [planeOf(this.cut, this.frame)] : [])];
  }

  /** Shows nothing beyond a plane, or everything again. What is not shown is not picked. */
  setCut(cut: Cut | null): void {
    this.cut = cut;
    for (const item of this.items.values()) item.clip(this.clip());
    this.meet();
    this.draw();
  }

  /** Draws the curves along which what is shown is cut. */
  private meet(): void {
    const plane = this.cut && planeOf(this.cut, this.frame);
    for (const item of this.items.values()) item.showMeeting(plane);
  }

  /** From the scene to the box that hides what is outside it. */
  private within(): { into: THREE.Matrix4; half: readonly [number, number, number] } | null {
    const box = this.hiddenOutside;
    return box && { into: intoBox(box).multiply(this.frame.clone().invert()), half: [box.size[0] / 2, box.size[1] / 2, box.size[2] / 2] };
  }

  setCropBox(box: Box | null, use: BoxUse = 'size'): void {
    this.cropBox.set(box, use);
    this.draw();
  }

  handleAt(at: ScreenPoint): Handle | null {
    return this.cropBox.at(at, (p) => this.project(p));
  }

  /** A box around everything visible, or around some items where they stand, a little larger; null while one is not loaded. */
  boundsOf(itemIds?: readonly string[]): Box | null {
    const box = itemIds ? new THREE.Box3() : this.visibleBox();
    for (const id of itemIds ?? []) {
      const item = this.find(id);
      // Not all of it is here yet.
      if (!item) return null;
      box.union(item.stood());
    }
    if (box.isEmpty()) return null;
    const centre = box.getCenter(new THREE.Vector3());
    const size = box.getSize(new THREE.Vector3());
    const margin = 0.02 * size.length();
    return { centre: [centre.x, centre.y, centre.z], size: [size.x + margin, size.y + margin, size.z + margin], turn: [0, 0, 0] };
  }

  /** Hides what lies outside a box, or shows everything again; gives how many points and faces are hidden, by item. */
  hideOutside(box: Box | null): Record<string, number> {
    this.hiddenOutside = box;
    const hidden: Record<string, number> = {};
    const within = this.within();
    for (const item of this.items.values()) {
      item.clip(this.clip());
      if (within) hidden[item.id] = item.outside(within.into.clone().multiply(item.object.matrix), within.half);
    }
    this.draw();
    return hidden;
  }

  setDatums(datums: readonly DatumShape[]): void {
    this.over.showDatums(datums);
    this.draw();
  }

  setSections(sections: readonly ShownSection[]): void {
    this.over.showSections(sections);
    this.draw();
  }

  /** Draws measured lines with their values. */
  setDimensions(dimensions: readonly ShownDimension[]): void {
    this.over.showDimensions(dimensions);
    this.draw();
  }

  /** Lays shapes over bodies, by the id of the body; over all others nothing. */
  setShapes(shown: ReadonlyMap<string, ShownShapes>): void {
    for (const item of this.items.values()) {
      item.showShapes(shown.get(item.id) ?? null);
      item.clip(this.clip());
    }
    this.draw();
  }

  /** Shows bodies with fewer faces; those that are not named as they are. */
  setLevels(shown: ReadonlyMap<string, ShownLevel>): void {
    for (const item of this.items.values()) {
      item.showLevel(shown.get(item.id) ?? null);
      item.clip(this.clip());
    }
    this.draw();
  }

  /** What was loaded of an item; null before it is there. */
  geometryOf(id: string): Geometry | null {
    return this.find(id)?.geometry ?? null;
  }

  setMarks(marks: readonly TextMark[]): void {
    this.over.showTexts(marks);
    this.draw();
  }

  /** Draws rims of holes with their numbers. */
  showRims(rims: readonly ShownRim[]): void {
    this.over.rims.show(rims);
    this.draw();
  }

  /** Draws what is picked on rims, and what is about to be. */
  showRimPicks(picks: RimPicks): void {
    this.over.rims.showPicks(picks);
    this.draw();
  }

  /**
   * The rim corner that a pointer at a place of the view means: the nearest one, but any visible corner before one that the part hides.
   *
   * @param withinPx corners farther away than this, in CSS pixels, are not meant
   */
  rimAt(at: ScreenPoint, withinPx: number): RimPlace | null {
    const near = this.over.rims.near(at, (place) => this.project(place)).filter(({ px }) => px <= withinPx);
    return (near.find(({ place }) => this.isInSight(place.pointMm)) ?? near[0])?.place ?? null;
  }

  /**
   * The corner of one rim that is nearest to a place of the view; null where that place lies neither inside the rim nor near it.
   *
   * @param withinPx how far from the rim still counts as near, CSS pixels
   */
  rimSide(key: string, at: ScreenPoint, withinPx: number): RimPlace | null {
    const found = this.over.rims.near(at, (place) => this.project(place)).find(({ place }) => place.rim === key);
    if (!found) return null;
    const isWithin = inside(
      at,
      this.over.rims.placesOf(key).map((place) => this.project(place)),
    );
    return found.px <= withinPx || isWithin ? found.place : null;
  }

  /** The corners of a rim that is drawn, mm in the project. */
  rimPlaces(key: string): readonly Place[] {
    return this.over.rims.placesOf(key);
  }

  /** Whether no surface lies before a place, but what it lies on. */
  private isInSight(place: Place): boolean {
    const hit = this.pick(this.project(place), (id) => this.find(id)?.geometry.faces != null);
    const eye = this.camera.position;
    return !hit || this.scenePlace(hit.pointMm).distanceTo(eye) > this.scenePlace(place).distanceTo(eye) - 6 * this.mmPerPixel();
  }

  /** Draws rims that stay open on purpose. */
  showMeantRims(outlines: readonly (readonly Place[])[]): void {
    this.over.showMeantRims(outlines);
    this.draw();
  }

  /** Draws strokes that guide cells. */
  showStrokes(strokes: readonly ShownStroke[]): void {
    this.over.showStrokes(strokes);
    this.draw();
  }

  /** Lays amber over some faces of a body, or the colours of their distances, -1 to 1 of the most that is told apart. */
  highlightFaces(itemId: string | null, faces: readonly number[], shares: readonly number[] = []): void {
    this.over.showFaces(itemId === null ? undefined : this.find(itemId), faces, shares);
    this.draw();
  }

  private visibleBox(): THREE.Box3 {
    const box = new THREE.Box3();
    for (const item of this.items.values()) if (item.object.visible) box.union(item.box());
    return box.union(this.coverage.box());
  }

  fit(): void {
    // What stands aside goes by where is looked from, and the box by that.
    if (this.aside.isShown) this.update();
    const box = this.visibleBox();
    if (box.isEmpty()) return;
    this.camera.fit(box);
    // At once, and not with the next drawn frame: a press may come before it, and must find places where they will be drawn.
    this.update();
    this.draw();
  }

  look(view: StandardView): void {
    this.camera.look(view);
    this.fit();
  }

  /** The line of sight under a place of the view, in project coordinates. */
  rayAt(at: ScreenPoint): { origin: Vec; direction: Vec } {
    const ray = this.camera.ray(at).applyMatrix4(this.frame.clone().invert());
    return { origin: ray.origin.toArray(), direction: ray.direction.toArray() };
  }

  /** Small pictures of all that is visible from the six sides, as data URLs, Z or Y up as in the standard views; null when nothing is visible. */
  sixSides(width: number, height: number): Record<StandardView, string> | null {
    const pictures = this.stills(SIDES.map(ViewCamera.from), width, height);
    return pictures && (Object.fromEntries(SIDES.map((side, k) => [side, pictures[k]])) as Record<StandardView, string>);
  }

  /** A picture of all that is visible as it is looked at first, as a data URL; null when nothing is visible. */
  still(width: number, height: number): string | null {
    return this.stills([new ViewCamera()], width, height)?.[0] ?? null;
  }

  private stills(cameras: readonly ViewCamera[], width: number, height: number): string[] | null {
    const box = this.visibleBox();
    if (box.isEmpty()) return null;
    const over = [...this.over.gestures, this.cropBox.object].filter((group) => group.visible);
    for (const group of over) group.visible = false;
    const pictures = stills(this.renderer, cameras, box, width, height, (camera) => this.render(camera));
    for (const group of over) group.visible = true;
    this.resize();
    return pictures;
  }

  /** Back from the scene to the project. */
  private projectPlace(place: THREE.Vector3): [number, number, number] {
    return place.applyMatrix4(this.frame.clone().invert()).toArray();
  }

  private scenePlace(point: readonly [number, number, number]): THREE.Vector3 {
    return new THREE.Vector3(...point).applyMatrix4(this.frame);
  }

  /** What is under the pointer, in project coordinates: where it stands, whatever is previewed. */
  pick(at: ScreenPoint, only?: (itemId: string) => boolean): Hit | undefined {
    const ray = this.camera.ray(at);
    const inside = this.hiddenOutside ? spanInside(this.hiddenOutside, ray.clone().applyMatrix4(this.frame.clone().invert())) : undefined;
    if (inside === null) return undefined;
    const span = this.cut ? beforePlane(planeOf(this.cut, this.frame), ray, inside ?? [0, Number.POSITIVE_INFINITY]) : inside;
    if (span === null) return undefined;
    let best: (ItemHit & { item: SceneItem }) | null = null;
    for (const item of this.items.values()) {
      if (!item.object.visible || (only && !only(item.id))) continue;
      const found = item.hit(ray, 4 * this.mmPerPixel(), span);
      if (found && (!best || (found.isStray === best.isStray ? found.distance < best.distance : best.isStray))) best = { item, ...found };
    }
    if (!best) return undefined;
    return { itemId: best.item.id, kind: best.item.kind, index: best.index, pointMm: best.point.toArray() };
  }

  /** The visible pass or body with a point or vertex nearest to a place, and that point, or a face there; null when nothing is visible. */
  nearestTo(place: Place): { itemId: string; kind: Hit['kind']; index: number } | null {
    let best: { itemId: string; kind: Hit['kind']; index: number; away: number } | null = null;
    for (const item of this.visible()) {
      const near = item.nearestTo(place);
      if (near && (!best || near.away < best.away)) best = { itemId: item.id, kind: item.kind, ...near };
    }
    return best;
  }

  /** Where a project point is on the screen, in CSS pixels of the view; one of an item is where that is shown. */
  project(point: readonly [number, number, number], itemId?: string): ScreenPoint {
    const shown =
      itemId &&
      this.find(itemId)
        ?.shown(new THREE.Vector3(...point))
        .toArray();
    return this.camera.project(this.scenePlace(shown || point));
  }

  /** @param from where the drag began: what stands aside is turned on its own, in its half of the view */
  turn(dx: number, dy: number, about: readonly [number, number, number] | null, from?: ScreenPoint): void {
    if (this.aside.isShown && from && from.x > this.host.clientWidth / 2) {
      const back = this.frame.clone().invert();
      this.aside.turn(dx, dy, new THREE.Vector3(1, 0, 0).applyQuaternion(this.camera.quaternion).transformDirection(back), new THREE.Vector3(0, 0, 1).transformDirection(back));
      this.moving();
      return;
    }
    const pivot = about ?? this.aside.pivot?.toArray();
    this.camera.turn(dx, dy, pivot ? this.scenePlace(pivot) : this.camera.target);
    this.moving();
  }

  shift(dx: number, dy: number): void {
    this.camera.shift(dx, dy);
    this.moving();
  }

  zoom(factor: number, at: ScreenPoint): void {
    this.camera.zoom(factor, at);
    this.moving();
  }

  *visible(): Iterable<SceneItem> {
    for (const item of this.items.values()) if (item.object.visible) yield item;
  }

  find(itemId: string): SceneItem | undefined {
    for (const item of this.items.values()) if (item.id === itemId) return item;
    return undefined;
  }

  /** Points and faces on the marked pixels of the view (a byte each, see screenMask). */
  markInside(shape: (width: number, height: number) => Uint8Array, through: boolean): { found: Marks; behind: Marks } {
    const [width, height] = [this.host.clientWidth, this.host.clientHeight];
    const over = [...this.over.groups, this.cropBox.object];
    const shown = over.map((group) => group.visible);
    for (const group of over) group.visible = false;
    for (const item of this.items.values()) item.showRemoved(false);
    const { lens } = this.camera;
    const depth = renderDepth(this.renderer, this.scene, lens, width, height, this.clip(), 2 * Math.max(0, ...[...this.visible()].map((item) => item.spacing())));
    over.forEach((group, k) => {
      group.visible = shown[k]!;
    });
    this.showRemoved(this.removedShown);
    return markInside(this.visible(), shape(width, height), through, { lens, width, height, depth, slack: Math.max(5 * this.mmPerPixel(), 1e-3 * this.camera.distance), within: this.within() });
  }

  /** Shows marked points and faces in amber; those of them that lie behind others shine through as a pale ghost. */
  showMarks(marks: Marks, ghost?: Marks): void {
    this.over.showMarks(marks, ghost, this.clip());
    this.draw();
  }
}
