import { Fault, Kind, type CompiledLayer, type FeatureBlock } from '@flintwright/core';
import { labelTexts, mercatorX, mercatorY, selectFeatures, webMercatorHalf } from '@flintwright/core/internal';

/** The deepest level of a map. */
const deepest = 25;
/** Width of the narrowest letters, as a share of the size of the text. */
const narrow = 0.3;

/** Finds labels of a layer that no zoom has room for: texts longer than their lines, and more in one place than it has sides. */
export class LabelRoom {
  /** Texts along lines, and whether some line had room. */
  private readonly along = new Map<string, boolean>();
  /** Labels by the place that they stand at. */
  private readonly places = new Map<string, Set<string>>();
  private readonly zoom: number;

  constructor(private readonly layer: CompiledLayer) {
    this.zoom = Math.min(deepest, layer.zoom[1]);
  }

  /** Looks at the features of a block: in longitude and latitude, or of a tile. */
  take(block: FeatureBlock): void {
    const { layer, zoom } = this;
    const rules = layer.rules.filter((rule) => rule.symbols.label && rule.zoom[0] < zoom);
    if (!rules.length) return;
    const textOf = labelTexts(layer, block);
    const passing = rules.map(({ where, symbols: { label } }) => ({
      label: label!,
      passes: where?.bind({ block, zoom }),
      size: label!.size.bind({ block, zoom }),
    }));
    for (const f of selectFeatures(layer, block)) {
      const text = textOf(f);
      const rule = passing.find(({ passes }) => !passes || passes(f) === true);
      if (!text || !rule) continue;
      const lines = rule.label.along && block.kinds[f] === Kind.line;
      if (lines) {
        const least = [...text].length * (narrow + rule.label.spacing) * rule.size(f);
        this.along.set(text, (this.along.get(text) ?? false) || this.longest(block, f) >= least);
      } else if (block.kinds[f] === Kind.point && !block.tile) this.stand(block, f, text);
    }
  }

  private stand({ coords, partRings, ringStarts, featureParts }: FeatureBlock, f: number, text: string): void {
    const at = ringStarts[partRings[featureParts[f]]];
    const place = `${coords[2 * at]},${coords[2 * at + 1]}`;
    const here = this.places.get(place) ?? new Set();
    this.places.set(place, here.add(`${f} ${text}`));
  }

  /** Length of the longest line of a feature at the deepest level, in pixels. */
  private longest(block: FeatureBlock, f: number): number {
    const { coords, partRings, ringStarts, featureParts, tile, extent } = block;
    const scale = tile ? (256 * 2 ** (this.zoom - tile.z)) / extent : (256 * 2 ** this.zoom) / (2 * webMercatorHalf);
    const x = (v: number) => (tile || block.space === 'plane' ? coords[2 * v] : mercatorX(coords[2 * v]));
    const y = (v: number) => (tile || block.space === 'plane' ? coords[2 * v + 1] : mercatorY(coords[2 * v + 1]));
    let best = 0;
    for (let r = partRings[featureParts[f]]; r < partRings[featureParts[f + 1]]; r++) {
      let length = 0;
      for (let v = ringStarts[r] + 1; v < ringStarts[r + 1]; v++)
        length += Math.hypot(x(v) - x(v - 1), y(v) - y(v - 1));
      best = Math.max(best, length);
    }
    return best * scale;
  }

  /** What was found, a warning for each kind. */
  warnings(): Fault[] {
    const { layer, zoom } = this;
    const at = `$.layers[${layer.index}]`;
    const out: Fault[] = [];
    const long = [...this.along].filter(([, fits]) => !fits).map(([text]) => text);
    if (long.length)
      out.push(
        new Fault(
          'warn.label',
          `no zoom level has room for ${counted(long)} of layer "${layer.id}", longer than the line at zoom ${zoom}: ${shown(long)}`,
          'Use smaller text, extend the layer to deeper zooms, or leave "along" out.',
          at,
        ),
      );
    const sides = Math.max(...layer.rules.map(({ symbols: { label } }) => label?.sides.length ?? 0), 1);
    const beside = [...this.places.values()].flatMap((here) =>
      [...here].slice(sides).map((one) => one.replace(/^\d+ /, '')),
    );
    if (beside.length)
      out.push(
        new Fault(
          'warn.label',
          `no zoom level has room for ${counted(beside)} of layer "${layer.id}", because others are at the same location: ${shown(beside)}`,
          `Labels have only ${sides === 1 ? 'one position' : `${sides} positions`} there; cluster the data, or give "side" more of them.`,
          at,
        ),
      );
    return out;
  }
}

const counted = ({ length }: readonly string[]) => `${length} label${length === 1 ? '' : 's'}`;

/** The first few texts. */
const shown = (texts: readonly string[]) =>
  `${texts
    .slice(0, 3)
    .map((text) => `"${text}"`)
    .join(', ')}${texts.length > 3 ? ', …' : ''}`;
