import { defineOperation } from '../module';

/** The slider of the tool that lightens: see there. */
export default defineOperation({ name: 'levels', within: 'decimate' });
