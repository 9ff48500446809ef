import { CutOpen } from '../../features/deliver/CutOpen';
import { defineOperation } from '../module';

export default defineOperation({
  name: 'section',
  Fields: ({ values, set, on }) => <CutOpen values={values} set={set} on={on} />,
});
