export { main } from './main.js';
export { serveFolder, type FolderOptions } from './commands/serve.js';
export { cutArchive } from './commands/tile.js';
export type { Terminal } from './terminal.js';
