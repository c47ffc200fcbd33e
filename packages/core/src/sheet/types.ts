import type { Expression } from '../cql2/tree.js';
import type { SheetIcon } from './icons.js';
import type {
  PartialSymbols,
  SheetHeat,
  SheetImage,
  SheetLabel,
  SheetMark,
  SheetSymbols,
  SheetValue,
  Without,
} from './symbol-types.js';

/** The sheet, version 1: the types that go with `sheet.schema.json`, which states units and defaults. */
export interface Sheet {
  readonly $schema?: string;
  /** Version of this form. */
  readonly sheet: 1;
  /** Name of the map. */
  readonly title?: string;
  /** Named colors, used as `@name`. */
  readonly palette?: Readonly<Record<string, string>>;
  /** Colors in place of those of the palette, by the same names, while the map's color scheme is dark. */
  readonly dark?: Readonly<Record<string, string>>;
  /** Icons by name, in addition to the built-in ones: SVG path data on a grid of 24 units, the text of an SVG document, or the URL of an SVG or a picture; an object also sets whether the icon is tinted. */
  readonly icons?: Readonly<Record<string, string | SheetIcon>>;
  /** Data entries by name: tiles, features or pictures. */
  readonly data?: Readonly<Record<string, SheetData>>;
  /** Initial view, and surface of the map. */
  readonly view?: SheetView;
  /** Named views. */
  readonly bookmarks?: Readonly<Record<string, Omit<SheetView, 'surface' | 'limits'>>>;
  /** Background color; may depend on the zoom only. */
  readonly background?: SheetValue<string>;
  /** Layers in drawing order, topmost last. */
  readonly layers: readonly SheetLayer[];
}

/** Tiles of vectors: an archive, a TileJSON document, or an address with places for numbers. */
export interface SheetTiles extends Without<
  | 'features'
  | 'images'
  | 'bounds'
  | 'corners'
  | 'wms'
  | 'pixels'
  | 'join'
  | 'cluster'
  | 'refresh'
  | 'crs'
  | 'edges'
  | 'x'
  | 'y'
> {
  /** URL of a tile archive or a TileJSON document, or a URL template with {z}/{x}/{y}. */
  readonly tiles: string;
  /** Tile matrix set of the tiles; default WebMercatorQuad. */
  readonly grid?: string | object;
  /** Whether rows of tiles are counted from the north (down, the default) or from the south, as in the Tile Map Service. */
  readonly rows?: 'down' | 'up';
  /** Attribute that identifies features. */
  readonly id?: string;
  /** First and last zoom level of the tiles, if the source does not contain them. */
  readonly zooms?: readonly [number, number];
  /** Attribution shown on the map: a text, or `{ text, href }` with a link; HTML of a TileJSON document is reduced to text and links. */
  readonly credit?: string | SheetCredit | readonly SheetCredit[];
}

/** Features held in memory: GeoJSON, or a table with places. */
export interface SheetFeatures extends Without<
  'tiles' | 'images' | 'bounds' | 'corners' | 'wms' | 'pixels' | 'grid' | 'rows'
> {
  /** URL of features in any supported format (GeoJSON, CSV, KML, GPX, shapefile, GeoPackage and others), a `File`, GeoJSON, or features in arrays. */
  readonly features: string | object;
  /** Coordinate system of features, or of the bounds or corners of a picture: an authority code such as EPSG:32625, well-known text or PROJJSON; default the one that the data declare, otherwise longitude and latitude. */
  readonly crs?: string;
  /** Edges between vertices of features: straight in longitude and latitude (the default, RFC 7946), or along great circles. */
  readonly edges?: 'straight' | 'great-circle';
  /** Column of a table with the longitude or easting; default found by its name. */
  readonly x?: string;
  /** Column of a table with the latitude or northing; default found by its name. */
  readonly y?: string;
  /** A table joined to the features. */
  readonly join?: SheetJoin;
  /** Clustering of points; for layers with a mark. */
  readonly cluster?: SheetCluster;
  /** Interval in seconds at which features are fetched again; default never. */
  readonly refresh?: number;
  /** Attribute that identifies features. */
  readonly id?: string;
  /** First and last zoom level of the tiles, if the source does not contain them. */
  readonly zooms?: readonly [number, number];
  /** Attribution shown on the map: a text, or `{ text, href }` with a link; HTML of a TileJSON document is reduced to text and links. */
  readonly credit?: string | SheetCredit | readonly SheetCredit[];
}

/** Tiles of pictures. */
export interface SheetImages extends Without<
  'tiles' | 'features' | 'join' | 'cluster' | 'refresh' | 'edges' | 'id' | 'x' | 'y'
> {
  /** URL template of picture tiles with {z}/{x}/{y}; with `bounds` or `corners`, URL of one picture; with `wms`, URL of a Web Map Service. */
  readonly images: string;
  /** Size of a picture tile in pixels; default 256. */
  readonly pixels?: 256 | 512;
  /** Tile matrix set of the tiles; default WebMercatorQuad. */
  readonly grid?: string | object;
  /** Whether rows of tiles are counted from the north (down, the default) or from the south, as in the Tile Map Service. */
  readonly rows?: 'down' | 'up';
  /** First and last zoom level of the tiles, if the source does not contain them. */
  readonly zooms?: readonly [number, number];
  /** Bounds [west, south, east, north] of one picture, in degrees or the units of `crs`. */
  readonly bounds?: readonly [number, number, number, number];
  /** Upper left, upper right, lower right and lower left corner of one picture, each [longitude, latitude] or x, y in the units of `crs`. */
  readonly corners?: readonly (readonly [number, number])[];
  /** Layers of a Web Map Service (OGC 06-042, version 1.3.0), requested tile by tile. */
  readonly wms?: SheetWms;
  /** Coordinate system of features, or of the bounds or corners of a picture: an authority code such as EPSG:32625, well-known text or PROJJSON; default the one that the data declare, otherwise longitude and latitude. */
  readonly crs?: string;
  /** Attribution shown on the map: a text, or `{ text, href }` with a link; HTML of a TileJSON document is reduced to text and links. */
  readonly credit?: string | SheetCredit | readonly SheetCredit[];
}

/** Where features or pictures come from: one of three forms. */
export type SheetData = SheetTiles | SheetFeatures | SheetImages;

/** Layers of a Web Map Service. */
export interface SheetWms {
  /** Names of the service's layers, topmost last. */
  readonly layers: readonly string[];
  /** Names of their styles; default those of the service. */
  readonly styles?: readonly string[];
  /** Coordinate system of the requests; default EPSG:3857. Pictures in other systems are reprojected. */
  readonly crs?: string;
  /** Media type of the pictures; default image/png. */
  readonly format?: string;
}

export interface SheetCluster {
  /** Distance in CSS pixels within which points are clustered; default 56. */
  readonly within?: number;
  /** Last zoom level with clusters; default 14. */
  readonly until?: number;
  /** Minimum number of points in a cluster; default 2. */
  readonly least?: number;
  /** Attribute whose categories divide the rim. */
  readonly share?: string;
  /** Sums over the members: names and their CQL2 expressions. */
  readonly sum?: Readonly<Record<string, string>>;
  /** Minima over the members: names and their CQL2 expressions. */
  readonly min?: Readonly<Record<string, string>>;
  /** Maxima over the members: names and their CQL2 expressions. */
  readonly max?: Readonly<Record<string, string>>;
}

export interface SheetJoin {
  /** URL of a table (CSV or JSON), or its rows. */
  readonly table: string | readonly object[];
  /** Attribute of the features, and column of the table with the same keys. */
  readonly match: readonly [string, string];
}

/** A projection method of the library and its parameters, angles in degrees, on WGS 84. */
export interface SheetSurface {
  /** Name of the method, such as lambert-azimuthal. */
  readonly method: string;
  /** Latitude of origin or center, degrees. */
  readonly lat0?: number;
  /** Longitude of origin or center, degrees. */
  readonly lon0?: number;
  /** First standard parallel, degrees. */
  readonly lat1?: number;
  /** Second standard parallel, degrees. */
  readonly lat2?: number;
  /** Azimuth of the initial line, degrees clockwise from north. */
  readonly azimuth?: number;
}

export interface SheetView {
  /** [longitude, latitude] in degrees. */
  readonly center?: readonly [number, number];
  /** Level of WebMercatorQuad (OGC 17-083r4): the world is 256 · 2^zoom pixels wide. */
  readonly zoom?: number;
  /** Degrees clockwise from north. */
  readonly bearing?: number;
  /** Tilt in degrees from straight down. */
  readonly tilt?: number;
  /** The surface of the map; default EPSG:3857. */
  readonly surface?: string | SheetSurface;
  /** Limits of the view. */
  readonly limits?: {
    readonly zoom?: readonly [number, number];
    readonly bounds?: readonly [number, number, number, number];
  };
}

export interface SheetRule extends PartialSymbols {
  /** CQL2 filter, as text or in the JSON encoding. */
  readonly where?: string | Expression;
  /** Zoom range: first zoom level, and the first level at which it is no longer drawn. */
  readonly zoom?: readonly [number, number];
  /** Applies to features that match no earlier rule. */
  readonly otherwise?: true;
  /** Title in the legend. */
  readonly title?: string;
}

export interface SheetLayer extends SheetSymbols {
  /** Unique name. */
  readonly id: string;
  /** Title, for the legend and lists of layers. */
  readonly title?: string;
  /** `data`, or `data/layer` for a layer of tiles. */
  readonly of: string;
  /** CQL2 filter, as text or in the JSON encoding. */
  readonly where?: string | Expression;
  /** Zoom range: first zoom level, and the first level at which it is no longer drawn. */
  readonly zoom?: readonly [number, number];
  /** Default true. */
  readonly visible?: boolean;
  /** Opacity of the whole layer: 0 transparent to 1 opaque. */
  readonly opacity?: number;
  /** Rules; the first that matches a feature draws it. */
  readonly rules?: readonly SheetRule[];
  /** Partial redefinitions for features in a state: `hover`, `selected`, or any that the application sets. */
  readonly states?: Readonly<Record<string, PartialSymbols>>;
  /** How pictures are drawn. */
  readonly image?: SheetImage;
  /** Density of points. */
  readonly heat?: SheetHeat;
  /** Whether a press selects features, one at a time or several; default neither. */
  readonly select?: 'one' | 'several';
  /** Whether the legend shows the layer; default true if the layer or one of its rules has a title. */
  readonly legend?: boolean;
  /** Name of a network of lines: consecutive layers of one network are drawn together, the last strokes of their lists above all earlier strokes. */
  readonly network?: string;
  /** Popup of a feature, opened by a press or by hovering. */
  readonly popup?: SheetPopup;
  /** Appearance of clusters; default a hexagon with the count and a rim that shows shares. */
  readonly clusters?: SheetClusters;
}

/** How clusters of a layer look. */
export interface SheetClusters {
  /** The symbol; its values can use `count`, the names of sums, minima and maxima, and `leading`, the category with the most members. */
  readonly mark: SheetMark;
  /** Text in the middle of the symbol, from the same attributes; default none. */
  readonly label?: SheetLabel;
}

/** One line of a popup: a value, and how it is written. */
export interface SheetPopupLine {
  /** CQL2 expression for the value. */
  readonly is: string;
  /** Unit that follows a number. */
  readonly unit?: string;
  /** Number of decimals. */
  readonly digits?: number;
  /** Formats the value as a date, in the language of the page. */
  readonly date?: 'short' | 'medium' | 'long' | 'full';
  /** CQL2 expression for the URL that the value links to: http, https, mailto or tel. */
  readonly href?: string;
}

/** A credit with a link. */
export interface SheetCredit {
  /** The text. */
  readonly text: string;
  /** Its target: http, https or mailto. */
  readonly href?: string;
}

/** The popup of a feature, by a press or under the pointer. */
export interface SheetPopup {
  /** CQL2 expression for the heading. */
  readonly title?: string;
  /** CQL2 expression for a line below the heading. */
  readonly text?: string;
  /** CQL2 expression for the URL of a picture; none if it is null. */
  readonly image?: string;
  /** Labels and their CQL2 expressions, each optionally with a unit, decimals, a date format or a link. */
  readonly lines?: Readonly<Record<string, string | SheetPopupLine>>;
  /** Event that opens it; default press. */
  readonly on?: 'press' | 'hover';
}
