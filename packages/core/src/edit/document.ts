import { Fault } from '../base/fault.js';
import { said } from '../base/said.js';
import type { EditGeometry } from './shape.js';

/** A feature under correction. */
export interface EditFeature {
  readonly type: 'Feature';
  readonly id?: string | number;
  readonly geometry: EditGeometry;
  readonly properties: Readonly<Record<string, unknown>>;
}

/** What became of one feature: absent before is new, absent after is deleted. */
export interface EditChange {
  readonly key: string;
  readonly before: EditFeature | undefined;
  readonly after: EditFeature | undefined;
}

/** One step of the work, which is undone as one. */
export interface EditStep {
  /** In plain words, such as `move a corner`. */
  readonly name: string;
  readonly changes: readonly EditChange[];
}

/** How a step came about. */
export type StepCause = 'edit' | 'undo' | 'redo' | 'merge' | 'restore';

/** Tells of a step: what was done, and how it came about. */
export type StepListener = (step: EditStep, cause: StepCause) => void;

/** A change from elsewhere that meets one made here. */
export interface EditConflict {
  readonly key: string;
  /** The feature here; undefined where it was deleted here. */
  readonly mine: EditFeature | undefined;
  /** The feature there; undefined where it was deleted there. */
  readonly theirs: EditFeature | undefined;
}

/** Work as it is put by: what was changed, and the steps, so that undo works after a reload. */
export interface EditDraft {
  readonly draft: number;
  readonly steps: readonly EditStep[];
  /** How many of the steps are done; those after it were undone. */
  readonly done: number;
}

/** Version of drafts. */
export const draftVersion = 1;

/**
 * Features under correction, with every step kept: undo and redo go back to the first and on to the last, without end.
 */
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
   * Takes features over.
   *
   * @param features features with ids, or with the attribute that is named
   * @param idName attribute that tells features apart; default their ids
   * @throws Fault `edit.key` where two have the same key
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
          `two features have the key ${said(key)}`,
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

  /** The features as they are now, by their keys, in their order. */
  get features(): ReadonlyMap<string, EditFeature> {
    return this.now;
  }

  /** @throws Fault `edit.key` */
  require(key: string): EditFeature {
    const feature = this.now.get(key);
    if (!feature) throw new Fault('edit.key', `no feature has the key ${said(key)}`, 'It may have been deleted.');
    return feature;
  }

  /** A key that no feature has had. */
  newKey(): string {
    let key: string;
    do key = `new-${++this.fresh}`;
    while (this.now.has(key) || this.steps.some(({ changes }) => changes.some((change) => change.key === key)));
    return key;
  }

  /** Whether anything differs from what was handed over. */
  get changed(): boolean {
    return this.done > 0;
  }

  /** The step that undo would take back, and the one that redo would do again; undefined where there is none. */
  get undoName(): string | undefined {
    return this.steps[this.done - 1]?.name;
  }

  get redoName(): string | undefined {
    return this.steps[this.done]?.name;
  }

  /**
   * Listens to steps.
   *
   * @param listener called after each
   * @returns takes the listener off
   */
  listen(listener: StepListener): () => void {
    this.listeners.add(listener);
    return () => this.listeners.delete(listener);
  }

  /**
   * Does a step. What was undone before can then not be done again.
   *
   * @param name in plain words
   * @param after the features by their keys as they are to be; undefined deletes one
   * @returns the step; undefined where nothing differs
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

  /** Takes the last step back. @returns the step; undefined where there is none */
  undo(): EditStep | undefined {
    const step = this.steps[this.done - 1];
    if (!step) return undefined;
    this.done--;
    this.take(step, 'before', 'undo');
    return step;
  }

  /** Does the step again that was taken back last. @returns the step; undefined where there is none */
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

  /** The work so far, to be put by. */
  draft(): EditDraft {
    return { draft: draftVersion, steps: this.steps, done: this.done };
  }

  /**
   * Takes up work that was put by, on the features as they were then.
   *
   * @param draft as {@link draft} gave it
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
   * Takes in changes that were made elsewhere. What was not changed here follows; what was changed on both sides stays as it is here, and
   * is told as a conflict.
   *
   * @param theirs features as they are elsewhere by now, by their keys; undefined for one that was deleted there
   * @returns all conflicts that are open
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

  /** Changes on both sides that nobody has decided on. */
  get conflicts(): readonly EditConflict[] {
    return [...this.clashes.values()];
  }

  /**
   * Has somebody told when changes come from elsewhere, and when a conflict is decided on.
   *
   * @param watcher is told
   * @returns ends that
   */
  watch(watcher: () => void): () => void {
    this.watchers.add(watcher);
    return () => void this.watchers.delete(watcher);
  }

  /**
   * Decides on a conflict. Taking theirs is a step, which can be undone.
   *
   * @param key of the feature
   * @param side whose feature stands from now on
   */
  resolve(key: string, side: 'mine' | 'theirs'): void {
    const clash = this.clashes.get(key);
    if (!clash) return;
    this.clashes.delete(key);
    for (const watcher of this.watchers) watcher();
    if (side === 'theirs') this.apply('take the other version', new Map([[key, clash.theirs]]));
  }
}
