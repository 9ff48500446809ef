import { defineOperation } from '../module';

export default defineOperation({ name: 'remove-outliers', trial: 'live' });
