import * as THREE from 'three';
import { Line2 } from 'three/examples/jsm/lines/Line2.js';
import { LineGeometry } from 'three/examples/jsm/lines/LineGeometry.js';
import { LineMaterial } from 'three/examples/jsm/lines/LineMaterial.js';
import type { ScreenPoint } from '../tools/events';
import { lengthOf, lineOf, type Place, type RimPart, type RimPlace, type RimStretch, type RimStrip } from '../tools/rims/rims';
import { numberMark } from './datumShapes';
import { css, FILLED, GHOST, REMOVED, SELECTED } from './palette';
import type { SceneItem } from './sceneItem';

export interface ShownRim {
  /** names the rim to the gesture */
  key: string;
  itemId: string;
  /** some corners of it, the first of which it is known by; drawn where the body itself is not loaded yet */
  outline: readonly Place[];
  text: string;
  wish: 'close' | 'open' | 'later';
}

/** What a gesture has picked on rims, and what it is about to pick. */
export interface RimPicks {
  /** under the pointer */
  at: RimPlace | null;
  /** a stretch that waits */
  pending: RimStretch | null;
  /** a stretch that is being drawn */
  drawn: RimStretch | null;
  /** the corner that says which side is meant of the stretch that is drawn, else of the one that waits */
  side: RimPlace | null;
  parts: readonly RimPart[];
  strips: readonly RimStrip[];
}

export const NO_RIM_PICKS: RimPicks = { at: null, pending: null, drawn: null, side: null, parts: [], strips: [] };

const COLOURS = { close: FILLED, open: GHOST, later: REMOVED };

/** Widths of lines, CSS pixels. */
const RIM_PX = 2.5;
const STRETCH_PX = 6;

/** Lines behind the part are so faint. */
const DIMMED = 0.3;

/** Discs of rims behind the part are so faint. */
const FAINT = 0.5;

/** Dashes around a rim that is not closed. */
const DASHES = 48;

/** Discs keep so far from each other, CSS pixels, and are as large as that: a share of the view's height. */
const DISC_PX = 23;
const DISC = 0.026;

/** So many rims, the first of the list, have their number at any distance; the others when they are so many CSS pixels wide. */
const ALWAYS_NUMBERED = 12;
const WIDE_PX = 14;

/** Rim of a body with its true corners, in the project. */
interface LaidRim {
  shown: ShownRim;
  places: Place[];
  disc: THREE.Sprite;
}

/** Lines twice, through all else but dimmed and where nothing lies before them, about their first place: far from the origin the numbers that graphics cards take are too coarse. */
function thickLine(places: readonly Place[], colour: number, width: number, dashes: number): THREE.Object3D[] {
  const first = places[0];
  if (!first || places.length < 2) return [];
  const geometry = new LineGeometry();
  geometry.setPositions(places.flatMap((at) => [at[0] - first[0], at[1] - first[1], at[2] - first[2]]));
  const length = lengthOf(places);
  return [true, false].map((dimmed) => {
    const dash = dashes > 0 ? length / (2 * dashes) : 1;
    const material = new LineMaterial({ color: colour, linewidth: width, transparent: true, opacity: dimmed ? DIMMED : 1, depthTest: !dimmed, depthWrite: false, dashed: dashes > 0, dashSize: dash, gapSize: dash, polygonOffset: !dimmed, polygonOffsetFactor: -2, polygonOffsetUnits: -8 });
    const line = new Line2(geometry, material);
    if (dashes > 0) line.computeLineDistances();
    line.position.set(...first);
    line.frustumCulled = false;
    line.renderOrder = dimmed ? 6 : 7;
    return line;
  });
}

/** Where discs stand so that none covers another: each at the first of its places that is free, else beside its last one, ever farther out. */
export function spreadDiscs(places: readonly (readonly ScreenPoint[])[], apart = DISC_PX): { x: number; y: number; of: number }[] {
  const taken: ScreenPoint[] = [];
  const isFree = (at: ScreenPoint) => taken.every((other) => Math.hypot(other.x - at.x, other.y - at.y) >= apart);
  return places.map((mine) => {
    const first = mine[0] ?? { x: 0, y: 0 };
    let found = mine.map((at, of) => ({ ...at, of })).find(isFree);
    for (let k = 1; !found && k < 400; k++) {
      // A spiral with a disc's width between its turns.
      const [turn, out] = [2.4 * k, 0.5 * apart * Math.sqrt(k)];
      const at = { x: first.x + out * Math.cos(turn), y: first.y + out * Math.sin(turn), of: 0 };
      if (isFree(at)) found = at;
    }
    const at = found ?? { ...first, of: 0 };
    taken.push(at);
    return at;
  });
}

/** Open rims drawn along their own edges with a number each, and what is picked on them. */
export class RimLayer {
  readonly object = new THREE.Group();
  private readonly lines = new THREE.Group();
  private readonly picked = new THREE.Group();
  private shown: readonly ShownRim[] = [];
  private laid: LaidRim[] = [];
  private picks = NO_RIM_PICKS;

  constructor(private readonly find: (itemId: string) => SceneItem | undefined) {
    this.object.add(this.lines, this.picked);
  }

  get isEmpty(): boolean {
    return this.shown.length === 0;
  }

  show(rims: readonly ShownRim[]): void {
    this.shown = rims;
    this.lay();
  }

  /** Draws the rims anew: a body that has come in since has its own edges. */
  lay(): void {
    clear(this.lines);
    this.laid = this.shown.flatMap((shown) => {
      const start = shown.outline[0];
      const places = (start && this.find(shown.itemId)?.rimAt(start)) || [...shown.outline];
      if (places.length < 3) return [];
      const colour = COLOURS[shown.wish];
      const disc = numberMark(shown.text, css(colour), DISC);
      disc.material.transparent = true;
      for (const object of [...thickLine([...places, places[0]!], colour, RIM_PX, shown.wish === 'close' ? 0 : DASHES), disc]) this.lines.add(object);
      return [{ shown, places, disc }];
    });
    this.drawPicks();
  }

  showPicks(picks: RimPicks): void {
    this.picks = picks;
    this.drawPicks();
  }

  private drawPicks(): void {
    clear(this.picked);
    const { at, pending, drawn, side, parts, strips } = this.picks;
    const draw = (line: readonly Place[], isSure: boolean) => {
      for (const object of thickLine(line, isSure ? FILLED : SELECTED, STRETCH_PX, 0)) this.picked.add(object);
    };
    const open = (from: Place | undefined, to: Place | undefined, isSure: boolean) => {
      if (from && to) for (const object of thickLine([from, to], isSure ? FILLED : SELECTED, RIM_PX, 12)) this.picked.add(object);
    };
    const line = (stretch: RimStretch, onSide?: RimPlace | null) => {
      const rim = this.placesOf(stretch.from.rim);
      return rim.length > 0 ? lineOf(rim, stretch, onSide ?? undefined) : [];
    };
    for (const part of parts) {
      const along = line(part, part.side);
      draw(along, true);
      open(along[along.length - 1], along[0], true);
    }
    for (const [one, two] of strips) {
      const [a, b] = [line(one), line(two)];
      draw(a, true);
      draw(b, true);
      open(a[a.length - 1], b[0], true);
      open(b[b.length - 1], a[0], true);
    }
    for (const stretch of [pending, drawn]) {
      if (!stretch) continue;
      const along = line(stretch, stretch === (drawn ?? pending) ? side : null);
      draw(along, false);
      open(along[along.length - 1], along[0], false);
    }
    if (at) {
      const mark = numberMark('', css(SELECTED), 0.016);
      mark.position.set(...at.pointMm);
      this.picked.add(mark);
    }
  }

  /** The corners of a rim in the project; none of one that is not shown. */
  placesOf(key: string): readonly Place[] {
    return this.laid.find((rim) => rim.shown.key === key)?.places ?? [];
  }

  /**
   * The corners nearest to a place of the view, one of each rim, the nearest first.
   *
   * @param project from the project to CSS pixels of the view
   */
  near(at: ScreenPoint, project: (place: Place) => ScreenPoint): { place: RimPlace; px: number }[] {
    return this.laid
      .map(({ shown, places }) => {
        let best = { corner: 0, px: Number.POSITIVE_INFINITY };
        for (const [corner, place] of places.entries()) {
          const p = project(place);
          const px = Math.hypot(p.x - at.x, p.y - at.y);
          if (px < best.px) best = { corner, px };
        }
        return { place: { rim: shown.key, corner: best.corner, pointMm: places[best.corner]! }, px: best.px };
      })
      .sort((a, b) => a.px - b.px);
  }

  /**
   * Puts the discs where they can be told apart, dimmed where the part lies before their rim.
   *
   * @param project from the project to CSS pixels of the view
   * @param shifted a place moved by dx CSS pixels to the right and dy downwards, at the same depth
   */
  spread(project: (place: Place) => ScreenPoint, shifted: (place: Place, dx: number, dy: number) => Place, isInSight: (place: Place) => boolean): void {
    const seen = this.laid.map(({ places }) => places.filter((_, k) => k % Math.ceil(places.length / 16) === 0).map((place) => ({ place, ...project(place) })));
    const numbered = this.laid.filter(({ disc }, k) => {
      disc.visible = k < ALWAYS_NUMBERED || widthOf(seen[k] ?? []) >= WIDE_PX;
      return disc.visible;
    });
    const some = numbered.map((rim) => seen[this.laid.indexOf(rim)] ?? []);
    for (const [k, { x, y, of }] of spreadDiscs(some).entries()) {
      const [rim, at] = [numbered[k], some[k]?.[of]];
      if (!rim || !at) continue;
      rim.disc.position.set(...shifted(at.place, x - at.x, y - at.y));
      rim.disc.material.opacity = isInSight(at.place) ? 1 : FAINT;
    }
  }
}

/** How wide places lie apart in the view, CSS pixels. */
function widthOf(places: readonly ScreenPoint[]): number {
  const [x, y] = [places.map((at) => at.x), places.map((at) => at.y)];
  return Math.hypot(Math.max(...x) - Math.min(...x), Math.max(...y) - Math.min(...y));
}

function clear(group: THREE.Group): void {
  for (const child of group.children) {
    const { geometry, material } = child as THREE.Mesh;
    if (child instanceof Line2) {
      geometry.dispose();
      (material as THREE.Material).dispose();
    }
  }
  group.clear();
}
