import * as THREE from 'three';
import { describe, expect, it } from 'vitest';
import type { Geometry } from './blob';
import { markedObjects } from './markedObjects';
import type { Marks } from './marks';
import { SceneItem } from './sceneItem';
import { areaAt, confidenceOf, inverseOf, lessSureThan, onSide, pieceAt, ringOf, seenByFew, type Seen } from './selections';

const of = (...bits: number[]) => new Uint8Array(bits);
const bits = (marks: Marks, id: string) => [...(marks.get(id) ?? [])];
const IDENTITY = [1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1];

const bare = (positions: number[], more: Partial<Geometry> = {}): Geometry => ({ origin: [0, 0, 0], bounds: { min: [0, 0, 0], max: [1, 1, 1] }, positions: new Float32Array(positions), faces: null, adjacency: null, faceOrigin: null, support: null, confidence: null, ...more }) as Geometry;

/** Points along X at 0, 1, 2, 3; the third is cut away. */
const row = (more: Partial<Geometry> = {}) => new SceneItem('row', 'pass', bare([0, 0, 0, 1, 0, 0, 2, 0, 0, 3, 0, 0], more), of(1, 1, 0, 1), 0xffffff);

/** A square of two faces in z = 0 and, apart from it, a face in z = 5. */
const sheet = (more: Partial<Geometry> = {}) =>
  new SceneItem(
    'sheet',
    'body',
    bare([0, 0, 0, 1, 0, 0, 1, 1, 0, 0, 1, 0, 0, 0, 5, 1, 0, 5, 1, 1, 5], {
      faces: new Uint32Array([0, 1, 2, 0, 2, 3, 4, 5, 6]),
      adjacency: new Uint32Array([0xffffffff, 0xffffffff, 1, 0, 0xffffffff, 0xffffffff, 0xffffffff, 0xffffffff, 0xffffffff]),
      ...more,
    }),
    null,
    0xffffff,
  );

function seen(items: SceneItem[], { frame = new THREE.Matrix4(), transform = IDENTITY }: { frame?: THREE.Matrix4; transform?: readonly number[] } = {}): Seen {
  for (const item of items) item.place(transform, frame);
  return {
    frame,
    *visible() {
      for (const item of items) if (item.object.visible) yield item;
    },
    find: (id) => items.find((i) => i.id === id),
  };
}

describe('what is marked of what is seen', () => {
  it('is everything else, but never what was cut away', () => {
    const view = seen([row(), sheet()]);
    const rest = inverseOf(view, new Map([['row', of(1, 0, 0, 0)]]));
    expect(bits(rest, 'row')).toEqual([0, 1, 0, 1]);
    expect(bits(rest, 'sheet')).toEqual([1, 1, 1]);
  });
  it('leaves hidden items alone', () => {
    const hidden = sheet();
    hidden.object.visible = false;
    expect([...inverseOf(seen([row(), hidden]), new Map()).keys()]).toEqual(['row']);
  });
  it('lies on one side of a plane or on the other, points by themselves and faces by their middles', () => {
    const view = seen([row(), sheet()]);
    const across = { origin: [0.9, 0, 0], direction: [1, 0, 0] } as const;
    expect(bits(onSide(view, across, 1), 'row')).toEqual([0, 1, 0, 1]);
    expect(bits(onSide(view, across, -1), 'row')).toEqual([1, 0, 0, 0]);
    const level = { origin: [7, 7, 2], direction: [0, 0, 1] } as const;
    expect(bits(onSide(view, level, 1), 'sheet')).toEqual([0, 0, 1]);
    expect(bits(onSide(view, level, -1), 'sheet')).toEqual([1, 1, 0]);
  });
  it('is the same when the items are moved with the plane, in whatever frame they are previewed', () => {
    const moved = [1, 0, 0, 100, 0, 1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1];
    const frame = new THREE.Matrix4().makeRotationZ(1.2).setPosition(5, -9, 3);
    const view = seen([row()], { frame, transform: moved });
    expect(bits(onSide(view, { origin: [100.9, 0, 0], direction: [1, 0, 0] }, 1), 'row')).toEqual([0, 1, 0, 1]);
  });
  it('is what the scanner was less sure of', () => {
    const view = seen([row({ confidence: new Float32Array([0.2, 0.9, 0.1, 0.4]) }), sheet()]);
    const [least, most] = confidenceOf(view) ?? [];
    expect(least).toBeCloseTo(0.1);
    expect(most).toBeCloseTo(0.9);
    expect(bits(lessSureThan(view, 0.5), 'row')).toEqual([1, 0, 0, 1]);
    expect(bits(lessSureThan(view, 0.5), 'sheet')).toEqual([0, 0, 0]);
    expect(confidenceOf(seen([row(), sheet()]))).toBeNull();
  });
  it('is surface that few passes saw, by the corner that was seen least', () => {
    const view = seen([sheet({ support: of(4, 4, 4, 1, 2, 3, 3) }), row()]);
    expect(bits(seenByFew(view, 1), 'sheet')).toEqual([0, 1, 0]);
    expect(bits(seenByFew(view, 2), 'sheet')).toEqual([0, 1, 1]);
    expect(bits(seenByFew(view, 2), 'row')).toEqual([0, 0, 0, 0]);
  });
});

describe('what hangs together with a place', () => {
  it('is its piece', () => {
    const view = seen([sheet()]);
    expect(bits(pieceAt(view, 'sheet', 0), 'sheet')).toEqual([1, 1, 0]);
    expect(bits(pieceAt(view, 'sheet', 2), 'sheet')).toEqual([0, 0, 1]);
    expect(pieceAt(view, 'gone', 0).size).toBe(0);
  });
  it('reaches the millimetres it is told, whatever the unit of the item', () => {
    const inches = [25.4, 0, 0, 0, 0, 25.4, 0, 0, 0, 0, 25.4, 0, 0, 0, 0, 1];
    const view = seen([sheet()], { transform: inches });
    expect(bits(areaAt(view, 'sheet', 0, 30, 1), 'sheet')).toEqual([1, 0, 0]);
    expect(bits(areaAt(view, 'sheet', 0, 30, 30), 'sheet')).toEqual([1, 1, 0]);
    expect(areaAt(view, 'gone', 0, 30, 30).size).toBe(0);
  });
  it('grows and shrinks by a ring; items that are not there stay as they were', () => {
    const view = seen([sheet()]);
    const grown = ringOf(
      view,
      new Map([
        ['sheet', of(1, 0, 0)],
        ['gone', of(1)],
      ]),
      'grow',
    );
    expect(bits(grown, 'sheet')).toEqual([1, 1, 0]);
    expect(bits(grown, 'gone')).toEqual([1]);
    expect(bits(ringOf(view, grown, 'shrink'), 'gone')).toEqual([1]);
  });
});

describe('what is drawn of marks', () => {
  const indices = (object: THREE.Object3D | undefined) => [...((object as THREE.Mesh).geometry.getIndex()?.array ?? [])];
  it('is the marked points or faces alone', () => {
    expect(indices(markedObjects(row(), of(0, 1, 0, 1), undefined, [])[0])).toEqual([1, 3]);
    const [faces] = markedObjects(sheet(), of(0, 1, 0), undefined, []);
    expect(faces).toBeInstanceOf(THREE.Mesh);
    expect(indices(faces)).toEqual([0, 2, 3]);
  });
  it('is a ghost too where marks lie behind, drawn over what hides them', () => {
    const [solid, ghost] = markedObjects(sheet(), of(1, 1, 0), of(0, 1, 1), []);
    expect(indices(solid)).toEqual([0, 1, 2, 0, 2, 3]);
    expect(indices(ghost)).toEqual([0, 2, 3]);
    expect(ghost?.renderOrder).toBeGreaterThan(solid?.renderOrder ?? 0);
    expect(((ghost as THREE.Mesh).material as THREE.Material).depthTest).toBe(false);
  });
  it('is nothing where nothing is marked', () => expect(markedObjects(row(), of(0, 0, 0, 0), of(0, 0, 0, 0), [])).toEqual([]));
});
