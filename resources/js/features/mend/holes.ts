import type { BodyItem, Hole } from '../../api/types';
import type { Closing, Wish } from '../../tools/rims/closing';
import type { Place as RimCorner, RimPlace, RimStretch } from '../../tools/rims/rims';

export type Place = [number, number, number];

export interface ListedHole extends Hole {
  body: string;
  bodyId: string;
  /** a place on its rim: what stands for it in recipes */
  at: Place;
}

/** The holes of all meshes with the widest first. */
export function listedHoles(bodies: readonly BodyItem[]): ListedHole[] {
  return bodies.flatMap((body) => (body.figures?.holes ?? []).flatMap((hole) => (hole.outline?.[0] ? [{ ...hole, body: body.name, bodyId: body.id, at: hole.outline[0] }] : []))).sort((a, b) => b.diameter - a.diameter);
}

/** The outlines of holes that stay open on purpose. */
export const meantOutlines = (bodies: readonly BodyItem[]) => bodies.flatMap((body) => (body.figures?.holes ?? []).flatMap((hole) => (hole.leftOpen && hole.outline ? [hole.outline] : [])));

export const keyOf = (hole: ListedHole): string => hole.at.join();

export const wishFor = (hole: ListedHole, wishes: Readonly<Record<string, Wish>>): Wish => wishes[keyOf(hole)] ?? (hole.leftOpen ? 'open' : 'close');

/** A rim as a step keeps it: run again, it means a rim of this width near there, and no other. */
interface Picked {
  at: Place;
  diameter: number;
}

interface PickedStretch {
  from: RimCorner;
  to: RimCorner;
  diameter: number;
}

/** What a step is told: rims to close, rims to leave open, parts and strips. */
export interface ToldRims {
  rims?: Picked[];
  leaveOpen?: Picked[];
  /** without a side, the one that the stretch begins on */
  parts?: (PickedStretch & { side?: RimCorner })[];
  strips?: [PickedStretch, PickedStretch][];
}

/** What was said of rims as the step's parameters: without a word all rims are closed but those left open before. */
export function closingToSend(holes: readonly ListedHole[], { wishes, parts, strips }: Closing): ToldRims {
  const of = (wish: Wish) => holes.filter((hole) => wishFor(hole, wishes) === wish);
  const picked = ({ at, diameter }: ListedHole): Picked => ({ at, diameter });
  const named = of('later').length > 0 || of('close').some((hole) => hole.leftOpen) || parts.length + strips.length > 0;
  const newlyOpen = of('open').filter((hole) => !hole.leftOpen);
  const widthOf = (rim: string) => holes.find((hole) => keyOf(hole) === rim)?.diameter ?? 0;
  const stretch = ({ from, to }: RimStretch): PickedStretch => ({ from: from.pointMm, to: to.pointMm, diameter: widthOf(from.rim) });
  return {
    ...(named ? { rims: of('close').map(picked) } : {}),
    ...(newlyOpen.length > 0 ? { leaveOpen: newlyOpen.map(picked) } : {}),
    ...(parts.length > 0 ? { parts: parts.map((part) => ({ ...stretch(part), side: part.side.pointMm })) } : {}),
    ...(strips.length > 0 ? { strips: strips.map(([one, two]) => [stretch(one), stretch(two)]) } : {}),
  };
}

/** A rim may be wider or narrower by this factor and is still the one that was picked. */
const AS_WIDE = 1.5;

/** The rim of about that width that has a corner near a place. */
const rimAt = (at: RimCorner, diameter: number, holes: readonly ListedHole[]): ListedHole | undefined =>
  holes.find((hole) => Math.max(hole.diameter, diameter) <= AS_WIDE * Math.min(hole.diameter, diameter) && (hole.outline ?? [hole.at]).some((corner) => Math.hypot(corner[0] - at[0], corner[1] - at[1], corner[2] - at[2]) <= diameter / 2));

/** The parts and strips that a step of before had, on the rims as they are now; what lay on a rim that is gone stays away. */
export function drawnBefore(told: ToldRims, holes: readonly ListedHole[]): Pick<Closing, 'parts' | 'strips'> {
  const stretch = ({ from, to, diameter }: PickedStretch): { stretch: RimStretch; on: (pointMm: RimCorner) => RimPlace } | null => {
    const hole = rimAt(from, diameter, holes);
    if (!hole) return null;
    const on = (pointMm: RimCorner): RimPlace => ({ rim: keyOf(hole), corner: null, pointMm });
    return { stretch: { from: on(from), to: on(to) }, on };
  };
  return {
    parts: (told.parts ?? []).flatMap((part) => {
      const found = stretch(part);
      return found ? [{ ...found.stretch, side: found.on(part.side ?? part.from) }] : [];
    }),
    strips: (told.strips ?? []).flatMap(([one, two]) => {
      const [first, second] = [stretch(one), stretch(two)];
      return first && second ? [[first.stretch, second.stretch] as const] : [];
    }),
  };
}

/** The wishes that a step of before had, for the rims as they are now. */
export function wishesOf(told: ToldRims, holes: readonly ListedHole[]): Record<string, Wish> {
  const rimOf = ({ at, diameter }: Picked) => rimAt(at, diameter, holes);
  const wishes: Record<string, Wish> = {};
  if (told.rims) for (const hole of holes) if (!hole.leftOpen) wishes[keyOf(hole)] = 'later';
  for (const [list, wish] of [
    [told.rims, 'close'],
    [told.leaveOpen, 'open'],
  ] as const) {
    for (const pick of list ?? []) {
      const hole = rimOf(pick);
      if (hole) wishes[keyOf(hole)] = wish;
    }
  }
  return wishes;
}

/** About how much surface closes a hole, mm2: as large as it looks from straight before it. */
export function areaOf(outline: readonly Place[]): number {
  const sum = [0, 0, 0];
  for (const [k, a] of outline.entries()) {
    const b = outline[(k + 1) % outline.length]!;
    for (let c = 0; c < 3; c++) sum[c]! += (a[(c + 1) % 3]! * b[(c + 2) % 3]! - a[(c + 2) % 3]! * b[(c + 1) % 3]!) / 2;
  }
  return Math.hypot(sum[0]!, sum[1]!, sum[2]!);
}
