// The sheet as text beside the live map: completion from its schema, faults where they stand, and every sound change shown at once.
import { autocompletion, type CompletionContext, type CompletionResult } from '@codemirror/autocomplete';
import { json, jsonParseLinter } from '@codemirror/lang-json';
import { ensureSyntaxTree, HighlightStyle, syntaxHighlighting, syntaxTree } from '@codemirror/language';
import { linter, lintGutter, type Diagnostic } from '@codemirror/lint';
import type { EditorState } from '@codemirror/state';
import { tags } from '@lezer/highlight';
import { basicSetup, EditorView } from 'codemirror';
import { checkSheet, type FlintMap, type Sheet } from 'flintwright';
import { keysAt, valuesAt, type Suggestion } from './schema-help.js';

type Path = readonly (string | number)[];
type Node = ReturnType<ReturnType<typeof syntaxTree>['resolveInner']>;

/** Stands in the text for features that are on the map, not in a file. */
const here = (name: string, count: number) => `(on the map: ${name}, ${count} features)`;
const isHere = /^\(on the map: .*\)$/;

const theme = EditorView.theme({
  '&': { height: '100%', fontSize: '12.5px', background: 'transparent', color: 'inherit' },
  '.cm-scroller': { fontFamily: '"Noto Sans Mono", ui-monospace, monospace', lineHeight: '1.5' },
  '.cm-gutters': { background: 'transparent', border: 'none', color: 'var(--sheet-line)' },
  '.cm-activeLine, .cm-activeLineGutter': { background: 'rgb(217 138 43 / 10%)' },
  '.cm-cursor': { borderLeftColor: 'currentColor' },
  '&.cm-focused': { outline: '2px solid #b46c15' },
  '.cm-tooltip': { background: '#fffefa', color: '#22303a', border: '1px solid #b9b6aa', maxWidth: '380px' },
  '.cm-tooltip-autocomplete > ul > li[aria-selected]': { background: '#22303a', color: '#f7f5ef' },
  '.cm-diagnostic-error': { borderLeftColor: '#b8402a' },
});

/** Colors that the page's style sheet gives, by day and by night. */
const inks = HighlightStyle.define([
  { tag: tags.propertyName, color: 'var(--sheet-key)' },
  { tag: tags.string, color: 'var(--sheet-word)' },
  { tag: [tags.number, tags.bool, tags.null], color: 'var(--sheet-number)' },
]);

export class SheetEditor {
  /** The editor itself. */
  readonly view: EditorView;
  /** What the placeholders stand for. */
  private kept = new Map<string, object>();
  /** The text that the map shows. */
  private shown = '';
  private timer = 0;

  /**
   * Makes it.
   *
   * @param host element that it fills
   * @param map whose sheet it shows and changes
   * @param report called with the number of faults as a text
   */
  constructor(
    host: HTMLElement,
    private readonly map: FlintMap,
    private readonly report: (text: string) => void,
  ) {
    this.view = new EditorView({
      parent: host,
      extensions: [
        basicSetup,
        json(),
        theme,
        syntaxHighlighting(inks),
        EditorView.lineWrapping,
        EditorView.contentAttributes.of({ 'aria-label': 'The sheet as text', tabindex: '0' }),
        lintGutter(),
        linter((view) => this.faults(view.state), { delay: 200 }),
        autocompletion({ override: [(context) => this.complete(context)] }),
        EditorView.updateListener.of(({ docChanged }) => {
          if (!docChanged) return;
          clearTimeout(this.timer);
          this.timer = window.setTimeout(() => this.apply(), 350);
        }),
      ],
    });
    // The text in it takes the focus, and scrolls.
    this.view.scrollDOM.removeAttribute('tabindex');
    map.addEventListener('sheetchange', () => this.follow());
    this.follow();
  }

  private get text(): string {
    return this.view.state.doc.toString();
  }

  /** Shows the sheet of the map, where nobody is at work on the text. */
  private follow(): void {
    if (this.text !== this.shown) return;
    const { $schema: _, ...sheet } = this.map.sheet;
    this.kept = new Map();
    const data = Object.entries(sheet.data ?? {}).map(([name, entry]) => {
      if (typeof entry.features !== 'object') return [name, entry];
      const list = (entry.features as { features?: readonly object[] }).features;
      const word = here(name, list?.length ?? 1);
      this.kept.set(word, entry.features);
      return [name, { ...entry, features: word }];
    });
    const text = JSON.stringify({ ...sheet, data: Object.fromEntries(data) }, null, 2);
    if (text === this.text) return;
    this.shown = text;
    this.view.dispatch({ changes: { from: 0, to: this.view.state.doc.length, insert: text } });
  }

  /** The sheet that the text says; undefined where it is no JSON. */
  private sheet(): Sheet | undefined {
    try {
      return JSON.parse(this.text, (key, value: unknown) =>
        key === 'features' && typeof value === 'string' ? (this.kept.get(value) ?? value) : value,
      ) as Sheet;
    } catch {
      // The parser's own linter says where.
      return undefined;
    }
  }

  /** Puts the text in force, where it is sound. */
  private apply(): void {
    if (this.text === this.shown) return;
    const sheet = this.sheet();
    const faults = sheet ? checkSheet(sheet) : [];
    if (!sheet || faults.length) {
      this.report(
        sheet
          ? `${faults.length} fault${faults.length === 1 ? '' : 's'}; the map keeps the last sound sheet`
          : 'Not JSON yet; the map keeps the last sound sheet',
      );
      return;
    }
    this.shown = this.text;
    this.map.setSheet(sheet, { whole: true, duration: 150 });
    this.report('The map shows this text');
  }

  private faults(state: EditorState): Diagnostic[] {
    const broken = jsonParseLinter()(this.view);
    if (broken.length) return broken;
    const sheet = this.sheet();
    if (!sheet) return [];
    const gone = Object.entries(sheet.data ?? {}).flatMap(([name, { features }]) =>
      typeof features === 'string' && isHere.test(features)
        ? [
            {
              at: `$.data.${name}.features`,
              message: 'these features are no longer on the map',
              hint: 'Undo, or name a file.',
            },
          ]
        : [],
    );
    return [...checkSheet(sheet), ...gone].map(({ at = '$', message, hint }) => {
      const { from, to } = nodeAt(state, pathOf(at));
      return { from, to: Math.max(to, from + 1), severity: 'error', message: `${message}. ${hint}` };
    });
  }

  private complete(context: CompletionContext): CompletionResult | null {
    const node = wholeTree(context.state).resolveInner(context.pos, -1);
    const place = placeOf(context.state, node);
    if (!place) return null;
    const { path, from, isKey, taken } = place;
    const options = (isKey ? keysAt(path).filter(({ text }) => !taken.includes(text)) : this.values(path)).map(
      ({ text, says }) => ({
        label: isKey ? JSON.stringify(text) : text,
        info: says || undefined,
        type: isKey ? 'property' : 'constant',
        ...(isKey && from === context.pos ? { apply: `${JSON.stringify(text)}: ` } : {}),
      }),
    );
    return options.length ? { from, options: options as never } : null;
  }

  /** What may stand at a place: what the schema lists, and names that the sheet and the map know. */
  private values(path: Path): Suggestion[] {
    const key = path.findLast((step) => typeof step === 'string') ?? '';
    const { palette = {}, data = {} } = this.map.sheet;
    const own =
      key === 'color' || key === 'background' || key === 'fill'
        ? Object.entries(palette).map(([name, color]) => ({ text: `"@${name}"`, says: color }))
        : key === 'icon' || key === 'shape'
          ? this.map.icons.names.map((name) => ({ text: `"${name}"`, says: 'icon or shape' }))
          : key === 'of'
            ? Object.keys(data).map((name) => ({ text: `"${name}"`, says: 'data of this sheet' }))
            : [];
    return [...own, ...valuesAt(path)];
  }
}

/** A path such as `$.layers[2].fill` in steps. */
const pathOf = (at: string): Path =>
  [...at.matchAll(/\.([^.[\]]+)|\[(\d+)\]/g)].map(([, key, index]) => (index === undefined ? key : Number(index)));

const nameOf = (state: EditorState, property: Node): string => {
  const name = property.getChild('PropertyName');
  try {
    return name ? String(JSON.parse(state.sliceDoc(name.from, name.to))) : '';
  } catch {
    // A name that is being written.
    return '';
  }
};

const valuesOf = (node: Node): Node[] => {
  const out: Node[] = [];
  for (let child = node.firstChild; child; child = child.nextSibling)
    if (!/^[[\]{},]$/.test(child.name) && child.name !== 'PropertyName') out.push(child);
  return out;
};

/** The tree of all of the text: the editor reads a long one piece by piece, and may not have come to its end. */
const wholeTree = (state: EditorState) => ensureSyntaxTree(state, state.doc.length, 2000) ?? syntaxTree(state);

/** The text of a path, or of as much of it as there is. */
function nodeAt(state: EditorState, path: Path): { from: number; to: number } {
  const { topNode } = wholeTree(state);
  let node: Node = topNode.firstChild ?? topNode;
  let mark: Node = node;
  for (const step of path) {
    const next =
      typeof step === 'number'
        ? valuesOf(node)[step]
        : node.getChildren('Property').find((property) => nameOf(state, property) === step);
    if (!next) break;
    mark = next;
    node = typeof step === 'number' ? next : (valuesOf(next).at(-1) ?? next);
  }
  // A whole object would underline half of the text: its first line is enough.
  return { from: mark.from, to: Math.min(mark.to, state.doc.lineAt(mark.from).to) };
}

/** Where the cursor stands: the path, whether a key or a value is wanted, and where it begins. */
function placeOf(
  state: EditorState,
  start: Node,
): { path: Path; from: number; isKey: boolean; taken: readonly string[] } | undefined {
  const isText = /^(String|PropertyName|True|False|Null|Number|⚠)$/.test(start.name);
  let node: Node | null = isText && start.name !== '⚠' ? start.parent : start;
  if (node?.name === '⚠') node = node.parent;
  if (!node) return undefined;
  const isKey =
    start.name === 'PropertyName' ||
    start.name === 'Object' ||
    (start.name === '⚠' && node.name === 'Object') ||
    start.name === '{';
  if (start.name === '{') node = start.parent;
  const from = isText && start.name !== '⚠' ? start.from : state.selection.main.head;
  let object = node;
  if (isKey && object?.name === 'Property') object = object.parent;
  const path: (string | number)[] = [];
  for (let at = isKey ? object : node, child: Node | null = isKey ? null : start; at; child = at, at = at.parent) {
    if (at.name === 'Property') path.unshift(nameOf(state, at));
    else if (at.name === 'Array' && child)
      path.unshift(
        Math.max(
          0,
          valuesOf(at).findIndex((one) => one.from === child.from),
        ),
      );
  }
  const taken = isKey && object ? object.getChildren('Property').map((one) => nameOf(state, one)) : [];
  return { path, from, isKey, taken };
}
