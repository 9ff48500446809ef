import type { OperationModule } from './module';

/** Every folder beside this file is one operation; the bundler collects them. */
const MODULES = Object.fromEntries(Object.values(import.meta.glob<OperationModule>('./*/index.{ts,tsx}', { eager: true, import: 'default' })).map((module) => [module.name, module]));

const PLAIN: OperationModule = { name: '' };

/** What the window knows of an operation; nothing of most. */
export const moduleOf = (operation: string | null | undefined): OperationModule => (operation ? (MODULES[operation] ?? PLAIN) : PLAIN);

export const moduleNames = (): string[] => Object.keys(MODULES);
