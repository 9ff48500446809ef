import { type Spike, SpikeList } from '../../features/mend/SpikeList';
import { defineOperation } from '../module';

export default defineOperation({
  name: 'despike',
  trial: 'live',
  Report: ({ trial: { step } }) => <SpikeList spikes={(step.figures?.after.listed as Spike[] | undefined) ?? []} all={Number(step.figures?.before.spikes ?? 0)} />,
});
