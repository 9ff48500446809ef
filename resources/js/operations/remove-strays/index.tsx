import { type Cluster, type Place, StrayList } from '../../features/gather/StrayList';
import { defineOperation } from '../module';

export default defineOperation({
  name: 'remove-strays',
  trial: 'live',
  reportsNotes: true,
  Report: ({ trial: { step }, values, set }) => <StrayList clusters={(step.figures?.after.listed as Cluster[] | undefined) ?? []} keep={(values.keep as Place[] | undefined) ?? []} onKeep={(keep) => set('keep', keep.length === 0 ? undefined : keep)} />,
});
