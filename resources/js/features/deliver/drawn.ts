import type { ArtefactItem } from '../../api/types';
import type { ShownDimension } from '../../viewport/dimensions';
import { placed, scaleOf } from '../lighten/shapes';

/** A dimension of a section, as the core wrote it (SectionDimensions.php): in the numbers of the artefact. */
export interface DrawnSize {
  sign: '' | 'R' | 'Ø';
  /** how many of this size there are */
  many: number;
  value: number;
  line: [[number, number, number], [number, number, number]];
}

/** Where the dimensions of a section stand now, with their values in words: "2 × Ø 9.00 mm". */
export function sizesOf(artefact: ArtefactItem, sizes: readonly DrawnSize[]): ShownDimension[] {
  const scale = scaleOf(artefact);
  return sizes.map(({ sign, many, value, line }) => ({ line: line.map((p) => placed(artefact, p)), words: `${many > 1 ? `${many} × ` : ''}${sign && `${sign} `}${(scale * value).toFixed(2)} mm`, isSmall: true }));
}
