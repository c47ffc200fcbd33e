// Writes examples/shared/fonts.generated.css: Noto Sans for every script that the demo data are written in, out of packages from the
// registry. Tests and pictures load it, so that they look the same on a machine with other fonts, or none.
import { readdirSync, readFileSync, writeFileSync } from 'node:fs';
import { dirname, join, relative } from 'node:path';
import { fileURLToPath } from 'node:url';

const root = join(dirname(fileURLToPath(import.meta.url)), '..');
const out = join(root, 'examples/shared');

/** Packages, the style sheets to take from them, and the family that they become. */
const packages = [
  ['@fontsource-variable/noto-sans-mono', ['wght.css'], 'Noto Sans Mono'],
  ['@fontsource-variable/noto-serif', ['wght.css', 'wght-italic.css'], 'Noto Serif'],
  ['@fontsource-variable/noto-sans-arabic', ['wght.css'], 'Noto Sans'],
  ['@fontsource-variable/noto-sans-hebrew', ['wght.css'], 'Noto Sans'],
  ['@fontsource-variable/noto-sans-devanagari', ['wght.css'], 'Noto Sans'],
  ['@fontsource-variable/noto-sans-thai', ['wght.css'], 'Noto Sans'],
  ['@fontsource-variable/noto-sans-kr', ['wght.css'], 'Noto Sans'],
  ['@fontsource-variable/noto-sans-jp', ['wght.css'], 'Noto Sans'],
  // The last package is used first: Latin letters, figures and signs are those of this package.
  ['@fontsource-variable/noto-sans', ['wght.css', 'wght-italic.css'], 'Noto Sans'],
];

/** Characters that the demo data are written in. */
const written = new Set(
  readdirSync(join(root, 'demo/src')).flatMap((file) =>
    [...readFileSync(join(root, 'demo/src', file), 'utf8')].map((c) => c.codePointAt(0)),
  ),
);

const holds = (ranges) =>
  ranges.split(',').some((range) => {
    const [first, last = first] = range
      .trim()
      .replace(/^U\+/i, '')
      .split('-')
      .map((hex) => parseInt(hex, 16));
    for (const code of written) if (code > 0x7f && code >= first && code <= last) return true;
    return false;
  });

/** The ranges of another script without Latin letters and signs, for which a page would fetch its faces for nothing. */
const withoutLatin = (ranges) =>
  ranges
    .split(/,\s*/)
    .filter((range) => {
      const last = parseInt(/([\da-f]+)$/i.exec(range)[1], 16);
      return last > 0x24f && !(last >= 0x2000 && last <= 0x206f);
    })
    .join(', ');

const faces = packages.flatMap(([name, sheets, family]) => {
  const home = join(root, 'node_modules', name);
  return sheets.flatMap((sheet) => {
    const css = readFileSync(join(home, sheet), 'utf8');
    return [...css.matchAll(/\/\* (\S+) \*\/\s*(@font-face \{[^}]*\})/g)].flatMap(([, title, face]) => {
      const ranges = /unicode-range: ([^;]*);/.exec(face)?.[1] ?? '';
      const isLatin = family !== 'Noto Sans' || name.endsWith('/noto-sans');
      if (!isLatin && /-(latin|latin-ext|math|symbols|cyrillic|vietnamese)-/.test(title)) return [];
      if (!/-latin-/.test(title) && ranges && !holds(ranges)) return [];
      const own = isLatin ? ranges : withoutLatin(ranges);
      if (ranges && !own) return [];
      return (
        face
          .replace(/unicode-range: [^;]*;/, `unicode-range: ${own};`)
          .replace(/font-family: [^;]*/, `font-family: '${family}'`)
          .replace(/font-display: \w+/, 'font-display: block')
          // Faces of one weight alone would be taken for all text of that weight.
          .replace(/font-weight: [^;]*/, 'font-weight: 100 900')
          .replace(/url\(\.\/([^)]*)\)/g, (_, path) => `url('${relative(out, join(home, path))}')`)
          .replace(/,\s*url\([^)]*\) format\('woff'\)/, '')
      );
    });
  });
});
// Emoji in colors that every engine draws (COLR, version 0).
faces.unshift(`@font-face {
  font-family: 'Noto Sans';
  font-weight: 100 900;
  font-display: block;
  src: url('${relative(out, join(root, 'node_modules/twemoji-colr-font/twemoji.woff2'))}') format('woff2');
  unicode-range: U+1F300-1FAFF;
}`);
if (faces.length < packages.length) throw new Error('a font package has none of the required faces');
writeFileSync(join(out, 'fonts.generated.css'), `${faces.join('\n')}\n`);
