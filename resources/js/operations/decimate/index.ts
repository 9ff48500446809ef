import { defineOperation } from '../module';

export default defineOperation({ name: 'decimate', lacking: (sent) => ([sent.ratio, sent.faces, sent.deviation].filter((v) => v !== undefined).length === 1 ? null : 'Fill in one of share, faces and deviation.') });
