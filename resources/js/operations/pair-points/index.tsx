import { PairPicks } from '../../features/register/PairPicks';
import { defineOperation } from '../module';
import { lackingPairs, pairsOf } from '../pairs';

const NONE: string[] = [];

export default defineOperation({
  name: 'pair-points',
  trial: 'never',
  Fields: ({ values }) => <PairPicks moving={values.moving as string | undefined} along={(values.with as string[] | undefined) ?? NONE} onto={values.onto as string | undefined} />,
  toSend: (sent, { picks }) => ({ ...sent, pairs: pairsOf(picks) }),
  lacking: (sent, { picks }) => lackingPairs(sent, picks.length),
  picksInPairs: true,
  pickColour: (k) => (k % 2 === 1 ? '#7fa8d9' : null),
});
