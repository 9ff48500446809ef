import { defineOperation } from '../module';
import { placesOf } from '../places';

const isSaid = (value: unknown): boolean => value !== undefined && value !== null && value !== '';

export default defineOperation({
  name: 'keep-pieces',
  // One part was scanned, as a rule; a least area or a click says something else in its place.
  beginsWith: () => ({ largest: 1 }),
  hides: (parameter, { values, picks }) => (parameter === 'largest' && (picks > 0 || isSaid(values.minArea))) || (parameter === 'minArea' && picks > 0),
  toSend: ({ largest, minArea, ...sent }, { picks }) => ({ ...sent, ...(picks.length > 0 ? { at: placesOf(picks) } : isSaid(minArea) ? { minArea } : isSaid(largest) ? { largest } : {}) }),
  lacking: (sent) => ([sent.largest, sent.minArea, sent.at].filter((v) => v !== undefined).length === 1 ? null : 'Click the pieces to keep, or fill in one of the two.'),
});
