import * as THREE from 'three';
import { type DatumShape, datumObject, numberMark } from './datumShapes';
import { facesOver } from './facesOver';
import { markedObjects } from './markedObjects';
import { type Marks, NOTHING } from './marks';
import { dimensionObject, keepApart, type ShownDimension } from './dimensions';
import { AXES } from './palette';
import type { Place } from '../tools/rims/rims';
import { RimLayer } from './rimLayer';
import { meantRims } from './rims';
import type { SceneItem } from './sceneItem';
import { sectionObjects, type ShownSection } from './sections';
import { type ShownStroke, strokeObject } from './strokes';

export interface TextMark {
  point: readonly [number, number, number];
  /** on this item, and shown where it is shown */
  itemId?: string;
  text: string;
  colour: string;
  size?: number;
}

/** How strong a mark is that lies behind the part. */
const BEHIND = 0.4;

/** What lies over the items of the view and is no part of them: datums, sections, marks, rims, marked and coloured faces, axes. */
export class Overlays {
  private readonly datums = new THREE.Group();
  private readonly sections = new THREE.Group();
  private readonly marks = new THREE.Group();
  private texts: readonly TextMark[] = [];
  readonly rims: RimLayer;
  private readonly meant = new THREE.Group();
  private readonly strokes = new THREE.Group();
  private readonly highlight = new THREE.Group();
  private readonly dimensions = new THREE.Group();
  private readonly axes = new THREE.Group();
  /** what belongs to a gesture, not to the project */
  readonly gestures: readonly THREE.Group[];
  readonly groups: readonly THREE.Group[];

  /** @param frame from the project to the scene; the axes are those of the scene itself */
  constructor(
    private readonly frame: THREE.Matrix4,
    private readonly find: (itemId: string) => SceneItem | undefined,
  ) {
    this.rims = new RimLayer(find);
    this.gestures = [this.marks, this.rims.object, this.highlight, this.strokes];
    this.groups = [this.datums, this.sections, this.marks, this.rims.object, this.meant, this.highlight, this.strokes, this.dimensions, this.axes];
  }

  reframe(): void {
    for (const group of [this.datums, this.sections, this.marks, this.rims.object, this.meant, this.highlight, this.strokes, this.dimensions]) {
      group.matrixAutoUpdate = false;
      group.matrix.copy(this.frame);
      group.matrixWorldNeedsUpdate = true;
    }
  }

  showAxes(visible: boolean): void {
    this.axes.clear();
    if (!visible) return;
    AXES.forEach((colour, k) => {
      const end = new THREE.Vector3().setComponent(k, 30);
      this.axes.add(new THREE.Line(new THREE.BufferGeometry().setFromPoints([new THREE.Vector3(), end]), new THREE.LineBasicMaterial({ color: colour, depthTest: false })));
      const mark = numberMark('XYZ'[k] ?? '', `#${colour.toString(16)}`);
      mark.position.copy(end);
      this.axes.add(mark);
    });
  }

  showDatums(datums: readonly DatumShape[]): void {
    this.datums.clear();
    for (const datum of datums) this.datums.add(datumObject(datum));
  }

  showSections(sections: readonly ShownSection[]): void {
    this.sections.clear();
    for (const section of sections) for (const object of sectionObjects(section)) this.sections.add(object);
  }

  showTexts(marks: readonly TextMark[]): void {
    this.marks.clear();
    this.texts = marks;
    for (const { text, colour, size } of marks) this.marks.add(numberMark(text, colour, size));
    this.placeTexts();
  }

  /** Puts marks where the items are shown that they are on. */
  placeTexts(): void {
    this.texts.forEach(({ point, itemId }, k) => {
      const place = new THREE.Vector3(...point);
      this.marks.children[k]?.position.copy((itemId && this.find(itemId)?.shown(place)) || place);
    });
  }

  /** Marks of places that lie behind the part are dimmed. */
  dimBehind(isInSight: (place: readonly [number, number, number]) => boolean): void {
    this.texts.forEach(({ point, itemId }, k) => {
      const mark = this.marks.children[k];
      // One that is on an item which is shown elsewhere is looked for there, and never behind it.
      if (mark instanceof THREE.Sprite && !itemId) {
        mark.material.transparent = true;
        mark.material.opacity = isInSight(point) ? 1 : BEHIND;
      }
    });
  }

  /** Rims that stay open; not beside those of a gesture, which has them in its list. */
  showMeantRims(outlines: readonly (readonly Place[])[]): void {
    this.meant.clear();
    for (const object of meantRims(outlines)) this.meant.add(object);
  }

  showDimensions(dimensions: readonly ShownDimension[]): void {
    this.dimensions.clear();
    for (const dimension of dimensions) this.dimensions.add(dimensionObject(dimension));
  }

  /** Where it is looked from decides which values have room. */
  keepApart(camera: THREE.Camera): void {
    this.meant.visible = this.rims.isEmpty;
    keepApart(this.dimensions.children, camera);
  }

  showStrokes(strokes: readonly ShownStroke[]): void {
    this.strokes.clear();
    for (const stroke of strokes) {
      const object = strokeObject(stroke);
      if (object) this.strokes.add(object);
    }
  }

  /** Amber over some faces of a body, or the colours of their distances, -1 to 1 of the most that is told apart. */
  showFaces(item: SceneItem | undefined, faces: readonly number[], shares: readonly number[]): void {
    this.highlight.clear();
    if (item?.geometry.faces) this.lay(facesOver(item.geometry.positions, item.geometry.faces, faces, shares), item);
  }

  /** Marked points and faces in amber; those of them that lie behind others shine through as a pale ghost. */
  showMarks(marks: Marks, ghost: Marks | undefined, clip: THREE.Plane[]): void {
    this.highlight.clear();
    for (const [id, marked] of marks) {
      const item = this.find(id);
      if (item) for (const object of markedObjects(item, marked, (ghost ?? NOTHING).get(id), clip)) this.lay(object, item);
    }
  }

  private lay(object: THREE.Object3D, item: SceneItem): void {
    object.matrixAutoUpdate = false;
    // Items already stand in the previewed frame; the overlay's group would apply it twice.
    object.matrix.copy(this.frame).invert().multiply(item.object.matrix);
    object.frustumCulled = false;
    this.highlight.add(object);
  }
}
