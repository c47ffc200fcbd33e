/** What the tool does at the moment. */
export type DrawTool =
  | 'select'
  | 'box'
  | 'lasso'
  | 'point'
  | 'line'
  | 'area'
  | 'rectangle'
  | 'circle'
  | 'offset'
  | 'cut'
  | 'hole';

/** Texts of the draw bar. */
export interface DrawStrings {
  readonly bar: string;
  readonly tools: Readonly<Record<DrawTool, string>>;
  readonly join: string;
  readonly delete: string;
  readonly undo: (step: string) => string;
  readonly redo: (step: string) => string;
  readonly snap: string;
  readonly finish: string;
  readonly cancel: string;
  readonly place: string;
  readonly placeHint: string;
  readonly enter: string;
  readonly hints: Readonly<Record<DrawTool, string>>;
  readonly goOn: string;
  /** Hints for touch screens, in place of those above. */
  readonly byTouch: { readonly hints: Readonly<Partial<Record<DrawTool, string>>>; readonly goOn: string };
  readonly corner: (number: number, of: number) => string;
  readonly middle: (number: number) => string;
  readonly turn: string;
  readonly scale: string;
  readonly selected: (count: number) => string;
  readonly crosses: string;
  readonly tooMany: string;
  readonly unread: (text: string) => string;
  readonly steps: Readonly<
    Record<
      | 'add'
      | 'draw'
      | 'corner'
      | 'insert'
      | 'drop'
      | 'move'
      | 'turn'
      | 'offset'
      | 'cut'
      | 'hole'
      | 'join'
      | 'delete'
      | 'fields',
      string
    >
  >;
  readonly attributes: (count: number) => string;
  readonly conflict: (left: number) => string;
  readonly conflictSays: (mine: 'changed' | 'deleted', theirs: 'changed' | 'deleted') => string;
  readonly shapeDiffers: string;
  readonly mine: string;
  readonly theirs: string;
  readonly save: string;
  readonly required: string;
  readonly draftKept: string;
  readonly incomplete: string;
  readonly goOnByKeys: string;
  readonly draftElsewhere: readonly [title: string, text: string];
  readonly draftTaken: readonly [title: string, text: string];
  readonly draftCopy: (steps: number) => readonly [title: string, text: string];
  readonly keepCopy: string;
  readonly takeOver: string;
  readonly openCopy: string;
  readonly discardCopy: string;
}

export const englishDraw: DrawStrings = {
  bar: 'Drawing tools',
  tools: {
    select: 'Select and edit',
    box: 'Select within a box',
    lasso: 'Select within an outline',
    point: 'Draw a point',
    line: 'Draw a line',
    area: 'Draw an area',
    rectangle: 'Draw a rectangle',
    circle: 'Draw a circle',
    offset: 'Draw a parallel line',
    cut: 'Cut along a line',
    hole: 'Cut a hole',
  },
  join: 'Join the selection',
  delete: 'Delete the selection',
  undo: (step) => (step ? `Undo: ${step}` : 'Nothing to undo'),
  redo: (step) => (step ? `Redo: ${step}` : 'Nothing to redo'),
  snap: 'Snap to features',
  finish: 'Finish',
  cancel: 'Cancel',
  place: 'Place',
  placeHint: '44.62, -31.18 or 44°37′ N 31°11′ W, or EPSG:32625 641000 4942000',
  enter: 'Set',
  hints: {
    select: 'Press a feature to edit it. Shift adds to the selection.',
    box: 'Drag a box around the features, or press two opposite corners.',
    lasso: 'Press corners around the features; press the first one again to finish.',
    point: 'Press the location of the point. By keyboard: arrow keys move the map, Enter sets the point in the middle.',
    line: 'Press along the line; press the last point again to finish.',
    area: 'Press the corners; press the first one again to finish.',
    rectangle: 'Press one corner, then the opposite one.',
    circle: 'Press the center, then the edge.',
    offset: 'Press where the parallel line should run, beside the selected or nearest line.',
    cut: 'Press along the cut, from outside to outside; press the last point again to finish.',
    hole: 'Press the corners of the hole; press the first one again to finish.',
  },
  goOn: 'Press Enter or the last point again to finish. Backspace removes the last point, Escape cancels.',
  byTouch: {
    hints: {
      select: 'Tap a feature to edit it; use a box to select several.',
      point: 'Tap the location of the point.',
      box: 'Tap two opposite corners around the features.',
    },
    goOn: 'Tap the last point again to finish.',
  },
  corner: (number, of) => `Vertex ${number} of ${of}; arrow keys move it, Delete removes it`,
  middle: (number) => `Insert a vertex after vertex ${number}`,
  turn: 'Rotate; arrow keys rotate by 1°',
  scale: 'Scale; arrow keys scale by 1 %',
  selected: (count) => `${count} feature${count === 1 ? '' : 's'} selected`,
  crosses: 'The outline crosses itself at the marked place.',
  tooMany: 'Too many vertices in view; zoom in to edit them.',
  unread: (text) => `“${text}” is not a location.`,
  steps: {
    add: 'add features',
    draw: 'draw',
    corner: 'move a vertex',
    insert: 'insert a vertex',
    drop: 'delete a vertex',
    move: 'move',
    turn: 'rotate or scale',
    offset: 'draw a parallel line',
    cut: 'cut',
    hole: 'cut a hole',
    join: 'join',
    delete: 'delete',
    fields: 'change attributes',
  },
  attributes: (count) => (count === 1 ? 'Attributes' : `Attributes of ${count} features`),
  conflict: (left) => (left > 1 ? `Also changed by someone else (${left} left)` : 'Also changed by someone else'),
  conflictSays: (mine, theirs) => `You ${mine} this feature; someone else ${theirs} it.`,
  shapeDiffers: 'The geometry differs; theirs is dashed.',
  mine: 'Keep mine',
  theirs: 'Take theirs',
  save: 'Save',
  required: 'This field is required.',
  draftKept: 'Unsaved work was restored.',
  incomplete: 'Draft: required attributes are missing.',
  goOnByKeys: 'Enter sets a point; Enter on the last point finishes. Backspace removes the last point, Escape cancels.',
  draftElsewhere: ['Open in another tab', 'This draft is open in another tab. You are editing a copy here.'],
  draftTaken: ['Taken over', 'Another tab has taken over this draft. You are editing a copy here.'],
  draftCopy: (steps) => ['Copy of this draft', `Another tab left a copy with ${steps} step${steps === 1 ? '' : 's'}.`],
  keepCopy: 'Keep the copy',
  takeOver: 'Take over',
  openCopy: 'Open the copy',
  discardCopy: 'Discard the copy',
};
