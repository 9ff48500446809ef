/** Share of the limit: a text longer than that is nearly too long. */
const NEAR = 0.9;

/** Says how many more characters a text field takes, once its text is nearly as long as the field allows. */
export function LimitNote({ text, max }: { text: string; max: number }) {
  if (text.length < NEAR * max) return null;
  const left = max - text.length;
  return (
    <p role="status" className={left === 0 ? 'text-warning' : 'opacity-80'}>
      {left === 0 ? `No room for more: ${max} characters at most.` : `${left} of ${max} characters left.`}
    </p>
  );
}
