import { readGeoJson, type ClusterNode, type CompiledLayer } from '@flintwright/core';
import { Portrayer, stepOf, type LabelStyle } from '@flintwright/core/internal';

/** A cluster as the sheet has it look. */
export interface ClusterLook {
  /** Appearance row of its mark, as the layer of {@link CompiledLayer.clusterLook} has it. */
  readonly row: Float32Array;
  readonly label: LabelStyle | undefined;
  readonly text: string | undefined;
}

/** Works out how clusters look whose layer says so, by their count, sums, minima, maxima and leading category. */
export class ClusterLooks {
  private readonly known = new Map<string, ClusterLook>();

  constructor(private readonly sprite: (name: string) => number) {}

  /** Forgets all, after the sheet has changed. */
  forget(): void {
    this.known.clear();
  }

  of(look: CompiledLayer, node: ClusterNode, categories: readonly string[], zoom: number): ClusterLook {
    const step = stepOf(look, zoom);
    const key = `${look.id}/${node.id}/${node.count}/${step[0]}`;
    let found = this.known.get(key);
    if (!found) {
      // What a cluster looks like does not depend on where it stands.
      const block = readGeoJson({
        type: 'Feature',
        properties: attributesOfCluster(node, categories),
        geometry: { type: 'Point', coordinates: [0, 0] },
      });
      const portrayer = new Portrayer(look, block, step, this.sprite);
      const label = portrayer.label(0);
      const said = look.rules[0]?.symbols.label?.text.bind({ block, zoom })(0);
      const text = said?.trim() ? said.trim() : undefined;
      this.known.set(key, (found = { row: portrayer.rows([0]), label, text }));
    }
    return found;
  }
}

/** Attributes by which the sheet may have a cluster look. */
function attributesOfCluster(node: ClusterNode, categories: readonly string[]): Record<string, number | string | null> {
  const { count, sums, minima, maxima, shares } = node;
  const most = shares?.length ? Math.max(...shares) : 0;
  return {
    ...maxima,
    ...minima,
    ...sums,
    count,
    leading: most > 0 ? (categories[shares!.indexOf(most)] ?? null) : null,
  };
}
