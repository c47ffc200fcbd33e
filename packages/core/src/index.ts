// The public door of the core. Exports for the packages of this repository alone stand in `internal.ts`.
export { asFault, Fault, type FaultLike } from './base/fault.js';
export { gunzip, gzip } from './base/gzip.js';
export { isGzip } from './base/native-gzip.js';
export { innerPoint } from './geometry/inner-point.js';
export { relate } from './geometry/relate.js';
export { doubleArea, insideRings } from './geometry/rings.js';
export type { Position, Shape } from './geometry/shape.js';
export { type AxisDirection, type Crs, type CrsDefinition, makeCrs, transformer } from './crs/crs.js';
export type { Helmert } from './crs/datum.js';
export { ellipsoid, type Ellipsoid, ellipsoids } from './crs/ellipsoid.js';
export { type Geodesic, type GeodesicLine, geodesicOn } from './crs/geodesic.js';
export { areaOf, geodesicLength, lengthOf } from './crs/measure.js';
export { type MethodName, methods } from './crs/methods/index.js';
export type { ProjectionParameters } from './crs/projection.js';
export { addCrs, crsCodes, findCrs, getCrs } from './crs/registry.js';
export { readCrs } from './crs/wkt.js';
export { addressText, parseAddress, type TileAddress } from './grid/address.js';
export { findTileMatrixSet, readTileMatrixSet, type TileMatrix, type TileMatrixSet } from './grid/matrix-set.js';
export type { SquareGrid } from './grid/square.js';
export {
  assertSound,
  attributesOf,
  boundsOf,
  boundsOfAll,
  type Column,
  type FeatureBlock,
  findColumn,
  Kind,
  kindNames,
  type Space,
  type Value,
  valueAt,
  vertexRange,
} from './features/block.js';
export { BlockBuilder } from './features/builder.js';
export type { ClusterData, ClusterOptions } from './features/cluster-build.js';
export { ClusterIndex, type ClusterNode } from './features/clusters.js';
export { type BlockEdit, editBlock, type EditedBlock } from './features/edit.js';
export { type JoinReport, joinTable } from './features/join.js';
export { featureKeys } from './features/keys.js';
export { shapeOf, shapeOfGeometry } from './features/shape.js';
export { blockOfColumns, type AttributeColumn, type FeatureColumns } from './features/columns.js';
export { readGeoJson, readGeoJsonLines, type ReadGeoJsonOptions } from './formats/geojson/read.js';
export { type AxisOrder, crsOfGeoJson, transformGeoJson, type TransformOptions } from './formats/geojson/transform.js';
export { featureToGeoJson, type GeoJsonFeature, writeGeoJson } from './formats/geojson/write.js';
export { readTile, type ReadTileOptions, type Violation } from './formats/mvt/read.js';
export { writeTile } from './formats/mvt/write.js';
export { type ArchiveHeader, compressionNames, tileTypeNames } from './formats/pmtiles/header.js';
export { type AbortSignalLike, Archive, blobSource, bufferSource, type ByteSource } from './formats/pmtiles/read.js';
export { type ArchiveDetails, ArchiveWriter, type WrittenArchive } from './formats/pmtiles/write.js';
export {
  readOgcTiles,
  readWmts,
  type ServiceEntry,
  type ServiceImages,
  type ServiceTiles,
  type WmtsChoice,
} from './formats/services.js';
export { blockOfTable, hasPlaces, pointsOfTable, readTable, type Table } from './formats/table/read.js';
export type { CompiledExpression, Scope } from './cql2/compile.js';
export { formatValue } from './cql2/functions.js';
export { parseCql2 } from './cql2/parse.js';
export { compileCql2 } from './cql2/read.js';
export { type Expression, readCql2Json } from './cql2/tree.js';
export { writeCql2 } from './cql2/write.js';
export { classBreaks } from './sheet/classify.js';
export type { CompiledLayer, CompiledSheet, SheetNeed } from './sheet/compile.js';
export { type LegendEntry, type LegendItem, legendOf, type Swatch } from './sheet/legend.js';
export { lintSheet } from './sheet/lint.js';
export type { LayerChange, PartChange, StrokeChange, SymbolsChange } from './sheet/change.js';
export { findScheme, schemeNames } from './sheet/schemes.js';
export { builtInSprites } from './sheet/sprites.js';
export type {
  ClassMethod,
  ColourSpace,
  PartialSymbols,
  SheetSide,
  SheetClasses,
  SheetExtrusion,
  SheetFill,
  SheetHalo,
  SheetHatch,
  SheetHeat,
  SheetImage,
  SheetLabel,
  SheetMark,
  SheetPattern,
  SheetRamp,
  SheetScale,
  SheetStroke,
  SheetSymbols,
  SheetValue,
} from './sheet/symbol-types.js';
export type {
  Sheet,
  SheetCluster,
  SheetData,
  SheetJoin,
  SheetLayer,
  SheetRule,
  SheetClusters,
  SheetWms,
  SheetCredit,
  SheetPopup,
  SheetPopupLine,
  SheetSurface,
  SheetView,
} from './sheet/types.js';
export type { SheetIcon } from './sheet/icons.js';
export { checkSheet, inspectSheet, readSheet } from './sheet/read.js';
export { SheetFault } from './sheet/validate.js';
export { readSld, type ReadStyle } from './sld/read.js';
export { writeSld, type WrittenStyle } from './sld/write.js';
export { type Distortion, distortionAt } from './view/distortion.js';
export type { Padding } from './view/fit.js';
export type { Easing } from './view/motion.js';
export type { Surface, SurfaceExtent, SurfaceForm, SurfaceSpec } from './view/surface.js';
export { getSurface } from './view/surfaces.js';
export { type Place, readPlace, type View, type ViewChange, type ViewLimits } from './view/view.js';
export { boundsOfBlocks, type VectorLayer, vectorLayers } from './tiling/layer-info.js';
export { pyramid, type PyramidTile, TileCutter, type TilingOptions } from './tiling/pyramid.js';
