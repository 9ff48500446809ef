import { defineOperation } from '../module';
import { placesOf } from '../places';

export default defineOperation({ name: 'keep-pieces', toSend: (sent, { picks }) => (picks.length > 0 ? { ...sent, at: placesOf(picks) } : sent), lacking: (sent) => ([sent.largest, sent.minArea, sent.at].filter((v) => v !== undefined).length === 1 ? null : 'Click the pieces to keep, or fill in one of the two.') });
