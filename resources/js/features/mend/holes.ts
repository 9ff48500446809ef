import type { BodyItem, Hole } from '../../api/types';

export type Place = [number, number, number];

/** What shall become of a rim: closed, open for good, or open for now. */
export type Wish = 'close' | 'open' | 'later';

export interface ListedHole extends Hole {
  body: string;
  /** a place on its rim: what stands for it in recipes */
  at: Place;
}

/** The holes of all meshes with the widest first. */
export function listedHoles(bodies: readonly BodyItem[]): ListedHole[] {
  return bodies.flatMap((body) => (body.figures?.holes ?? []).flatMap((hole) => (hole.outline?.[0] ? [{ ...hole, body: body.name, at: hole.outline[0] }] : []))).sort((a, b) => b.diameter - a.diameter);
}

/** The outlines of holes that stay open on purpose. */
export const meantOutlines = (bodies: readonly BodyItem[]) => bodies.flatMap((body) => (body.figures?.holes ?? []).flatMap((hole) => (hole.leftOpen && hole.outline ? [hole.outline] : [])));

const keyOf = (hole: ListedHole): string => hole.at.join();

export const wishFor = (hole: ListedHole, wishes: Record<string, Wish>): Wish => wishes[keyOf(hole)] ?? (hole.leftOpen ? 'open' : 'close');

export const withWish = (hole: ListedHole, wish: Wish, wishes: Record<string, Wish>): Record<string, Wish> => ({ ...wishes, [keyOf(hole)]: wish });

/** A rim as a step keeps it: run again, it means a rim of this width near there, and no other. */
interface Picked {
  at: Place;
  diameter: number;
}

const asPicked = ({ at, diameter }: ListedHole): Picked => ({ at, diameter });

/** The wishes as the step's parameters: without any, all rims are closed but those left open before. */
export function wishesToSend(holes: readonly ListedHole[], wishes: Record<string, Wish>): { rims?: Picked[]; leaveOpen?: Picked[] } {
  const of = (wish: Wish) => holes.filter((hole) => wishFor(hole, wishes) === wish);
  const picked = of('later').length > 0 || of('close').some((hole) => hole.leftOpen);
  const newlyOpen = of('open').filter((hole) => !hole.leftOpen);
  return {
    ...(picked ? { rims: of('close').map(asPicked) } : {}),
    ...(newlyOpen.length > 0 ? { leaveOpen: newlyOpen.map(asPicked) } : {}),
  };
}

/** The hole whose rim is nearest to a place; undefined when there is none. */
export function nearestHole(place: Place, holes: readonly ListedHole[]): ListedHole | undefined {
  let best: ListedHole | undefined;
  let least = Number.POSITIVE_INFINITY;
  for (const hole of holes) {
    for (const at of hole.outline ?? []) {
      const d = (at[0] - place[0]) ** 2 + (at[1] - place[1]) ** 2 + (at[2] - place[2]) ** 2;
      if (d < least) [best, least] = [hole, d];
    }
  }
  return best;
}
