import { defineOperation } from '../module';

export default defineOperation({
  name: 'fuse',
  leavesAlone: true,
  // In a project files are named after it and the body: a voxel, which the recipe's own name has, says nothing to whoever gets them.
  toSend: (sent) => ({ name: 'Fused', ...sent }),
});
