import { edgeOrFaces } from '../edgeOrFaces';
import { defineOperation } from '../module';

export default defineOperation({ name: 'quad-remesh', lacking: edgeOrFaces, laysOver: true });
