import { defineOperation } from '../module';

export default defineOperation({ name: 'resolve-double-skin', trial: 'live' });
