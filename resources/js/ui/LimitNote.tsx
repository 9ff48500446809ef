/** From this share of the limit on it is said how much may still be typed. */
const NEAR = 0.9;

/** Says how much more may be typed into a field that takes so many characters, before there is no more room. */
export function LimitNote({ text, max }: { text: string; max: number }) {
  if (text.length < NEAR * max) return null;
  const left = max - text.length;
  return (
    <p role="status" className={left === 0 ? 'text-warning' : 'opacity-80'}>
      {left === 0 ? `No room for more: ${max} characters at most.` : `${left} of ${max} characters left.`}
    </p>
  );
}
