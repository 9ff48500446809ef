import type { BodyItem } from '../../api/types';
import { defineOperation } from '../module';

/** A pin hole is no wider than this many typical edges: nobody sees one, and nobody wants one. */
const PIN_HOLE = 3;

/** The edge of an even triangle of the mean area, mm. */
const edgeOf = ({ figures, faces }: BodyItem): number => (faces > 0 ? Math.sqrt((4 / Math.sqrt(3)) * ((figures?.area ?? 0) / faces)) : 0);

export default defineOperation({
  name: 'repair',
  // Holes are looked at one by one, under Close holes: only pin holes are faults unless somebody says so.
  beginsWith: ({ bodies }) => {
    const edge = Math.max(0, ...bodies.map(edgeOf));
    return { holes: edge > 0 ? Number((PIN_HOLE * edge).toPrecision(2)) : 'none' };
  },
});
