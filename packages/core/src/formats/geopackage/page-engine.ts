// SQLite for pages and workers, in memory; fetched with the first database.
import type { StartEngine } from './engine.js';
import engine from './sql-engine.generated.js';

export const startEngine = engine as StartEngine;
