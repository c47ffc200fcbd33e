/** What the hand does on the map. */
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

/** The texts of drawing. */
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
  bar: 'Draw and correct',
  tools: {
    select: 'Select and correct',
    box: 'Select within a box',
    lasso: 'Select within an outline',
    point: 'Draw a point',
    line: 'Draw a line',
    area: 'Draw an area',
    rectangle: 'Draw a rectangle',
    circle: 'Draw a circle',
    offset: 'Lay a line beside another',
    cut: 'Cut along a line',
    hole: 'Cut a hole',
  },
  join: 'Join what is selected',
  delete: 'Delete what is selected',
  undo: (step) => (step ? `Undo: ${step}` : 'Nothing to undo'),
  redo: (step) => (step ? `Redo: ${step}` : 'Nothing to redo'),
  snap: 'Snap to what is there',
  finish: 'Finish',
  cancel: 'Cancel',
  place: 'Place',
  placeHint: '44.62, -31.18 or 44°37′ N 31°11′ W, or EPSG:32625 641000 4942000',
  enter: 'Set',
  hints: {
    select: 'Press a feature to correct it. Shift adds to the selection.',
    box: 'Drag a box round what is to be selected, or press two of its corners.',
    lasso: 'Press corners round what is to be selected; the first one again ends it.',
    point: 'Press where the point is. By keyboard: arrows move the map, Enter sets it in the middle.',
    line: 'Press along the line; the last place again ends it.',
    area: 'Press the corners; the first one again ends it.',
    rectangle: 'Press one corner, then the opposite one.',
    circle: 'Press the middle, then the rim.',
    offset: 'Press where the line is to run, beside the line that is selected or is nearest.',
    cut: 'Press along the cut, from outside to outside; the last place again ends it.',
    hole: 'Press the corners of the hole; the first one again ends it.',
  },
  goOn: 'Enter or the last point again ends it. Backspace removes the last point, Escape cancels.',
  corner: (number, of) => `Corner ${number} of ${of}; arrows move it, Delete deletes it`,
  middle: (number) => `Put a corner in after corner ${number}`,
  turn: 'Turn; arrows turn it by a degree',
  scale: 'Scale; arrows scale it by a hundredth',
  selected: (count) => `${count} feature${count === 1 ? '' : 's'} selected`,
  crosses: 'The border crosses itself where the ring stands.',
  tooMany: 'Too many corners in view; move closer to correct them.',
  unread: (text) => `“${text}” is no place.`,
  steps: {
    add: 'add features',
    draw: 'draw',
    corner: 'move a corner',
    insert: 'put a corner in',
    drop: 'delete a corner',
    move: 'move',
    turn: 'turn or scale',
    offset: 'lay a line beside',
    cut: 'cut',
    hole: 'cut a hole',
    join: 'join',
    delete: 'delete',
    fields: 'change attributes',
  },
  attributes: (count) => (count === 1 ? 'Attributes' : `Attributes of ${count} features`),
  conflict: (left) => (left > 1 ? `Changed elsewhere too (${left} left)` : 'Changed elsewhere too'),
  conflictSays: (mine, theirs) => `You have ${mine} this feature, and somebody else has ${theirs} it.`,
  shapeDiffers: 'The shape differs; theirs is dashed.',
  mine: 'Keep mine',
  theirs: 'Take theirs',
  save: 'Save',
  required: 'This has to be filled in.',
  draftKept: 'The unsaved work was restored.',
  incomplete: 'Draft: required attributes are missing.',
  goOnByKeys: 'Enter sets a point, Enter on the last point ends it. Backspace removes the last point, Escape cancels.',
  draftElsewhere: ['Open in another tab', 'This draft is open in another tab. Here you work on a copy.'],
  draftTaken: ['Taken over', 'Another tab has taken over this draft. Here you go on with a copy.'],
  draftCopy: (steps) => ['Copy of this draft', `Another tab left a copy with ${steps} step${steps === 1 ? '' : 's'}.`],
  keepCopy: 'Keep the copy',
  takeOver: 'Take over',
  openCopy: 'Open the copy',
  discardCopy: 'Discard the copy',
};
