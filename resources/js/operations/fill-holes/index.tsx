import { HoleList } from '../../features/mend/HoleList';
import { listedHoles, type Wish, wishesToSend } from '../../features/mend/holes';
import { useCallback } from 'react';
import { defineOperation, type FieldsProps, type Values } from '../module';

const NO_WISHES: Record<string, Wish> = {};

const wishesOf = (values: Values) => (values.wishes as Record<string, Wish> | undefined) ?? NO_WISHES;

function Fields({ bodies, values, set }: FieldsProps) {
  const setWishes = useCallback((wishes: Record<string, Wish>) => set('wishes', wishes), [set]);
  return <HoleList bodies={bodies} wishes={wishesOf(values)} onWish={setWishes} />;
}

export default defineOperation({
  name: 'fill-holes',
  Fields,
  // Wishes stand for parameters of their own (features/mend/holes).
  own: ['wishes'],
  toSend: (sent, { bodies = [], values }) => ({ ...sent, ...wishesToSend(listedHoles(bodies), wishesOf(values)) }),
  lacking: (sent, { bodies, data }) => {
    if ((bodies ?? data.snapshot.bodies).every((b) => b.figures?.holeCount === 0)) return 'Every rim is closed already.';
    return Array.isArray(sent.rims) && sent.rims.length === 0 && sent.leaveOpen === undefined ? 'Choose a rim to close, or one to leave open.' : null;
  },
});
