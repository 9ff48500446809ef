import { CutOpen } from '../../features/deliver/CutOpen';
import { defineOperation } from '../module';

export default defineOperation({
  name: 'split',
  // Both parts are to be seen when it is tried.
  Fields: ({ values, set, on }) => <CutOpen values={values} set={set} on={on} begins="whole" />,
});
