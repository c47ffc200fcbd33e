export * from './base/fault.js';
export { nearestSpelling } from './base/spelling.js';
export { gunzip, gzip, isGzip } from './base/gzip.js';
export * from './features/block.js';
export { BlockBuilder } from './features/builder.js';
export { innerPoint } from './geometry/inner-point.js';
export { doubleArea, distanceToPath, insideRings } from './geometry/rings.js';
export * from './grid/address.js';
export * from './crs/web-mercator.js';
export { readTile, type ReadTileOptions, type Violation } from './formats/mvt/read.js';
export { writeTile } from './formats/mvt/write.js';
export { readGeoJson, readGeoJsonLines, type ReadGeoJsonOptions } from './formats/geojson/read.js';
export { crsOfGeoJson, transformGeoJson, type AxisOrder, type TransformOptions } from './formats/geojson/transform.js';
export { featureToGeoJson, writeGeoJson, type GeoJsonFeature } from './formats/geojson/write.js';
export { Archive, blobSource, bufferSource, type AbortSignalLike, type ByteSource } from './formats/pmtiles/read.js';
export { ArchiveWriter, type ArchiveDetails, type WrittenArchive } from './formats/pmtiles/write.js';
export { compressionNames, tileTypeNames, type ArchiveHeader } from './formats/pmtiles/header.js';
export { pyramid, TileCutter, type PyramidTile, type TilingOptions } from './tiling/pyramid.js';
export { boundsOfBlocks, vectorLayers, type VectorLayer } from './tiling/layer-info.js';
export * from './view/surface.js';
export { distortionAt, type Distortion } from './view/distortion.js';
export { getSurface, globe, globeRadius } from './view/surfaces.js';
export * from './grid/square.js';
export { projectTile, projectedGround, type ProjectedTile } from './mesh/project-tile.js';
export { groundOf, latticeMesh, type GroundMesh } from './mesh/ground.js';
export { localFrameOf, fromLocal, toLocal, tilePlace, type LocalFrame } from './mesh/local-frame.js';
export { greatCircles } from './tiling/great-circles.js';
export { unwrapped } from './tiling/unwrap.js';
export * from './view/view.js';
export { Camera, fieldOfView, viewHolding, type Size } from './view/camera.js';
export { multiply, translated, type Matrix } from './view/matrix.js';
export { tilesInView } from './view/tiles.js';
export { viewPath, easings, type Easing } from './view/motion.js';
export { fitView, type Padding } from './view/fit.js';
export type * from './sheet/types.js';
export { checkSheet, inspectSheet, readSheet, SheetFault } from './sheet/validate.js';
export {
  extrusionTexels,
  compileSheet,
  fillTexels,
  heatTexels,
  markTexels,
  patternTexels,
  strokeTexels,
  type CompiledLayer,
  type CompiledSheet,
} from './sheet/compile.js';
export { Portrayer, selectFeatures, stepOf, type LabelStyle, type ZoomStep } from './sheet/portray.js';
export { legendOf, numberText, type LegendEntry, type LegendItem, type Swatch } from './sheet/legend.js';
export { builtInSprites } from './sheet/sprites.js';
export { lintSheet, symbolNames, unknownSymbol } from './sheet/lint.js';
export { readSld, type ReadStyle } from './sld/read.js';
export { writeSld, type WrittenStyle } from './sld/write.js';
export { rampWidth } from './sheet/ramp.js';
export { classBreaks } from './sheet/classify.js';
export { classesKey, withFoundClasses } from './sheet/resolve.js';
export type { ClassesWanted } from './sheet/value-kinds.js';
export { findColour, type Rgba } from './sheet/colour.js';
export { selfContained } from './sheet/self-contained.js';
export { findScheme, schemeNames } from './sheet/schemes.js';
export { compileTree, type CompiledExpression, type Scope } from './cql2/compile.js';
export { parseCql2 } from './cql2/parse.js';
export { compileCql2 } from './cql2/read.js';
export { readCql2Json, type Expression } from './cql2/tree.js';
export { writeCql2 } from './cql2/write.js';
export { withGeometryAnswers } from './cql2/geometry-answers.js';
export { shapeOf, shapeOfGeometry } from './features/shape.js';
export { relate } from './geometry/relate.js';
export type { Shape, Position } from './geometry/shape.js';
export { areaOf, geodesicLength, lengthOf } from './crs/measure.js';
export { formatValue } from './cql2/functions.js';
export { gap, MeshBuilder, type MeshRange, type TileMesh } from './mesh/tile-mesh.js';
export {
  buffersOfPrepared,
  placementOf,
  prepareTile,
  type TileProjector,
  type PreparedLayer,
  type PreparedTile,
} from './layout/prepare-tile.js';
export { CollisionGrid } from './layout/collision-grid.js';
export type { LabelAnchors } from './layout/label-anchors.js';
export {
  ClusterIndex,
  categoryNumber,
  type ClusterData,
  type ClusterNode,
  type ClusterOptions,
} from './features/clusters.js';
export { editBlock, type BlockEdit, type EditedBlock } from './features/edit.js';
export { featureKeys, numbered, rowName } from './features/keys.js';
export { joinTable, type JoinReport } from './features/join.js';
export { blockOfTable, hasPlaces, pointsOfTable, readTable, type Table } from './formats/table/read.js';
export { featureNear } from './features/pick.js';
export { distanceField } from './layout/distance-field.js';
export { layAlong, placesAlong, type PathPiece } from './layout/path-text.js';
export { ellipsoid, ellipsoids, type Ellipsoid } from './crs/ellipsoid.js';
export { geodesicOn, type Geodesic, type GeodesicLine } from './crs/geodesic.js';
export {
  makeCrs,
  transformer,
  type AxisDirection,
  type Crs,
  type CrsDefinition,
  type ProjectionParameters,
} from './crs/crs.js';
export type { Helmert } from './crs/datum.js';
export { methods, type MethodName } from './crs/methods/index.js';
export { addCrs, crsCodes, findCrs, getCrs } from './crs/registry.js';
export { readCrs } from './crs/wkt.js';
export {
  findTileMatrixSet,
  gridOfMatrixSet,
  readTileMatrixSet,
  type MatrixGrid,
  type TileMatrix,
  type TileMatrixSet,
} from './grid/matrix-set.js';
export { readOgcTiles, readWmts, type ServiceEntry, type WmtsChoice } from './formats/services.js';
