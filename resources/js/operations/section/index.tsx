import { CutOpen } from '../../features/deliver/CutOpen';
import { defineOperation } from '../module';

export default defineOperation({
  name: 'section',
  // A mean is one of planes around an axis.
  hides: (parameter, { values }) => parameter === 'mean' && !values.around,
  Fields: ({ values, set, on }) => <CutOpen values={values} set={set} on={on} />,
});
