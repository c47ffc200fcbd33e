// The second door of the core, for the packages of this repository. No promise is made that it stays as it is.
export { faultFrom } from './base/fault.js';
export { foldedCase } from './cql2/functions.js';
export { unpackNatively } from './base/native-gzip.js';
export { unpack } from './base/unpack.js';
export { buffersOfPieces, joined } from './base/bytes.js';
export { Growing } from './base/growing.js';
export { append, greatest, least } from './base/lists.js';
export { nearestSpelling } from './base/spelling.js';
export { distanceToPath } from './geometry/rings.js';
export {
  mercatorLat,
  mercatorLon,
  mercatorX,
  mercatorY,
  webMercatorHalf,
  webMercatorLatitude,
  webMercatorRadius,
} from './crs/web-mercator.js';
export { addressKey, hilbertId, holds, parentOf, type TileInView, tileOfHilbertId } from './grid/address.js';
export { gridOfMatrixSet, type MatrixGrid } from './grid/matrix-set.js';
export { gridHalf, lonLatGrid, mercatorGrid, planGrid } from './grid/square.js';
export { isColumns } from './features/columns.js';
export { buffersOf, hiddenMark } from './features/block.js';
export { categoryNumber } from './features/clusters.js';
export { numbered, rowName } from './features/keys.js';
export { featureNear, type PixelScale } from './features/pick.js';
export { compileTree } from './cql2/compile.js';
export { useShapeFunctions } from './cql2/shape-functions.js';
export { withGeometryAnswers } from './cql2/geometry-answers.js';
export { cssColors, findColor } from './sheet/color.js';
export { findHexColor } from './sheet/hex-color.js';
export type { Rgba } from './sheet/hex-color.js';
export { unusableColors } from './sheet/color-cells.js';
export {
  compileSheet,
  type CompileTools,
  extrusionTexels,
  fillTexels,
  heatTexels,
  markTexels,
  patternTexels,
  strokeTexels,
} from './sheet/compile.js';
export { numberText } from './sheet/legend.js';
export { changeLayer, withChange } from './sheet/change.js';
export { iconSource, isIconAddress, isPath, isSvg } from './sheet/icons.js';
export { symbolNames, unknownSymbol } from './sheet/lint.js';
export { type PlainLayer, plainPortrayal, type Portrayal, type ZoomStep } from './sheet/plain.js';
export {
  labelTexts,
  type LabelStyle,
  plainLayer,
  Portrayer,
  selectFeatures,
  sheetPortrayal,
  stepOf,
} from './sheet/portray.js';
export { rampWidth } from './sheet/ramp.js';
export { compileScale } from './sheet/scale.js';
export { classesKey, withFoundClasses } from './sheet/resolve.js';
export { readSheetBy } from './sheet/validate.js';
export type { ClassesWanted, ValueTools } from './sheet/value-kinds.js';
export { Camera, fieldOfView, type Size, viewHolding } from './view/camera.js';
export { fitView } from './view/fit.js';
export { type Matrix, multiply, translated } from './view/matrix.js';
export { easings, viewPath } from './view/motion.js';
export { findPlainSurface, planSurface, surfaceKey, webMercator } from './view/surface.js';
export { globe, globeRadius } from './view/surfaces.js';
export { squareTilesInView } from './view/square-tiles.js';
export { tilesInView } from './view/tiles.js';
export { changeView, defaultLimits } from './view/view.js';
export { type GroundMesh, groundOf, latticeMesh } from './mesh/ground.js';
export { fromLocal, type LocalFrame, localFrameOf, tilePlace, toLocal } from './mesh/local-frame.js';
export { projectedGround, type ProjectedTile, projectTile } from './mesh/project-tile.js';
export { gap, MeshBuilder, type MeshRange, type TileMesh } from './mesh/tile-mesh.js';
export { CollisionGrid } from './layout/collision-grid.js';
export { distanceField } from './layout/distance-field.js';
export { type LabelAnchors, labelAnchorsOf } from './layout/label-anchors.js';
export { layAlong, type PathPiece, placesAlong } from './layout/path-text.js';
export {
  buffersOfPrepared,
  placementOf,
  type PreparedLayer,
  type PreparedTile,
  prepareTile,
  type TileProjector,
} from './layout/prepare-tile.js';
export { greatCircles } from './tiling/great-circles.js';
export { unwrapped } from './tiling/unwrap.js';
export type { FeatureFormat, FeatureTextOptions } from './formats/feature-format.js';
export { isGeoJsonLines } from './formats/geojson/read.js';
export { scanPoints } from './formats/geojson/scan-points.js';
export { scanTable } from './formats/table/scan.js';
export { featureFormats, formatOf, readFeatureBytes } from './formats/feature-text.js';
export { authorityAxes } from './crs/axes.js';
export { eachPosition, mapPositions } from './formats/files/mend.js';
export { isSidecar, readSidecars } from './formats/shapefile/sidecars.js';
