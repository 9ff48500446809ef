import { defineOperation } from '../module';

export default defineOperation({ name: 'drop-base', trial: 'live' });
