import { MOVEMENT } from '../handled';
import { defineOperation } from '../module';

export default defineOperation({
  name: 'move',
  trial: 'never',
  handles: 'move',
  startsAgain: MOVEMENT,
  toSend: (sent, { picks }) => ({ ...sent, ...(picks[0] ? { about: picks[0].pointMm } : {}) }),
  lacking: (sent) => (!sent.moving ? 'Choose what moves.' : MOVEMENT.every((k) => !sent[k]) ? 'Drag a handle, or type by how much it should move.' : null),
  names: ({ passes, bodies }) => [...passes, ...bodies],
});
