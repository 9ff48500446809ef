import { MOVEMENT } from '../handled';
import { defineOperation } from '../module';

export default defineOperation({
  name: 'shift',
  trial: 'never',
  handles: 'shift',
  startsAgain: MOVEMENT,
  lacking: (sent) => ([sent.x, sent.y, sent.z].some(Boolean) ? null : 'Drag a handle, or type by how much to shift.'),
});
