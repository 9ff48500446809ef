import { DoubleSkins, type Skin } from '../../features/gather/DoubleSkins';
import { MapChoice } from '../../features/gather/MapChoice';
import { type NoiseLine, NoiseTable } from '../../features/gather/NoiseTable';
import { defineOperation } from '../module';

export default defineOperation({
  name: 'noise-report',
  Report: ({ trial: { step } }) => (
    <>
      <NoiseTable lines={step.figures?.after.passes as NoiseLine[]} />
      <MapChoice maps={step.figures?.maps ?? []} />
      <DoubleSkins skins={(step.figures?.after.doubleSkins as Skin[] | undefined) ?? []} />
    </>
  ),
});
