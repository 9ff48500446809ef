import { defineOperation } from '../module';

export default defineOperation({
  name: 'crop',
  trial: 'never',
  // What was copied from the box may now be deleted around it.
  keepsGesture: true,
  lacking: (sent) => (sent.box === undefined ? 'Bring in a pass or a body first.' : null),
});
