import { defineOperation } from '../module';
import { placesOf } from '../places';
import { cellsOf } from './cells';

export default defineOperation({
  name: 'draw-quads',
  // Without a word the body under the first click is meant.
  toSend: (sent, { picks }) => ({ ...sent, ...(sent.onto === undefined && picks[0] ? { onto: picks[0].itemId } : {}), ...cellsOf(placesOf(picks)) }),
  lacking: (_, { picks }) => (picks.length % 4 === 0 && picks.length > 0 ? null : `Click ${picks.length === 0 ? 'the four corners of a cell on the surface, in order around it' : `${4 - (picks.length % 4)} more: a cell has four corners. A corner that is there is taken again by a click near it`}.`),
});
