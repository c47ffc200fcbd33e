import type { SheetLayer } from '@flintwright/core';
import type { EditDocument, EditFeature, EditStep } from '@flintwright/core/edit';
import type { FlintMap } from '../map/map.js';
import type { FieldsSchema } from './draw-form.js';

/** Looks of what is drawn, by what it is: symbols of a layer of the sheet. */
export interface DrawLooks {
  readonly point?: DrawLook;
  readonly line?: DrawLook;
  readonly area?: DrawLook;
}

/** Symbols of a layer, without its data. */
export type DrawLook = Partial<Omit<SheetLayer, 'id' | 'of' | 'where'>>;

type Kind = keyof DrawLooks;

/** Looks with the icons that points name in a field of that form, where nothing else is said of them. */
export function withIcons(looks: DrawLooks, fields: FieldsSchema | undefined): DrawLooks {
  const [name] = Object.entries(fields?.properties ?? {}).find(([, { format }]) => format === 'icon') ?? [];
  if (name === undefined || looks.point?.rules || looks.point?.mark) return looks;
  const own = `"${name.replaceAll('"', '""')}"`;
  const icon = { is: own };
  const halo = { color: '#f7f5ef', width: 1.4 };
  const rules = [
    { where: `${own} IS NOT NULL`, mark: { icon, size: 24, color: '#8a4f0b', outline: halo } },
    { otherwise: true as const, mark: plain.point.mark! },
  ];
  return { ...looks, point: { ...looks.point, mark: plain.point.mark!, rules } };
}

/** Attributes by which the map tells the features apart. */
const [keyName, kindName, draftName] = ['flint_key', 'flint_kind', 'flint_draft'];

const plain: Readonly<Record<Kind, DrawLook>> = {
  area: { fill: { color: '#d98a2b', opacity: 0.3 }, stroke: { color: '#8a4f0b', width: 1.8 } },
  line: { stroke: { color: '#8a4f0b', width: 2.6 } },
  point: { mark: { shape: 'diamond', size: 13, color: '#b46c15', outline: { color: '#f7f5ef', width: 1.6 } } },
};

const kindOf = ({ geometry: { type } }: EditFeature): Kind =>
  type.endsWith('Polygon') ? 'area' : type.endsWith('LineString') ? 'line' : 'point';

/** Marks on top of the looks for features whose required attributes are missing. */
const draftLooks: Readonly<Record<'lines' | 'points', DrawLook>> = {
  lines: { stroke: { color: '#b8402a', width: 2, dash: [6, 4] } },
  points: {
    mark: { shape: 'circle', size: 24, color: '#ffffff', opacity: 0, outline: { color: '#b8402a', width: 2 } },
  },
};

/** Whether a feature has all attributes that its form requires. */
export const isComplete = ({ properties }: EditFeature, fields: FieldsSchema | undefined): boolean =>
  (fields?.required ?? []).every(
    (name) => properties[name] !== undefined && properties[name] !== null && properties[name] !== '',
  );

/** The layers of the map that show a document, kept in step with it: one for areas, one for lines, one for points. */
export class DrawLayer {
  private turn: Promise<void> = Promise.resolve();

  constructor(
    private readonly map: FlintMap,
    readonly id: string,
    features: EditDocument,
    title: string,
    looks: DrawLooks,
    private readonly fields: FieldsSchema | undefined,
  ) {
    const collection = {
      type: 'FeatureCollection',
      features: [...features.features].map(([key, feature]) => this.named(key, feature)),
    };
    for (const kind of ['area', 'line', 'point'] as const) {
      const first = kind === 'area';
      map.layers.add({
        id: first ? id : `${id}-${kind}s`,
        ...(first ? { title } : {}),
        of: first ? { features: collection, id: keyName } : id,
        where: `${kindName} = '${kind}'`,
        ...plain[kind],
        ...looks[kind],
      });
    }
    if (!fields?.required?.length) return;
    for (const kind of ['lines', 'points'] as const)
      map.layers.add({
        id: `${id}-draft-${kind}`,
        of: id,
        where: `${draftName} = TRUE AND ${kindName} ${kind === 'points' ? '=' : '<>'} 'point'`,
        legend: false,
        ...draftLooks[kind],
      });
  }

  private named(key: string, feature: EditFeature): object {
    const draft = isComplete(feature, this.fields) ? {} : { [draftName]: true };
    return { ...feature, properties: { ...feature.properties, [keyName]: key, [kindName]: kindOf(feature), ...draft } };
  }

  /** Ids of its layers. */
  get ids(): string[] {
    return [this.id, `${this.id}-lines`, `${this.id}-points`];
  }

  /** Shows a step; steps follow one another. */
  show({ changes }: EditStep): Promise<void> {
    const put = changes.flatMap(({ key, after }) => (after ? [this.named(key, after)] : []));
    const gone = changes.flatMap(({ key, before, after }) => (before && !after ? [key] : []));
    const edit = {
      ...(put.length ? { put: { type: 'FeatureCollection', features: put } } : {}),
      ...(gone.length ? { remove: gone } : {}),
    };
    // Whoever asked for what went wrong is told of it; the next step is not concerned.
    this.turn = this.turn
      .catch(() => {})
      .then(() => (this.map.layers.find(this.id) ? this.map.edit(this.id, edit) : undefined));
    return this.turn;
  }

  /** The key of the topmost feature of a pixel. */
  keyAt(point: readonly [number, number]): string | undefined {
    const ids = this.ids.filter((id) => this.map.layers.find(id));
    return this.map.pick(point, { layers: ids.toReversed(), within: 8 })[0]?.key;
  }

  remove(): void {
    const ids = [...this.ids, `${this.id}-draft-lines`, `${this.id}-draft-points`];
    for (const id of ids.toReversed()) if (this.map.layers.find(id)) this.map.layers.remove(id);
  }
}
