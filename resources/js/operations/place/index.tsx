import { DatumPairPicks } from '../../features/register/DatumPairPicks';
import { type DatumPair, lackingDatumPairs } from '../../features/register/datumPairs';
import { PairPicks } from '../../features/register/PairPicks';
import { defineOperation, type FieldsProps } from '../module';
import { lackingPairs, pairsOf } from '../pairs';

const NONE: string[] = [];

function Fields({ values, set }: FieldsProps) {
  if (values.start === 'pairs') return <PairPicks moving={values.moving as string | undefined} along={(values.with as string[] | undefined) ?? NONE} onto={values.onto as string | undefined} />;
  if (values.start !== 'datums') return null;
  return <DatumPairPicks value={(values.datums as DatumPair[] | undefined) ?? []} moving={values.moving as string | undefined} onChange={(pairs) => set('datums', pairs.length === 0 ? undefined : pairs)} />;
}

export default defineOperation({
  name: 'place',
  Fields,
  toSend: (sent, { picks, values }) => {
    const { datums, ...out } = sent;
    return { ...out, ...(values.start === 'pairs' ? { pairs: pairsOf(picks) } : {}), ...(values.start === 'datums' && datums !== undefined ? { datums } : {}) };
  },
  lacking: (sent, { picks }) => {
    if (!sent.moving || !sent.onto) return 'Choose what moves, and what it is placed on.';
    if (sent.moving === sent.onto) return 'It cannot be placed on itself; choose another.';
    if (sent.start === 'datums') return lackingDatumPairs(sent.datums as DatumPair[] | undefined);
    return sent.start === 'pairs' ? lackingPairs(sent, picks.length) : null;
  },
  names: ({ passes, bodies }) => [...passes, ...bodies],
  picksInPairs: true,
});
