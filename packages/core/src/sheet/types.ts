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
  /** Icons by name, beside the built-in ones: SVG path data on a grid of 24 units, the text of an SVG document, or the address of an SVG or a picture; as an object they say besides whether they take the color of their symbol. */
  readonly icons?: Readonly<Record<string, string | SheetIcon>>;
  /** Where features come from. */
  readonly data?: Readonly<Record<string, SheetData>>;
  /** Where the view starts, and on what surface. */
  readonly view?: SheetView;
  /** Views to come back to, by name. */
  readonly bookmarks?: Readonly<Record<string, Omit<SheetView, 'surface' | 'limits'>>>;
  /** Color where nothing else is drawn; only zoom may decide it. */
  readonly background?: SheetValue<string>;
  /** Drawn in this order, the last on top. */
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
  /** Address of a tile archive, of a TileJSON document, or with {z}/{x}/{y}. */
  readonly tiles: string;
  /** Tile matrix set of the tiles; default WebMercatorQuad. */
  readonly grid?: string | object;
  /** Whether rows of tiles are counted from the north (down, the default) or from the south, as in the Tile Map Service. */
  readonly rows?: 'down' | 'up';
  /** Attribute that tells features apart. */
  readonly id?: string;
  /** First and last level of the tiles, where the address does not say. */
  readonly zooms?: readonly [number, number];
  /** Shown on the map: a text, or `{ text, href }` with a link; HTML of a TileJSON document becomes text and links. */
  readonly credit?: string | SheetCredit | readonly SheetCredit[];
}

/** Features held in memory: GeoJSON, or a table with places. */
export interface SheetFeatures extends Without<
  'tiles' | 'images' | 'bounds' | 'corners' | 'wms' | 'pixels' | 'grid' | 'rows'
> {
  /** Address of features in any format that is read (GeoJSON, CSV, KML, GPX, shapefile, GeoPackage and others), a `File`, GeoJSON itself, or features in arrays. */
  readonly features: string | object;
  /** Coordinate system of features, or of the bounds or corners of a picture: an authority code such as EPSG:32625, or well-known text or PROJJSON; default what the features say themselves, else longitude and latitude. */
  readonly crs?: string;
  /** The line between two vertices of features: a straight line in longitude and latitude (the default, RFC 7946), or the shortest way over the sphere. */
  readonly edges?: 'straight' | 'great-circle';
  /** Column of a table that holds the longitude or easting; default the one whose name says so. */
  readonly x?: string;
  /** Column of a table that holds the latitude or northing; default the one whose name says so. */
  readonly y?: string;
  /** A table joined to the features. */
  readonly join?: SheetJoin;
  /** Points that come together where it gets crowded; for layers with a mark. */
  readonly cluster?: SheetCluster;
  /** Seconds after which features at an address are fetched again; never by default. */
  readonly refresh?: number;
  /** Attribute that tells features apart. */
  readonly id?: string;
  /** First and last level of the tiles, where the address does not say. */
  readonly zooms?: readonly [number, number];
  /** Shown on the map: a text, or `{ text, href }` with a link; HTML of a TileJSON document becomes text and links. */
  readonly credit?: string | SheetCredit | readonly SheetCredit[];
}

/** Tiles of pictures. */
export interface SheetImages extends Without<
  'tiles' | 'features' | 'join' | 'cluster' | 'refresh' | 'edges' | 'id' | 'x' | 'y'
> {
  /** Address of picture tiles, with {z}/{x}/{y}; with `bounds` or `corners`, of one picture; with `wms`, of a Web Map Service. */
  readonly images: string;
  /** Pixels across a picture tile; default 256. */
  readonly pixels?: 256 | 512;
  /** Tile matrix set of the tiles; default WebMercatorQuad. */
  readonly grid?: string | object;
  /** Whether rows of tiles are counted from the north (down, the default) or from the south, as in the Tile Map Service. */
  readonly rows?: 'down' | 'up';
  /** First and last level of the tiles, where the address does not say. */
  readonly zooms?: readonly [number, number];
  /** [west, south, east, north] of one picture that lies over a place, in degrees or the units of `crs`. */
  readonly bounds?: readonly [number, number, number, number];
  /** Upper left, upper right, lower right and lower left corner of one picture, each [longitude, latitude] or x, y in the units of `crs`. */
  readonly corners?: readonly (readonly [number, number])[];
  /** Layers of a Web Map Service (OGC 06-042, version 1.3.0), asked for tile by tile. */
  readonly wms?: SheetWms;
  /** Coordinate system of features, or of the bounds or corners of a picture: an authority code such as EPSG:32625, or well-known text or PROJJSON; default what the features say themselves, else longitude and latitude. */
  readonly crs?: string;
  /** Shown on the map: a text, or `{ text, href }` with a link; HTML of a TileJSON document becomes text and links. */
  readonly credit?: string | SheetCredit | readonly SheetCredit[];
}

/** Where features or pictures come from: one of three forms. */
export type SheetData = SheetTiles | SheetFeatures | SheetImages;

/** Layers of a Web Map Service. */
export interface SheetWms {
  /** Names of the service's layers, the last on top. */
  readonly layers: readonly string[];
  /** Names of their styles; default those of the service. */
  readonly styles?: readonly string[];
  /** Coordinate system to ask in; default EPSG:3857. Pictures in any other are laid onto the map's. */
  readonly crs?: string;
  /** Media type of the pictures; default image/png. */
  readonly format?: string;
}

export interface SheetCluster {
  /** CSS pixels within which points come together; default 56. */
  readonly within?: number;
  /** Last zoom level at which they do; default 14. */
  readonly until?: number;
  /** Least number of points in a cluster; default 2. */
  readonly least?: number;
  /** Attribute whose categories divide the rim. */
  readonly share?: string;
  /** Numbers added up over the members: name to CQL2 expression. */
  readonly sum?: Readonly<Record<string, string>>;
  /** Least numbers of the members. */
  readonly min?: Readonly<Record<string, string>>;
  /** Greatest numbers of the members. */
  readonly max?: Readonly<Record<string, string>>;
}

export interface SheetJoin {
  /** Address of a table (CSV or JSON), or the rows themselves. */
  readonly table: string | readonly object[];
  /** Attribute of the features, and column of the table that holds the same keys. */
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
  /** Of the initial line, degrees clockwise from north. */
  readonly azimuth?: number;
}

export interface SheetView {
  /** [longitude, latitude] in degrees. */
  readonly center?: readonly [number, number];
  /** Level of WebMercatorQuad (OGC 17-083r4): the world is 256 · 2^zoom pixels wide. */
  readonly zoom?: number;
  /** Degrees clockwise from north. */
  readonly bearing?: number;
  /** Degrees from straight down. */
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
  /** First zoom level drawn, and the level from which it no longer is. */
  readonly zoom?: readonly [number, number];
  /** Takes what no earlier rule took. */
  readonly otherwise?: true;
  /** Name in the legend. */
  readonly title?: string;
}

export interface SheetLayer extends SheetSymbols {
  /** Unique name. */
  readonly id: string;
  /** Name for people. */
  readonly title?: string;
  /** `data`, or `data/layer` for a layer of tiles. */
  readonly of: string;
  /** CQL2 filter, as text or in the JSON encoding. */
  readonly where?: string | Expression;
  /** First zoom level drawn, and the level from which it no longer is. */
  readonly zoom?: readonly [number, number];
  /** Default true. */
  readonly visible?: boolean;
  /** Of the whole layer; 0 clear to 1 solid. */
  readonly opacity?: number;
  /** The first rule that holds draws. */
  readonly rules?: readonly SheetRule[];
  /** Partial redefinitions for features in a state: `hover`, `selected`, or any that the application sets. */
  readonly states?: Readonly<Record<string, PartialSymbols>>;
  /** How pictures are drawn. */
  readonly image?: SheetImage;
  /** Density of points. */
  readonly heat?: SheetHeat;
  /** Whether a press selects features, one at a time or several; default neither. */
  readonly select?: 'one' | 'several';
  /** Whether the legend shows the layer; default true where it has something to tell. */
  readonly legend?: boolean;
  /** Name of a network of lines: layers of one network that follow each other are drawn together, the last strokes of their lists above all strokes before them. */
  readonly network?: string;
  /** The popup of a feature, by a press or under the pointer. */
  readonly popup?: SheetPopup;
  /** How clusters of the layer look; default a hexagon with the count and a rim of shares. */
  readonly clusters?: SheetClusters;
}

/** How clusters of a layer look. */
export interface SheetClusters {
  /** The symbol; its values may go by `count`, by the names of sums, minima and maxima, and by `leading`, the category with the most members. */
  readonly mark: SheetMark;
  /** The text in the middle of the symbol, by the same attributes; default none. */
  readonly label?: SheetLabel;
}

/** One line of a popup: a value, and how it is written. */
export interface SheetPopupLine {
  /** CQL2 expression for the value. */
  readonly is: string;
  /** Written behind a number. */
  readonly unit?: string;
  /** Digits behind the decimal point. */
  readonly digits?: number;
  /** Writes the value as a date, in the language of the page. */
  readonly date?: 'short' | 'medium' | 'long' | 'full';
  /** CQL2 expression for the address that the value leads to: http, https, mailto or tel. */
  readonly href?: string;
}

/** A credit with a link. */
export interface SheetCredit {
  /** The words. */
  readonly text: string;
  /** Where they lead: http, https or mailto. */
  readonly href?: string;
}

/** The popup of a feature, by a press or under the pointer. */
export interface SheetPopup {
  /** CQL2 expression for the heading. */
  readonly title?: string;
  /** CQL2 expression for a line below the heading. */
  readonly text?: string;
  /** CQL2 expression for the address of a picture; none where it is null. */
  readonly image?: string;
  /** Label to CQL2 expression, or to one with a form: a unit, digits, a date, a link. */
  readonly lines?: Readonly<Record<string, string | SheetPopupLine>>;
  /** The act that opens it; default press. */
  readonly on?: 'press' | 'hover';
}
