import { defineOperation } from '../module';

export default defineOperation({ name: 'set-unit', trial: 'never', answersUnit: true });
