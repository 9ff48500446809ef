import { MOVEMENT } from '../handled';
import { defineOperation } from '../module';
import { placesOf } from '../places';

export default defineOperation({
  name: 'turn',
  trial: 'never',
  handles: 'turn',
  startsAgain: MOVEMENT,
  hides: (parameter, { picks }) => parameter !== 'about' && picks > 0,
  toSend: ({ angle, ...sent }, { picks }) => (picks.length > 0 ? { ...sent, level: placesOf(picks) } : { ...sent, ...(angle === undefined ? {} : { angle }) }),
  lacking: (sent, { picks }) => (picks.length > 2 ? 'Two places are enough; press Backspace to take the last one back.' : !sent.angle && !sent.level ? 'Drag a handle, or type by how much to turn.' : null),
});
