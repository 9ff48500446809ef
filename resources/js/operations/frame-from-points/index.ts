import { defineOperation } from '../module';
import { lackingPlaces, placesOf } from '../places';

const ASKED = ['Click where the origin shall be.', 'Click a place towards which X shall point.', 'Click a place on the side of Y.'];

export default defineOperation({
  name: 'frame-from-points',
  trial: 'never',
  toSend: (sent, { picks }) => ({ ...sent, points: placesOf(picks) }),
  lacking: (_, { picks }) => lackingPlaces(picks.length, ASKED, 'Three'),
});
