import { StrokeFields } from '../../features/lighten/StrokeFields';
import { strokesOf } from '../../features/lighten/strokes';
import { edgeOrFaces } from '../edgeOrFaces';
import { defineOperation } from '../module';
import { placesOf } from '../places';

export default defineOperation({
  name: 'quad-remesh',
  Fields: StrokeFields,
  own: ['strokeAs'],
  presses: () => 'points',
  toSend: (sent, { picks, values }) => ({ ...sent, ...Object.fromEntries(Object.entries(strokesOf(values, placesOf(picks))).filter(([, strokes]) => strokes.length > 0)) }),
  lacking: (sent, { picks }) => edgeOrFaces(sent) ?? (picks.length === 1 ? 'Click where the stroke goes on, or press Backspace.' : null),
  startsAgain: ['flow', 'edges'],
  drawsAgain: 'Change its strokes',
  laysOver: true,
});
