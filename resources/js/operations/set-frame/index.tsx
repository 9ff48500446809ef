import { FramePicks } from '../../features/orient/FramePicks';
import { SixLocks } from '../../features/orient/SixLocks';
import { defineOperation } from '../module';

export default defineOperation({
  name: 'set-frame',
  trial: 'never',
  Fields: ({ values, set, parameters, on }) => (
    <>
      <FramePicks values={values} onSet={set} />
      <SixLocks parameters={parameters} on={on} />
    </>
  ),
  RerunFields: ({ values, set }) => <FramePicks values={values} onSet={set} />,
  lacking: (sent, { data }) => (data.snapshot.datums.length === 0 ? 'Add a datum first: the frame is set by datums.' : sent.first ? null : 'Choose the first datum.'),
});
