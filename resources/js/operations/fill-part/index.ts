import { defineOperation } from '../module';

export default defineOperation({ name: 'fill-part', within: 'fill-holes' });
