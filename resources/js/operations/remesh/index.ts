import { defineOperation } from '../module';

export default defineOperation({ name: 'remesh', lacking: (sent) => ([sent.edge, sent.faces].filter((v) => v !== undefined).length === 1 ? null : 'Fill in one of edge and faces.') });
