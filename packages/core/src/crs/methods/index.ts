import type { Ellipsoid } from '../ellipsoid.js';
import type { Method, ProjectionParameters, Reach } from '../projection.js';
import {
  azimuthalEquidistant,
  gnomonic,
  lambertAzimuthal,
  obliqueStereographic,
  orthographic,
  polarStereographic,
  stereographic,
} from './azimuthal.js';
import { albers, bonne, lambertConformalConic, polyconic } from './conic.js';
import { cassini, cylindricalEqualArea, equirectangular } from './cylindrical.js';
import { mercator, pseudoMercator } from './mercator.js';
import { hotineA, hotineB, krovak } from './oblique.js';
import { transverseMercator } from './transverse-mercator.js';
import { eckert4, equalEarth, mollweide, naturalEarth, robinson, sinusoidal, winkelTripel } from './world.js';

export interface MethodEntry {
  readonly make: Method;
  /** Codes of the method in the EPSG dataset. */
  readonly codes?: readonly number[];
  /** Its names in well-known text, without capitals, spaces and signs. */
  readonly names: readonly string[];
  /** Whether positive x is west and positive y south in the system's own axes. */
  readonly southWest?: true;
  /** The part of the sphere that it shows well; default all of it. */
  readonly reach?: Reach | ((parameters: ProjectionParameters, ellipsoid: Ellipsoid) => Reach);
  /** Whether its meridians are parallel lines at equal distances, so that a map of the world repeats in x. */
  readonly repeats?: true;
}

const mercatorReach = { south: -85.06, north: 85.06 };

/** All projection methods by name. */
export const methods = {
  'pseudo-mercator': {
    make: pseudoMercator,
    codes: [1024],
    names: ['popularvisualisationpseudomercator', 'mercatorauxiliarysphere'],
    reach: mercatorReach,
    repeats: true,
  },
  mercator: {
    make: mercator,
    codes: [9804, 9805],
    names: ['mercator', 'mercator1sp', 'mercator2sp', 'mercatorvarianta', 'mercatorvariantb'],
    reach: mercatorReach,
    repeats: true,
  },
  'transverse-mercator': {
    make: transverseMercator,
    codes: [9807],
    names: ['transversemercator', 'gausskruger', 'transversemercatorkruger', 'transversemercatorcomplex'],
    reach: { half: 45 },
  },
  'transverse-mercator-south': {
    make: transverseMercator,
    codes: [9808],
    names: ['transversemercatorsouthorientated', 'transversemercatorsouthoriented'],
    southWest: true,
    reach: { half: 45 },
  },
  'lambert-conformal-conic': {
    make: lambertConformalConic,
    codes: [9801, 9802],
    names: [
      'lambertconformalconic',
      'lambertconicconformal1sp',
      'lambertconicconformal2sp',
      'lambertconformalconic1sp',
      'lambertconformalconic2sp',
    ],
    reach: ({ lat0 = 0, lat1, lat2 }) => ((lat1 ?? lat0) + (lat2 ?? lat1 ?? lat0) > 0 ? { south: -35 } : { north: 35 }),
  },
  albers: { make: albers, codes: [9822], names: ['albersequalarea', 'albersconicequalarea', 'albers'] },
  'lambert-azimuthal': {
    make: lambertAzimuthal,
    codes: [9820, 1027],
    names: ['lambertazimuthalequalarea', 'lambertazimuthalequalareaspherical'],
    reach: { circle: 176 },
  },
  'polar-stereographic': {
    make: polarStereographic,
    codes: [9810, 9829, 9830],
    names: [
      'polarstereographic',
      'polarstereographicvarianta',
      'polarstereographicvariantb',
      'polarstereographicvariantc',
      'stereographicnorthpole',
      'stereographicsouthpole',
    ],
    reach: ({ lat0 = 0, lat1 = lat0 }) => ({ circle: 110, lat: lat1 < 0 ? -90 : 90 }),
  },
  'oblique-stereographic': {
    make: obliqueStereographic,
    codes: [9809],
    names: ['obliquestereographic', 'doublestereographic'],
    // On the ellipsoid it tears the sphere open opposite its center.
    reach: (_, { e2 }) => ({ circle: e2 ? 40 : 110 }),
  },
  stereographic: { make: stereographic, names: ['stereographic'], reach: { circle: 110 } },
  'azimuthal-equidistant': {
    make: azimuthalEquidistant,
    codes: [1125, 9832],
    names: ['azimuthalequidistant', 'modifiedazimuthalequidistant'],
    reach: { circle: 176 },
  },
  gnomonic: { make: gnomonic, names: ['gnomonic'], reach: { circle: 68 } },
  orthographic: { make: orthographic, codes: [9840], names: ['orthographic'], reach: { circle: 89.99 } },
  equirectangular: {
    make: equirectangular,
    codes: [1028, 1029],
    names: [
      'equidistantcylindrical',
      'equidistantcylindricalellipsoidal',
      'equirectangular',
      'equidistantcylindricalspherical',
      'platecarree',
    ],
    repeats: true,
  },
  cassini: { make: cassini, codes: [9806], names: ['cassinisoldner', 'cassini'], reach: { half: 9.9 } },
  bonne: { make: bonne, codes: [9827], names: ['bonne'] },
  polyconic: { make: polyconic, codes: [9818], names: ['americanpolyconic', 'polyconic'], reach: { half: 89.9 } },
  'cylindrical-equal-area': {
    make: cylindricalEqualArea,
    codes: [9835, 9834],
    names: ['lambertcylindricalequalarea', 'cylindricalequalarea', 'lambertcylindricalequalareaellipsoidalcase'],
    repeats: true,
  },
  mollweide: { make: mollweide, names: ['mollweide'] },
  sinusoidal: { make: sinusoidal, names: ['sinusoidal'] },
  'eckert-4': { make: eckert4, names: ['eckertiv'] },
  robinson: { make: robinson, names: ['robinson'] },
  'natural-earth': { make: naturalEarth, names: ['naturalearth', 'naturalearth1'] },
  'equal-earth': { make: equalEarth, codes: [1078], names: ['equalearth'] },
  'winkel-tripel': { make: winkelTripel, names: ['winkeltripel'] },
  'hotine-a': {
    make: hotineA,
    codes: [9812],
    names: [
      'hotineobliquemercator',
      'hotineobliquemercatorvarianta',
      'hotineobliquemercatorazimuthnaturalorigin',
      'rectifiedskeworthomorphicnaturalorigin',
    ],
    reach: { half: 35, south: -75, north: 75 },
  },
  'hotine-b': {
    make: hotineB,
    codes: [9815],
    names: [
      'hotineobliquemercatorazimuthcenter',
      'hotineobliquemercatorvariantb',
      'obliquemercator',
      'swissobliquecylindrical',
      'swissobliquemercator',
      'rectifiedskeworthomorphiccenter',
    ],
    reach: { half: 35, south: -75, north: 75 },
  },
  krovak: {
    make: krovak,
    codes: [1041, 9819],
    names: ['krovak', 'krovaknorthorientated'],
    reach: { half: 25, south: 25, north: 75 },
  },
} satisfies Record<string, MethodEntry>;

export type MethodName = keyof typeof methods;

/** Returns what is known about a method. */
export const methodEntry = (name: MethodName): MethodEntry => methods[name];
