import { Check, CircleHelp, X } from 'lucide-react';

const VERDICTS = {
  in: { icon: Check, words: 'in tolerance', tone: 'text-success' },
  out: { icon: X, words: 'out of tolerance', tone: 'text-error' },
  unsure: { icon: CircleHelp, words: 'too near the limit to tell', tone: 'text-warning' },
} as const;

/** Whether a measurement is in tolerance: a sign and words. */
export function Verdict({ verdict }: { verdict: keyof typeof VERDICTS }) {
  const { icon: Icon, words, tone } = VERDICTS[verdict];
  return (
    <span className={`flex items-center gap-1 ${tone}`}>
      <Icon size={13} aria-hidden /> {words}
    </span>
  );
}
