// Resolves imports of TypeScript sources for Jest: an import of "./x.js" in a .ts file is "./x.ts" if there is such a file.
const { existsSync } = require('node:fs');
const { resolve } = require('node:path');

module.exports = (path, options) => {
  if (path.startsWith('.') && path.endsWith('.js')) {
    const source = resolve(options.basedir, path.replace(/\.js$/, '.ts'));
    if (!source.includes('node_modules') && existsSync(source)) return source;
  }
  return options.defaultResolver(path, options);
};
