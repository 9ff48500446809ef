import { frameFrom } from '../../features/lighten/frame';
import { PLACES } from '../../features/orient/frame';
import { FramePicks } from '../../features/orient/FramePicks';
import { SixLocks } from '../../features/orient/SixLocks';
import { defineOperation } from '../module';

export default defineOperation({
  name: 'set-frame',
  trial: 'never',
  // As long as no frame is set, the datums that are there propose one.
  beginsWith: ({ datums, oriented }) => (oriented ? {} : Object.fromEntries(frameFrom(datums).map((datum, k) => [PLACES[k], { datum: datum.id }]))),
  Fields: ({ values, set, parameters, on }) => (
    <>
      <FramePicks values={values} onSet={set} />
      <SixLocks parameters={parameters} on={on} />
    </>
  ),
  RerunFields: ({ values, set }) => <FramePicks values={values} onSet={set} />,
  lacking: (sent, { data }) => (data.snapshot.datums.length === 0 ? 'Add a datum first: the frame is set by datums.' : sent.first ? null : 'Choose the first datum.'),
});
