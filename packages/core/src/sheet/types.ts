import type { Expression } from '../cql2/tree.js';
import type { SheetIcon } from './icons.js';

/** The sheet, version 1: the types that go with `sheet.schema.json`, which states units and defaults. */
export interface Sheet {
  readonly $schema?: string;
  /** Version of this form. */
  readonly sheet: 1;
  /** Name of the map. */
  readonly title?: string;
  /** Named colours, used as `@name`. */
  readonly palette?: Readonly<Record<string, string>>;
  /** Colours in place of those of the palette, by the same names, while the map's colour scheme is dark. */
  readonly dark?: Readonly<Record<string, string>>;
  /** Icons by name, beside the built-in ones: SVG path data on a grid of 24 units, the text of an SVG document, or the address of an SVG or a picture; as an object they say besides whether they take the colour of their symbol. */
  readonly icons?: Readonly<Record<string, string | SheetIcon>>;
  /** Where features come from. */
  readonly data?: Readonly<Record<string, SheetData>>;
  /** Where the view starts, and on what surface. */
  readonly view?: SheetView;
  /** Views to come back to, by name. */
  readonly bookmarks?: Readonly<Record<string, Omit<SheetView, 'surface' | 'limits'>>>;
  /** Colour where nothing else is drawn; only zoom may decide it. */
  readonly background?: SheetValue<string>;
  /** Drawn in this order, the last on top. */
  readonly layers: readonly SheetLayer[];
}

/** Keys that a form of something does not have, so that the compiler tells the forms apart. */
type Without<Key extends string> = { readonly [K in Key]?: undefined };

/** Tiles of vectors: an archive, a TileJSON document, or an address with places for numbers. */
export interface SheetTiles extends Without<
  'features' | 'images' | 'bounds' | 'corners' | 'wms' | 'pixels' | 'join' | 'cluster' | 'refresh' | 'crs' | 'edges'
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
export interface SheetImages extends Without<'tiles' | 'features' | 'join' | 'cluster' | 'refresh' | 'edges' | 'id'> {
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
  /** CSS pixels within which points come together; default 44. */
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
  /** Latitude of origin or centre, degrees. */
  readonly lat0?: number;
  /** Longitude of origin or centre, degrees. */
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

/** Keys of every scale. */
export interface SheetScaleBase<T> {
  /** The value that decides: a CQL2 expression, or `zoom`. */
  readonly by: string;
  /** Value for what is missing or matches nothing. */
  readonly other?: T;
  /** Subject of the scale, for the legend. */
  readonly title?: string;
  /** Unit of the numbers, for the legend. */
  readonly unit?: string;
  /** Names of the categories in the legend. */
  readonly names?: Readonly<Record<string, string>>;
}

/** A value that runs with a number. */
export interface SheetRampScale<T> extends SheetScaleBase<T>, Without<'classes' | 'categories' | 'scheme'> {
  /** Stops `[number, value]` in rising order; values in between are mixed. */
  readonly ramp: readonly (readonly [number, T])[];
  /** Exponent of the mix between stops; default 1, straight. */
  readonly ease?: number;
  /** Colour space of the mix; default lab, which is perceptual. */
  readonly space?: ColourSpace;
}

/** A value for each class of a number. */
export interface SheetClassesScale<T>
  extends SheetScaleBase<T>, Without<'ramp' | 'categories' | 'scheme' | 'ease' | 'space'> {
  /** Classes of a number, their limits given or found in the data. */
  readonly classes: SheetClasses<T>;
}

/** A value for each category. */
export interface SheetCategoriesScale<T> extends SheetScaleBase<T>, Without<'ramp' | 'classes' | 'ease' | 'space'> {
  /** A value for each category; or a list of categories, coloured by `scheme`. */
  readonly categories: Readonly<Record<string, T>> | readonly string[];
  /** Colour scheme for a list of `categories`. */
  readonly scheme?: string;
}

/** A value that goes by something: one of three forms. */
export type SheetScale<T> = SheetRampScale<T> | SheetClassesScale<T> | SheetCategoriesScale<T>;

export interface SheetClasses<T> {
  /** Class limits in rising order; n limits make n + 1 classes. */
  readonly breaks?: readonly number[];
  /** How to find the limits in the data: classes of equal width, of equal number, or by natural breaks (Fisher 1958, Jenks 1977); only for features, not for tiles. */
  readonly method?: ClassMethod;
  /** Number of classes to find; default 5. */
  readonly count?: number;
  /** Name of a colour scheme. */
  readonly scheme?: string;
  /** One value a class. */
  readonly values?: readonly T[];
}

/** How class limits are found: of equal width, of equal number, or by natural breaks. */
export type ClassMethod = 'equal' | 'quantile' | 'natural';

export type ColourSpace = 'lab' | 'rgb' | 'hcl';

export type SheetValue<T> = T | SheetScale<T> | { readonly is: string };

export interface SheetFill {
  /** Default #888888. */
  readonly color?: SheetValue<string>;
  /** 0 clear to 1 solid; default 1. */
  readonly opacity?: SheetValue<number>;
  /** Lines over the fill. */
  readonly hatch?: SheetHatch;
  /** Icons repeated over the fill. */
  readonly pattern?: SheetPattern;
}

export interface SheetHatch {
  /** Default the fill's colour. */
  readonly color?: SheetValue<string>;
  /** Degrees clockwise from the horizontal; default 45. */
  readonly angle?: number;
  /** CSS pixels from line to line; default 8. */
  readonly gap?: number;
  /** CSS pixels; default 1.5. */
  readonly width?: number;
  /** Lines both ways; default false. */
  readonly cross?: boolean;
}

export interface SheetPattern {
  /** Name of an icon or shape. */
  readonly icon: SheetValue<string>;
  /** Default #444444. */
  readonly color?: SheetValue<string>;
  /** CSS pixels; default 12. */
  readonly size?: number;
  /** CSS pixels from one to the next; default 24. */
  readonly gap?: number;
  /** Every other row moved by half; default true. */
  readonly stagger?: boolean;
}

/** Colours over a stretch from 0 to 1. */
export type SheetRamp = readonly (readonly [number, string])[];

export interface SheetStroke {
  /** Tells the stroke apart in a list, for changes at run time. */
  readonly name?: string;
  /** Default #444444. */
  readonly color?: SheetValue<string>;
  /** Default 1. */
  readonly width?: SheetValue<number | string>;
  /** 0 clear to 1 solid; default 1. */
  readonly opacity?: SheetValue<number>;
  /** CSS pixels to the right of the line's direction; default 0. */
  readonly offset?: SheetValue<number>;
  /** Lengths of dashes and gaps by turns, in CSS pixels at whole zoom levels. */
  readonly dash?: readonly number[];
  /** Stroke-linecap; default round. */
  readonly cap?: 'butt' | 'round' | 'square';
  /** Stroke-linejoin; default round. */
  readonly join?: 'miter' | 'round' | 'bevel';
  /** Colours along the line; only for features, not for tiles. */
  readonly gradient?: { readonly ramp: SheetRamp; readonly space?: ColourSpace };
  /** Marks along the line in place of a plain stroke. */
  readonly marks?: { readonly icon: string; readonly gap?: number };
}

export interface SheetHalo {
  /** A constant, a scale (`by` with `ramp`, `classes` or `categories`) or an expression (`is`) */
  readonly color: SheetValue<string>;
  /** CSS pixels. */
  readonly width?: number;
}

export interface SheetMark {
  /** Circle, square, diamond, triangle, hexagon, cross or star; default circle. */
  readonly shape?: SheetValue<string>;
  /** Name of an icon; takes the place of the shape. */
  readonly icon?: SheetValue<string>;
  /** Height in CSS pixels; default 8. */
  readonly size?: SheetValue<number>;
  /** Default #444444. */
  readonly color?: SheetValue<string>;
  /** 0 clear to 1 solid; default 1. */
  readonly opacity?: SheetValue<number>;
  /** Rim around the symbol. */
  readonly outline?: SheetHalo;
  /** Degrees clockwise; default 0. */
  readonly rotation?: SheetValue<number>;
}

export interface SheetLabel {
  /** Its text. */
  readonly text: SheetValue<string>;
  /** CSS pixels; default 13. */
  readonly size?: SheetValue<number>;
  /** Default #22303a. */
  readonly color?: SheetValue<string>;
  /** 0 clear to 1 solid; default 1. */
  readonly opacity?: SheetValue<number>;
  /** Rim that parts the text from the ground. */
  readonly halo?: SheetHalo;
  /** CSS font family; default the system's sans-serif. */
  readonly font?: string;
  /** Default 500. */
  readonly weight?: number;
  /** Upright or slanted; default normal. */
  readonly style?: 'normal' | 'italic';
  /** Extra space between letters in em; default 0. */
  readonly spacing?: number;
  /** Capital letters. */
  readonly upper?: boolean;
  /** Right and down, in em of the label. */
  readonly offset?: readonly [number, number];
  /** Which side of the text stands at the place, or a list of them to be tried in turn; default center, and beside a mark of the layer its right, left, lower and upper side. */
  readonly anchor?: SheetAnchor | readonly SheetAnchor[];
  /** Of several lines; default by the anchor. */
  readonly align?: 'left' | 'center' | 'right';
  /** A symbol before the text, placed and left out with it. */
  readonly icon?: {
    readonly name: SheetValue<string>;
    readonly size?: number;
    readonly color?: SheetValue<string>;
    readonly gap?: number;
  };
  /** Longest line in em; default 9. */
  readonly wrap?: number;
  /** CSS pixels from one repetition of a label along a line to the next; default 400. */
  readonly repeat?: number;
  /** On lines: the text follows the line instead of standing level; default false. */
  readonly along?: boolean;
  /** Higher is placed first; default 0, and later layers before earlier ones. */
  readonly priority?: SheetValue<number>;
}

export type SheetAnchor =
  | 'center'
  | 'left'
  | 'right'
  | 'top'
  | 'bottom'
  | 'top-left'
  | 'top-right'
  | 'bottom-left'
  | 'bottom-right';

export interface SheetImage {
  /** 0 clear to 1 solid; default 1; only zoom may decide it. */
  readonly opacity?: SheetValue<number>;
  /** 0 grey, 1 as it is (default), 2 twice as strong. */
  readonly saturation?: number;
  /** 0 flat grey, 1 as it is (default), 2 twice as strong. */
  readonly contrast?: number;
  /** Colour laid over by the brightness of the picture. */
  readonly tint?: { readonly color: SheetValue<string>; readonly share?: number };
}

export interface SheetHeat {
  /** How much a point counts; default 1. */
  readonly weight?: SheetValue<number>;
  /** Reach of a point; default 24. */
  readonly radius?: SheetValue<number | string>;
  /** 0 clear to 1 solid; default 0.85; only zoom may decide it. */
  readonly opacity?: SheetValue<number>;
  /** Stops `[density, colour]`, 0 for nothing to 1 for the densest. */
  readonly ramp?: SheetRamp;
  /** Colour scheme in place of a ramp; default YlOrBr. */
  readonly scheme?: string;
  /** Sum of weights within the radius at which the ramp ends; by default the densest place in view. */
  readonly max?: number;
}

export interface SheetExtrusion {
  /** Default #b9b6aa. */
  readonly color?: SheetValue<string>;
  /** 0 clear to 1 solid; default 1; only zoom may decide it. */
  readonly opacity?: SheetValue<number>;
  /** Top above the ground, in metres. */
  readonly height: SheetValue<number>;
  /** Bottom above the ground, in metres; default 0. */
  readonly base?: SheetValue<number>;
}

export interface SheetSymbols {
  /** A colour, or an object. */
  readonly fill?: string | SheetFill;
  /** A colour, a stroke, or a list of strokes drawn one over the other. */
  readonly stroke?: string | SheetStroke | readonly SheetStroke[];
  /** A symbol at a point. */
  readonly mark?: SheetMark;
  /** Text at a point, inside a polygon or at the middle of a line. */
  readonly label?: SheetLabel;
  /** Polygons raised from the ground. */
  readonly extrusion?: SheetExtrusion;
}

/** Symbols of which a state or a rule says only what differs. */
export interface PartialSymbols extends Omit<SheetSymbols, 'label' | 'extrusion'> {
  readonly label?: Partial<SheetLabel>;
  readonly extrusion?: Partial<SheetExtrusion>;
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
