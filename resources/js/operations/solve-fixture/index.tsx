import { FixtureReport, type HeadLine } from '../../features/register/FixtureReport';
import { TargetPicks } from '../../features/register/TargetPicks';
import { defineOperation } from '../module';

export default defineOperation({
  name: 'solve-fixture',
  Fields: ({ values, set }) => <TargetPicks value={Array.isArray(values.balls) && Array.isArray(values.planes) ? { balls: values.balls as number[][], planes: values.planes as number[][] } : null} onSet={set} />,
  Details: ({ step }) => {
    const heads = step.figures?.after.heads as HeadLine[] | undefined;
    return heads ? <FixtureReport heads={heads} /> : null;
  },
});
