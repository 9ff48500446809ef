import { readTyped } from '../../ui/typed';

/** Three lengths as they are typed, parted by commas with a space, semicolons or spaces: "12.5, 0, -3", "12,5; 0; -3", "1/2in 0 3". Null for nothing. */
export function readPlace(text: string): { place: [number, number, number] } | { why: string } | null {
  if (text.trim() === '') return null;
  const parts = (text.includes(';') ? text.split(';') : /,\s/.test(text) ? text.split(/,\s+/) : text.trim().split(text.trim().split(/\s+/).length === 3 ? /\s+/ : ',')).map((part) => part.trim()).filter(Boolean);
  if (parts.length !== 3) return { why: 'Type three numbers, as in "12.5, 0, -3".' };
  const numbers: number[] = [];
  for (const part of parts) {
    const typed = readTyped(part, { isLength: true });
    if (!typed || 'why' in typed) return { why: typed?.why ?? 'Type three numbers.' };
    numbers.push(typed.value);
  }
  return { place: [numbers[0]!, numbers[1]!, numbers[2]!] };
}
