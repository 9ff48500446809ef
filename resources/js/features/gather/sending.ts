import { bytes } from '../../ui/format';

/** A file on its way. */
export interface Sending {
  file: File;
  name: string;
  bytes: number;
  /** of it that has arrived */
  share: number;
}

/** How much of all files has arrived, by their bytes, and which one is sent now. */
export function totalOf(sending: readonly Pick<Sending, 'name' | 'bytes' | 'share'>[]): { share: number; words: string } {
  const all = sending.reduce((sum, s) => sum + s.bytes, 0);
  const arrived = sending.reduce((sum, s) => sum + s.share * s.bytes, 0);
  const share = all > 0 ? arrived / all : 0;
  const left = sending.filter((s) => s.share < 1);
  const now = left[0]?.name ?? sending.at(-1)?.name ?? '';
  return { share, words: `Bringing in ${sending.length === 1 ? now : `${sending.length} files, now ${now}`}: ${arrived > 0 ? bytes(arrived) : 'nothing yet'} of ${bytes(all)}` };
}
