import { defineOperation } from '../module';

export default defineOperation({ name: 'remove-unsure', trial: 'live' });
