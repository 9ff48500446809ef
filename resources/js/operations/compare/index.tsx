import { DatumPairPicks } from '../../features/register/DatumPairPicks';
import { type DatumPair, lackingDatumPairs } from '../../features/register/datumPairs';
import { defineOperation, type FieldsProps, type Values } from '../module';

const isBy = (values: Values, by: string) => values.bestFit === true && values.fitBy === by;

/** Datums of the other body, and those of this one that they come to lie on. */
function Fields({ values, set }: FieldsProps) {
  return isBy(values, 'datums') ? <DatumPairPicks value={(values.datums as DatumPair[] | undefined) ?? []} moving={values.to as string} onChange={(pairs) => set('datums', pairs.length === 0 ? undefined : pairs)} /> : null;
}

export default defineOperation({
  name: 'compare',
  Fields,
  lacking: (sent, { selection }) => {
    if (sent.to === 'earlier' && sent.revision === undefined) return 'Choose the step after which the body was as it is compared with.';
    if (sent.bestFit === true && sent.to === 'shapes') return 'Found shapes lie on the body already: leave out the best fit.';
    if (isBy(sent, 'selection') && selection.length === 0) return 'Select what the fit goes by: draw around it, or click an area.';
    if (!isBy(sent, 'datums')) return null;
    return sent.to === 'passes' || sent.to === 'earlier' ? 'Datums are of two bodies: compare with another body, or fit by a selection.' : lackingDatumPairs(sent.datums as DatumPair[] | undefined);
  },
});
