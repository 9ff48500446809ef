import { defineOperation } from '../module';

export default defineOperation({ name: 'lay-strip', within: 'fill-holes' });
