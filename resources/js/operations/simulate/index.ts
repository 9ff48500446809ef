import { defineOperation } from '../module';

export default defineOperation({ name: 'simulate', trial: 'never' });
