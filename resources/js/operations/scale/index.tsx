import { LengthPicks } from '../../features/orient/LengthPicks';
import { type Lengths, NO_LENGTHS, sentLengths } from '../../features/orient/lengths';
import { defineOperation } from '../module';

export default defineOperation({
  name: 'scale',
  trial: 'never',
  Fields: ({ values, set }) => <LengthPicks value={values.lengths as Lengths | undefined} onChange={(lengths) => set('lengths', lengths)} />,
  // Lengths are clicked rather than typed twice; a factor was read off nothing.
  hides: (parameter, { values }) => parameter === 'measured' || parameter === 'actual' || (parameter === 'readTo' && values.factor !== undefined && values.factor !== null),
  toSend: ({ lengths: typed, ...sent }, { picks }) => {
    const lengths = sentLengths((typed as Lengths | undefined) ?? NO_LENGTHS, picks);
    return lengths.length > 0 ? { ...sent, lengths } : sent;
  },
  lacking: (sent, { picks }) => {
    if (picks.length % 2 === 1) return 'Click the other end of the length.';
    if (Array.isArray(sent.lengths)) {
      const open = sent.lengths.findIndex((l: { actual?: number }) => !l.actual);
      if (open >= 0) return `Type what length ${open + 1} is on the real part.`;
      return [sent.factor, sent.measured, sent.actual].some((v) => v !== undefined) ? 'Give a factor or lengths, not both.' : null;
    }
    return sent.factor === undefined && (sent.measured === undefined || sent.actual === undefined) ? 'Click both ends of a known length, or type a factor.' : null;
  },
  picksInPairs: true,
});
