import { defineOperation } from '../module';

export default defineOperation({ name: 'apply-fixture', trial: 'never', lacking: (sent) => (sent.fixture ? null : 'Choose a fixture, or open the file of one.') });
