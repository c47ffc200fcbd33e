import { readdirSync } from 'node:fs';
import { resolve } from 'node:path';
import { defineConfig } from 'vite';

const here = import.meta.dirname;
const apps = readdirSync(here, { withFileTypes: true }).filter(
  (entry) => entry.isDirectory() && !['dist', 'node_modules', 'shared'].includes(entry.name),
);
const pages = Object.fromEntries(
  apps.filter(({ name }) => name !== 'gallery').map(({ name }) => [name, resolve(here, name, 'index.html')]),
);

export default defineConfig({
  // The made-up data of the demo is served beside the pages.
  publicDir: resolve(here, '../demo/data'),
  build: {
    outDir: 'dist',
    emptyOutDir: true,

    target: 'es2022',
    rolldownOptions: { input: { gallery: resolve(here, 'index.html'), ...pages } },
  },
  server: { host: 'localhost', port: 5180 },
  preview: { host: 'localhost', port: 5180 },
});
