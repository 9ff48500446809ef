import { defineOperation } from '../module';

export default defineOperation({ name: 'engrave', toSend: (sent, { picks }) => (picks.length > 0 ? { ...sent, at: { point: picks.at(-1)?.pointMm } } : sent), lacking: (_, { picks }) => (picks.length === 0 ? 'Click the surface where the middle of the text shall be.' : null) });
