import { Fault } from '../base/fault.js';
import { describeValue } from '../base/describe-value.js';
import type { EditGeometry } from './shape.js';

/** An edited feature. */
export interface EditFeature {
  readonly type: 'Feature';
  readonly id?: string | number;
  readonly geometry: EditGeometry;
  readonly properties: Readonly<Record<string, unknown>>;
}

/** Change of one feature: without `before` it is new, without `after` it is deleted. */
export interface EditChange {
  readonly key: string;
  readonly before: EditFeature | undefined;
  readonly after: EditFeature | undefined;
}

/** An edit step, the unit of undo. */
export interface EditStep {
  /** Description, such as `move a corner`. */
  readonly name: string;
  readonly changes: readonly EditChange[];
}

/** Cause of an edit step. */
export type StepCause = 'edit' | 'undo' | 'redo' | 'merge' | 'restore';

/** Called with an edit step and its cause. */
export type StepListener = (step: EditStep, cause: StepCause) => void;

/** A change made elsewhere that conflicts with one made here. */
export interface EditConflict {
  readonly key: string;
  /** The feature here; undefined if it was deleted here. */
  readonly mine: EditFeature | undefined;
  /** The feature there; undefined if it was deleted there. */
  readonly theirs: EditFeature | undefined;
}

/** A stored draft: the changes and the edit steps, so that undo works after a reload. */
export interface EditDraft {
  readonly draft: number;
  readonly steps: readonly EditStep[];
  /** Number of edit steps in effect; those after it were undone. */
  readonly done: number;
}

/** Version of drafts. */
export const draftVersion = 1;

/** Edited features with all edit steps; undo and redo are unlimited. */
export class EditDocument {
  private now = new Map<string, EditFeature>();
  /** Place of each key that there has been in the order of the features. */
  private readonly ranks = new Map<string, number>();
  /** The features as they were handed over, or as they are elsewhere by now. */
  private readonly base = new Map<string, EditFeature>();
  private steps: EditStep[] = [];
  private done = 0;
  private readonly listeners = new Set<StepListener>();
  private readonly clashes = new Map<string, EditConflict>();
  private readonly watchers = new Set<() => void>();
  private fresh = 0;

  /**
   * Creates a document.
   *
   * @param features features with ids, or with the attribute that identifies them
   * @param idName attribute that identifies features; default their ids
   * @throws Fault `edit.key` if two have the same key
   */
  constructor(
    features: readonly EditFeature[],
    readonly idName?: string,
  ) {
    features.forEach((feature, i) => {
      const key = this.keyOf(feature) ?? String(i + 1);
      if (this.now.has(key))
        throw new Fault(
          'edit.key',
          `two features have the key ${describeValue(key)}`,
          idName === undefined ? 'Give each feature a unique id.' : `Give each its own "${idName}".`,
        );
      this.base.set(key, feature);
      this.put(key, feature);
    });
  }

  private keyOf({ id, properties }: EditFeature): string | undefined {
    const key = this.idName === undefined ? id : properties[this.idName];
    return typeof key === 'string' || typeof key === 'number' ? String(key) : undefined;
  }

  /** The current features by their keys, in order. */
  get features(): ReadonlyMap<string, EditFeature> {
    return this.now;
  }

  /** Returns the feature with a key. @throws Fault `edit.key` */
  require(key: string): EditFeature {
    const feature = this.now.get(key);
    if (!feature)
      throw new Fault('edit.key', `no feature has the key ${describeValue(key)}`, 'It may have been deleted.');
    return feature;
  }

  /** Returns a key that no feature has had. */
  newKey(): string {
    let key: string;
    do key = `new-${++this.fresh}`;
    while (this.now.has(key) || this.steps.some(({ changes }) => changes.some((change) => change.key === key)));
    return key;
  }

  /** Whether anything differs from the initial features. */
  get changed(): boolean {
    return this.done > 0;
  }

  /** The edit step that undo reverts, and the one that redo repeats; undefined if there is none. */
  get undoName(): string | undefined {
    return this.steps[this.done - 1]?.name;
  }

  get redoName(): string | undefined {
    return this.steps[this.done]?.name;
  }

  /**
   * Adds a listener for edit steps.
   *
   * @param listener called after each step
   * @returns a function that removes the listener
   */
  listen(listener: StepListener): () => void {
    this.listeners.add(listener);
    return () => this.listeners.delete(listener);
  }

  /**
   * Performs an edit step. Steps that were undone before are discarded.
   *
   * @param name description
   * @param after the new features by their keys; undefined deletes one
   * @returns the step; undefined if nothing changes
   */
  apply(name: string, after: ReadonlyMap<string, EditFeature | undefined>): EditStep | undefined {
    const changes: EditChange[] = [];
    for (const [key, feature] of after) {
      const before = this.now.get(key);
      if (before !== feature) changes.push({ key, before, after: feature });
    }
    if (!changes.length) return undefined;
    const step = { name, changes };
    this.steps = [...this.steps.slice(0, this.done), step];
    this.done++;
    this.take(step, 'after', 'edit');
    return step;
  }

  /** Undoes the last edit step. @returns the step; undefined if there is none */
  undo(): EditStep | undefined {
    const step = this.steps[this.done - 1];
    if (!step) return undefined;
    this.done--;
    this.take(step, 'before', 'undo');
    return step;
  }

  /** Redoes the edit step that was undone last. @returns the step; undefined if there is none */
  redo(): EditStep | undefined {
    const step = this.steps[this.done];
    if (!step) return undefined;
    this.done++;
    this.take(step, 'after', 'redo');
    return step;
  }

  private take(step: EditStep, side: 'before' | 'after', cause: StepCause): void {
    const changes = side === 'after' ? step.changes : step.changes.toReversed();
    for (const change of changes) this.put(change.key, change[side]);
    this.tell(
      side === 'after'
        ? step
        : {
            name: step.name,
            changes: changes.map(({ key, before, after }) => ({ key, before: after, after: before })),
          },
      cause,
    );
  }

  private put(key: string, feature: EditFeature | undefined): void {
    if (!feature) {
      this.now.delete(key);
      return;
    }
    const isBack = !this.now.has(key) && this.ranks.has(key);
    if (!this.ranks.has(key)) this.ranks.set(key, this.ranks.size);
    this.now.set(key, feature);
    // What comes back takes its old place.
    if (isBack) this.now = this.inOrder(this.now);
  }

  private inOrder(features: ReadonlyMap<string, EditFeature>): Map<string, EditFeature> {
    const rank = ([key]: readonly [string, unknown]) => this.ranks.get(key) ?? Infinity;
    return new Map([...features].sort((one, other) => rank(one) - rank(other)));
  }

  private tell(step: EditStep, cause: StepCause): void {
    for (const listener of this.listeners) listener(step, cause);
  }

  /** The current state as a draft, to be stored. */
  draft(): EditDraft {
    return { draft: draftVersion, steps: this.steps, done: this.done };
  }

  /**
   * Restores a draft on the features that it was made from.
   *
   * @param draft a draft from {@link draft}
   * @throws Fault `edit.draft` for a draft of another version, or of other features; nothing is changed then
   */
  restore(draft: EditDraft): void {
    const { draft: version, steps, done } = draft ?? { steps: [], done: 0 };
    if (version !== draftVersion)
      throw new Fault(
        'edit.draft',
        typeof version === 'number' && version > draftVersion
          ? `the draft has version ${version}; version ${draftVersion} is read here`
          : 'the stored value is not a draft',
        'It was kept. Reload the page when the newer version is there, or discard the draft.',
      );
    const features = new Map(this.now);
    const whole = Array.isArray(steps) && Number.isInteger(done) && done >= 0 && done <= steps.length;
    const fits =
      whole &&
      steps.slice(0, done).every(({ changes }: EditStep) =>
        changes.every(({ key, before, after }: EditChange) => {
          const there = features.get(key);
          if (JSON.stringify(there) !== JSON.stringify(before)) return false;
          if (after) features.set(key, after);
          else features.delete(key);
          return true;
        }),
      );
    if (!fits)
      throw new Fault(
        'edit.draft',
        'the draft does not fit these features',
        'The features have changed since the draft was saved. The draft was kept; discard it to start again.',
      );
    this.steps = [...steps];
    this.done = done;
    const changes = [...new Set([...this.now.keys(), ...features.keys()])].flatMap((key) => {
      const [before, after] = [this.now.get(key), features.get(key)];
      return before === after ? [] : [{ key, before, after }];
    });
    for (const { changes: made } of steps)
      for (const { key } of made) if (!this.ranks.has(key)) this.ranks.set(key, this.ranks.size);
    this.now = this.inOrder(features);
    this.tell({ name: 'take up a draft', changes }, 'restore');
  }

  /**
   * Merges changes that were made elsewhere. Features that were not changed here are updated; those changed on both sides stay as they are
   * here and are reported as conflicts.
   *
   * @param theirs current features elsewhere, by their keys; undefined for one that was deleted there
   * @returns all unresolved conflicts
   */
  merge(theirs: ReadonlyMap<string, EditFeature | undefined>): readonly EditConflict[] {
    const changes: EditChange[] = [];
    const same = (a: EditFeature | undefined, b: EditFeature | undefined) => JSON.stringify(a) === JSON.stringify(b);
    for (const [key, feature] of theirs) {
      const [mine, before] = [this.now.get(key), this.base.get(key)];
      if (feature) this.base.set(key, feature);
      else this.base.delete(key);
      if (same(mine, feature)) this.clashes.delete(key);
      else if (same(mine, before)) {
        changes.push({ key, before: mine, after: feature });
        this.put(key, feature);
      } else this.clashes.set(key, { key, mine, theirs: feature });
    }
    if (changes.length) this.tell({ name: 'take in changes', changes }, 'merge');
    for (const watcher of this.watchers) watcher();
    return this.conflicts;
  }

  /** Unresolved conflicts. */
  get conflicts(): readonly EditConflict[] {
    return [...this.clashes.values()];
  }

  /**
   * Adds a listener for merged changes and resolved conflicts.
   *
   * @param watcher called after each
   * @returns a function that removes it
   */
  watch(watcher: () => void): () => void {
    this.watchers.add(watcher);
    return () => void this.watchers.delete(watcher);
  }

  /**
   * Resolves a conflict. Choosing theirs is an edit step, which can be undone.
   *
   * @param key key of the feature
   * @param side whose feature is kept
   */
  resolve(key: string, side: 'mine' | 'theirs'): void {
    const clash = this.clashes.get(key);
    if (!clash) return;
    this.clashes.delete(key);
    for (const watcher of this.watchers) watcher();
    if (side === 'theirs') this.apply('take the other version', new Map([[key, clash.theirs]]));
  }
}
