import type { ShadeMap } from '../../api/types';

/** What a shade of a map stands for, in words; shades are 1 to 255 from the first figure of the map to the last, what lies beyond has the shade of the end. Null where there is no figure. */
export function shadeInWords(shade: number | null, map: Pick<ShadeMap, 'from' | 'to' | 'unit'>): string | null {
  if (shade === null || shade < 1) return null;
  const value = map.from + ((shade - 1) / 254) * (map.to - map.from);
  // Half a shade is what is not known of it.
  const decimals = Math.max(0, Math.min(4, Math.ceil(-Math.log10((map.to - map.from) / 254))));
  const beyond = shade >= 254.5 ? 'at least ' : shade <= 1.5 && map.from < 0 ? 'at most ' : '';
  return `${beyond}${map.from < 0 && value > 0 ? '+' : ''}${value.toFixed(decimals)} ${map.unit}`;
}
