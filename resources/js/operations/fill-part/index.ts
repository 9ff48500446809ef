import { RimsInView } from '../../features/mend/HoleList';
import { defineOperation } from '../module';
import { lackingPlaces, placesOf } from '../places';

const ASKED = ['Click the rim where the part begins.', 'Click the same rim where the part ends.', 'Click the rim in the middle of the side to close.'];

export default defineOperation({
  name: 'fill-part',
  Fields: RimsInView,
  toSend: (sent, { picks }) => ({ ...sent, points: placesOf(picks) }),
  lacking: (_, { picks }) => lackingPlaces(picks.length, ASKED, 'Three'),
});
