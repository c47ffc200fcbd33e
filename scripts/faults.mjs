// Writes docs/faults.md, the catalog of all faults, out of the code that throws them: node scripts/faults.mjs [--check]
import { execFileSync } from 'node:child_process';
import { readFileSync, writeFileSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';
import ts from 'typescript';

const root = join(dirname(fileURLToPath(import.meta.url)), '..');
const file = join(root, 'docs/faults.md');
const isCode = (text) => /^[a-z][a-z0-9-]*(\.[a-z0-9-]+)+$/.test(text);

const files = execFileSync(
  'git',
  ['ls-files', '-co', '--exclude-standard', '--', 'packages/*/src/*.ts', 'packages/*/src/**/*.ts'],
  {
    cwd: root,
    encoding: 'utf8',
  },
)
  .trim()
  .split('\n')
  .filter((path) => !path.includes('.generated.'));
const sources = files.map((path) =>
  ts.createSourceFile(path, readFileSync(join(root, path), 'utf8'), ts.ScriptTarget.Latest, true),
);

/** The texts that an expression may give, with … for what is only known at run time; `given` stands for parameters. */
function texts(node, given = new Map()) {
  if (!node) return [];
  if (ts.isStringLiteralLike(node)) return [node.text];
  if (ts.isParenthesizedExpression(node) || ts.isAsExpression(node)) return texts(node.expression, given);
  if (ts.isConditionalExpression(node)) return [...texts(node.whenTrue, given), ...texts(node.whenFalse, given)];
  if (ts.isBinaryExpression(node) && node.operatorToken.kind === ts.SyntaxKind.QuestionQuestionToken)
    return [...texts(node.left, given), ...texts(node.right, given)];
  if (ts.isIdentifier(node) && given.has(node.text)) return given.get(node.text);
  if (ts.isTemplateExpression(node)) {
    let out = [node.head.text];
    for (const { expression, literal } of node.templateSpans) {
      const inner = texts(expression, given).filter((text) => text !== '…');
      const parts = inner.length ? inner : ['…'];
      out = out.flatMap((text) => parts.map((part) => text + part + literal.text));
    }
    return out;
  }
  return ['…'];
}

const catalogue = new Map();
function add(code, messages, hints) {
  if (!isCode(code)) return;
  const entry = catalogue.get(code) ?? { messages: new Set(), hints: new Set() };
  const solid = (text) => text && text.replace(/[…\s]/g, '');
  for (const text of messages) if (solid(text)) entry.messages.add(text);
  for (const text of hints) if (solid(text)) entry.hints.add(text);
  catalogue.set(code, entry);
}

/** Functions that make faults of what they are handed: parameters, and the arguments of the fault. */
const makers = new Map();
const walk = (node, visit) => {
  visit(node);
  ts.forEachChild(node, (child) => walk(child, visit));
};
const isFault = (node) => ts.isNewExpression(node) && node.expression.getText() === 'Fault';
const nameOf = (node) =>
  node.name?.getText() ??
  (ts.isVariableDeclaration(node.parent) || ts.isPropertyAssignment(node.parent)
    ? node.parent.name.getText()
    : undefined);

for (const source of sources)
  walk(source, (node) => {
    if (!isFault(node)) return;
    let owner = node.parent;
    while (owner && !ts.isFunctionLike(owner)) owner = owner.parent;
    if (!owner) return;
    const parameters = owner.parameters.map((parameter) => parameter.name.getText());
    const used = (node.arguments ?? []).slice(0, 3).some((argument) => {
      let found = false;
      walk(
        argument,
        (part) =>
          (found ||=
            ts.isIdentifier(part) && parameters.includes(part.text) && !ts.isPropertyAccessExpression(part.parent)),
      );
      return found;
    });
    const name = nameOf(owner);
    if (used && name && name !== 'constructor') makers.set(name, { parameters, fault: node });
  });

for (const source of sources)
  walk(source, (node) => {
    if (!ts.isCallExpression(node) && !ts.isNewExpression(node)) return;
    const args = node.arguments ?? [];
    // A code with a message behind it, whoever takes the two.
    const at = args.findIndex((argument) => texts(argument).some(isCode));
    // Checks are handed the name of a call, which looks like a code.
    const isCheck = /^check/.test(node.expression.getText());
    if (at >= 0 && at + 1 < args.length && !isCheck) {
      const [first, second, third] = [args[at], args[at + 1], args[at + 2]];
      const handed = ['asFault', 'fetchedOnce'].includes(node.expression.getText());
      for (const code of texts(first)) {
        if (handed) add(code, [], texts(second));
        else
          add(
            code,
            texts(second),
            code.startsWith('mvt.')
              ? ['That part was left out. Write the tile again with a correct encoder.']
              : texts(third),
          );
      }
    }
    // A call of something that makes faults of what it is handed.
    const called = node.expression.getText().replace(/^this\.|^.*\./, '');
    const maker = makers.get(called);
    if (!maker || isFault(node)) return;
    const given = new Map(maker.parameters.map((name, i) => [name, args[i] ? texts(args[i]) : ['…']]));
    const [code, message, hint] = maker.fault.arguments;
    for (const text of texts(code, given)) add(text, texts(message, given), texts(hint, given));
  });

const tidy = (text) =>
  text
    .replace(/\s+/g, ' ')
    .replace(/(…\s?)+…/g, '…')
    .replace(/\|/g, '\\|')
    .replace(/</g, '&lt;')
    .trim();
const sentence = (text) => (/[.?!]$/.test(text) ? text : `${text}.`);
const families = new Map();
for (const [code, entry] of [...catalogue].sort(([a], [b]) => (a < b ? -1 : 1))) {
  const family = code.split('.')[0];
  families.set(family, [...(families.get(family) ?? []), [code, entry]]);
}
const titles = JSON.parse(readFileSync(join(root, 'scripts/fault-families.json'), 'utf8'));
const unnamed = [...families.keys()].filter((family) => !(family in titles));
if (unnamed.length) throw new Error(`scripts/fault-families.json does not name ${unnamed.join(', ')}`);
const list = (set) => [...set].slice(0, 4).map((text) => sentence(tidy(text)));
const entry = ([code, { messages, hints }]) => {
  const said = list(messages);
  // Headings would fill the outline of the page: an entry is a paragraph with an anchor, its messages, and what to do.
  return [
    `<a id="${code}"></a>**\`${code}\`**`,
    '',
    ...(said.length ? said : ['The words of the browser or the system.']).map((text) => `- ${text}`),
    ...(hints.size ? ['', `What to do: ${list(hints).join(' Or: ')}`] : []),
  ].join('\n');
};
const text = `# All faults

Every error is a \`Fault\` with a stable \`code\`, a \`message\` (what was expected, what came), a \`hint\` (what to do) and, if known, a location
\`at\`. \`npm run faults\` generates this list from the code; … stands for a value that is known at run time.

${[...families].map(([family, codes]) => `## ${titles[family]}\n\n${codes.map(entry).join('\n\n')}\n`).join('\n')}`;
const out = `${text.trimEnd()}\n`;
if (process.argv.includes('--check')) {
  let before = '';
  try {
    before = readFileSync(file, 'utf8');
  } catch {
    // A missing catalog differs from any.
  }
  if (before !== out) {
    console.error('docs/faults.md is not what the code says: run npm run faults');
    process.exit(1);
  }
  console.log(`${catalogue.size} faults, all in docs/faults.md`);
} else {
  writeFileSync(file, out);
  console.log(`${catalogue.size} faults`);
}
