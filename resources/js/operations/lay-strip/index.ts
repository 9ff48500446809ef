import { RimsInView } from '../../features/mend/HoleList';
import { defineOperation } from '../module';
import { lackingPlaces, placesOf } from '../places';

const ASKED = ['Click the rim where the strip begins on one side.', 'Click the same rim, as far on as the strip is wide.', 'Click across the hole where the strip shall arrive.', 'Click the other end of its arrival.'];

export default defineOperation({
  name: 'lay-strip',
  Fields: RimsInView,
  toSend: (sent, { picks }) => ({ ...sent, points: placesOf(picks) }),
  lacking: (_, { picks }) => lackingPlaces(picks.length, ASKED, 'Four'),
});
