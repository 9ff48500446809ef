import { SupportPreview } from '../../features/fuse/SupportPreview';
import { defineOperation } from '../module';

export default defineOperation({
  name: 'rebuild',
  leavesAlone: true,
  // As of fuse: files are named after the project and this.
  toSend: (sent) => ({ name: 'Rebuilt', ...sent }),
  // Tried whole: the view can leave out by itself what a support takes off.
  toTry: (parameters) => ({ ...parameters, support: 0 }),
  Report: ({ trial, isCurrent, values }) => (isCurrent ? <SupportPreview trial={trial} least={Number(values.support ?? 0)} /> : null),
});
