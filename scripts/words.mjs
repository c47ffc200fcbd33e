// npm run words: lists words that must not appear in what people read: docs, messages, texts of the interface, help, docstrings, comments.
// The rules and their reasons are in docs/style.md.
import { readdirSync, readFileSync } from 'node:fs';
import { dirname, join, relative } from 'node:path';
import { fileURLToPath } from 'node:url';
import ts from 'typescript';

const root = join(dirname(fileURLToPath(import.meta.url)), '..');

/** A pattern that must not appear, and what to write instead. */
const rules = [
  [/\bwanted\b/i, 'asked for, needed, expected'],
  [/\banew\b/i, 'again'],
  [/\bsomebody\b/i, 'someone, or the user'],
  [/\bwhoever\b/i, 'anyone who, the client that'],
  [/\bnobody\b/i, 'no one, or a passive sentence'],
  [/\bmanieth\b/i, 'Nth'],
  [/\bseldom(er)?\b/i, 'rarely'],
  [/\b(is|are) to be\b/i, 'must be, can be'],
  [/(?<!bytes )\bof (its|their|one[’']s|your) own\b/i, 'its own …, a custom …'],
  [/\bput(s|ting)? (by|away)\b/i, 'save, close, dismiss'],
  [/\btake(s|n)? back\b/i, 'undo, withdraw'],
  [/\bgive(s|n)? up\b/i, 'cancel, abort'],
  [/\bgoes by\b/i, 'is named, references'],
  [/\bin sight\b/i, 'in view'],
  [/\bspoilt\b/i, 'malformed, damaged'],
  [/\bas ever\b/i, 'as before'],
  [
    /\b(a|an) (feature|line|file|row|layer|tile|symbol|geometry) a (line|feature|file|row|layer|tile)\b/i,
    'per, for each',
  ],
  [/\bwithout end\b/i, 'unlimited'],
  [/\bcan(not)? be had\b/i, 'is (not) available'],
  [/\bto be had\b/i, 'available'],
  [/\bwas answered\b/i, 'the server responded with'],
  [/\bwhat is to\b/i, 'say what must happen'],
  [
    /\b(colour|centre|metre|kilometre|grey|behaviour|neighbour|favourite|licence|catalogue|analyse|quantise|organise|normalise|recognise)(s|d|ed|ing)?\b/i,
    'American spelling',
  ],
];

/** Files whose every line is read by people. */
const isText = (name) => /\.(md|html)$/.test(name);
const isCode = (name) => /\.(ts|tsx|mjs|js)$/.test(name) && !/\.generated\.|\.d\.ts$/.test(name);
const skipped =
  /(^|\/)(node_modules|dist|coverage|reference|data|tests|\.git)(\/|$)|^CHANGELOG\.md$|^docs\/api\/|^docs\/faults\.md$/;

function* files(folder) {
  for (const entry of readdirSync(folder, { withFileTypes: true })) {
    const path = join(folder, entry.name);
    const name = relative(root, path);
    if (skipped.test(name)) continue;
    if (entry.isDirectory()) yield* files(path);
    else if (isText(entry.name) || isCode(entry.name)) yield name;
  }
}

/** Pieces of code that people read: comments, and strings with a space in them. */
function* readable(text, name) {
  const source = ts.createSourceFile(name, text, ts.ScriptTarget.Latest, true);
  const pieces = [];
  const visit = (node) => {
    if (
      ts.isStringLiteral(node) ||
      ts.isNoSubstitutionTemplateLiteral(node) ||
      ts.isTemplateHead(node) ||
      ts.isTemplateMiddle(node) ||
      ts.isTemplateTail(node)
    )
      // Well-known text has its own spelling.
      if (node.text.includes(' ') && !node.text.includes('UNIT[')) pieces.push([node.getStart(), node.text]);
    ts.forEachChild(node, visit);
  };
  visit(source);
  for (const match of text.matchAll(/\/\*\*?[\s\S]*?\*\/|(?<=^|\s)\/\/[^\n]*/g)) pieces.push([match.index, match[0]]);
  for (const [at, piece] of pieces) yield [source.getLineAndCharacterOfPosition(at).line + 1, piece];
}

const isComment = (piece) => /^\/[/*]/.test(piece);
const only = process.argv[2];
let count = 0;
for (const name of files(root)) {
  if (only && !name.startsWith(only)) continue;
  const text = readFileSync(join(root, name), 'utf8');
  const pieces = isCode(name)
    ? [...readable(text, name)]
    : text.split('\n').map((line, i) => [i + 1, line.replace(/`[^`]*`/g, '``')]);
  for (const [line, piece] of pieces)
    for (const [pattern, instead] of rules) {
      const found = pattern.exec(piece);
      if (!found) continue;
      // Internal comments follow when the code around them is next changed.
      if (isComment(piece) && !process.argv.includes('--comments')) continue;
      count++;
      console.log(
        `${name}:${line} “${found[0]}”: ${instead}   ${piece.slice(Math.max(0, found.index - 40), found.index + 50).replace(/\s+/g, ' ')}`,
      );
    }
}
console.log(count ? `${count} to be rewritten` : 'no word that must not appear');
process.exitCode = count ? 1 : 0;
