import { readTyped } from './typed';

/** 214000 becomes "214 k". */
export function count(n: number): string {
  // 999 600 would be "1000 k".
  if (n >= 999_500) return `${+(n / 1e6).toFixed(2)} M`;
  if (n >= 1e4) return `${Math.round(n / 1e3)} k`;
  if (n >= 1e3) return `${+(n / 1e3).toFixed(1)} k`;
  return String(n);
}

export function seconds(s: number): string {
  if (s < 9.95) return `${s.toFixed(1)} s`;
  const whole = Math.round(s);
  return whole < 90 ? `${whole} s` : `${Math.floor(whole / 60)} min ${whole % 60} s`;
}

/** "4 to 9 s", "40 s to 2 min", "about 3 s": between which a step will end, in numbers that nobody takes for exact. */
export function secondsBetween([low, high]: readonly number[]): string {
  const rough = (s: number): string => {
    if (s < 90) return `${Math.max(1, s < 15 ? Math.round(s) : 5 * Math.round(s / 5))} s`;
    return `${s < 600 ? +(s / 60).toPrecision(2) : Math.round(s / 60)} min`;
  };
  const [from, to] = [rough(low ?? 0), rough(high ?? 0)];
  if (from === to) return `about ${to}`;
  const [, unit] = from.split(' ');
  return `${to.endsWith(` ${unit}`) ? from.split(' ')[0] : from} to ${to}`;
}

/** "3/8in", "2.5 cm" or "1.2" as millimetres; null when it is no length. */
export function parseLength(text: string): number | null {
  const typed = readTyped(text, { isLength: true });
  return typed && 'value' in typed ? typed.value : null;
}

/** "210 mm", "2.1 m". */
export function lengthInWords(mm: number): string {
  if (mm >= 1000) return `${+(mm / 1000).toPrecision(3)} m`;
  return `${+mm.toPrecision(mm < 10 ? 2 : 3)} mm`;
}

export const niceLength = (mm: number): number => {
  const steps = [1, 2, 5];
  let unit = 10 ** Math.floor(Math.log10(mm));
  for (;;) {
    for (const s of steps) if (s * unit >= mm) return s * unit;
    unit *= 10;
  }
};

/** 3 100 000 becomes "3.1 MB". */
export function bytes(n: number): string {
  if (n >= 999.5e6) return `${+(n / 1e9).toPrecision(3)} GB`;
  if (n >= 999.5e3) return `${+(n / 1e6).toPrecision(3)} MB`;
  return n === 0 ? 'nothing' : `${Math.max(1, Math.round(n / 1e3))} KB`;
}

/** "1 December 2026". */
export const day = (time: string): string => new Date(time).toLocaleDateString('en-GB', { day: 'numeric', month: 'long', year: 'numeric' });

/** "just now", "12 minutes ago", "3 days ago". */
export function since(time: string, now = Date.now()): string {
  const minutes = Math.floor((now - Date.parse(time)) / 60_000);
  if (minutes < 1) return 'just now';
  const [n, what] = minutes < 60 ? [minutes, 'minute'] : minutes < 1440 ? [Math.floor(minutes / 60), 'hour'] : [Math.floor(minutes / 1440), 'day'];
  return `${n} ${what}${n === 1 ? '' : 's'} ago`;
}
