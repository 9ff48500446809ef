import { Check, Circle, TriangleAlert, X } from 'lucide-react';

/** What a line of a ready card says, by its state. */
export const READY_SIGNS = {
  good: { icon: Check, tint: 'text-success', words: 'met' },
  warn: { icon: TriangleAlert, tint: 'text-warning', words: 'nearly' },
  bad: { icon: X, tint: 'text-error', words: 'not met' },
} as const;

/** The same before there is anything to look at. */
export const TO_CHECK = { icon: Circle, tint: 'opacity-60', words: 'will be checked' } as const;
