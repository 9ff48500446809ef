/** Colours that mean something; see docs/language.md. Never the only sign: hatch, label or swatch name says it too. */
export const MEASURED = 0xb9ac99;
export const FILLED = 0x3fb8a6;
/** measured once, replaced since */
export const RESHAPED = 0xa793d6;
/** Curves of sections. */
export const SECTION = 0xd9952a;
export const SELECTED = 0xe0b04c;
/** cut away, but shown on request */
export const REMOVED = 0x6f6660;
/** selected, but behind something else */
export const GHOST = 0xfff6dc;
export const AXES = [0xd65a4f, 0x6fa657, 0x5b86d6] as const;
/** How many passes saw a place: 1, 2, 3, 4, 5 and more. Light grows with the number, so the order shows without hue. */
export const SUPPORT = [0x6b3a2e, 0xa0583a, 0xc98b4a, 0xddb96c, 0xf0e2b6] as const;
/** From good to bad, or near to far: lightness falls all the way, so the order shows without hue. */
export const RAMP = [0xf3e7c3, 0xe0bd6e, 0xcb8b4b, 0x9f563c, 0x5f2f33] as const;
/** From inside through none to outside: both ends dark, told apart by hue and by the words at them. */
export const DIVERGING = [0x274a8f, 0x86a3d0, 0xf3ecd8, 0xc0894f, 0x6e3a1c] as const;
/** The sides of four-sided cells, on the surface. */
export const SIDES = 0x2b2620;
export const SCANNER = 0xef7a43;
const PASSES = [0xc98b5e, 0x8aa777, 0x7b97b8, 0xa98bb8, 0xc9b15e, 0x77a7a0, 0xb87b8a, 0x9a9a86, 0x6f8fc0, 0xb89a6a];

/** The colour of a share 0 to 1 of a ramp. */
export function rampAt(share: number, ramp: readonly number[] = RAMP): number {
  const at = Math.max(0, Math.min(ramp.length - 1, share * (ramp.length - 1)));
  const k = Math.min(ramp.length - 2, Math.floor(at));
  const mix = (shift: number) => {
    const [a, b] = [(ramp[k]! >> shift) & 255, (ramp[k + 1]! >> shift) & 255];
    return Math.round(a + (b - a) * (at - k)) << shift;
  };
  return mix(16) | mix(8) | mix(0);
}

export const passColour = (index: number): number => PASSES[index % PASSES.length] ?? MEASURED;
/** Bodies begin elsewhere in the list than passes, which they are often looked at with. */
export const bodyColour = (index: number): number => passColour(index + 2);
export const css = (colour: number): string => `#${colour.toString(16).padStart(6, '0')}`;

/** A colour that somebody gave a body, from "#8a8f94"; null where none was given. */
export const ownColour = (given: string | null | undefined): number | null => (given ? Number.parseInt(given.slice(1), 16) : null);
