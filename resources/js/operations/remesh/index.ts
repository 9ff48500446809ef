import { edgeOrFaces } from '../edgeOrFaces';
import { defineOperation } from '../module';

export default defineOperation({ name: 'remesh', lacking: edgeOrFaces });
