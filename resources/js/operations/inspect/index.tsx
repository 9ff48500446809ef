import { FaultList } from '../../features/mend/FaultList';
import type { FaultFamily } from '../../features/mend/faults';
import { defineOperation } from '../module';

const NO_FAMILIES: FaultFamily[] = [];

export default defineOperation({ name: 'inspect', Report: ({ trial: { step } }) => <FaultList families={(step.figures?.after.families as FaultFamily[] | undefined) ?? NO_FAMILIES} /> });
