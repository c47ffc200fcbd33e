import type { Method } from '../projection.js';
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
}

/** All projection methods by name. */
export const methods = {
  'pseudo-mercator': {
    make: pseudoMercator,
    codes: [1024],
    names: ['popularvisualisationpseudomercator', 'mercatorauxiliarysphere'],
  },
  mercator: {
    make: mercator,
    codes: [9804, 9805],
    names: ['mercator', 'mercator1sp', 'mercator2sp', 'mercatorvarianta', 'mercatorvariantb'],
  },
  'transverse-mercator': {
    make: transverseMercator,
    codes: [9807],
    names: ['transversemercator', 'gausskruger', 'transversemercatorkruger', 'transversemercatorcomplex'],
  },
  'transverse-mercator-south': {
    make: transverseMercator,
    codes: [9808],
    names: ['transversemercatorsouthorientated', 'transversemercatorsouthoriented'],
    southWest: true,
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
  },
  albers: { make: albers, codes: [9822], names: ['albersequalarea', 'albersconicequalarea', 'albers'] },
  'lambert-azimuthal': {
    make: lambertAzimuthal,
    codes: [9820, 1027],
    names: ['lambertazimuthalequalarea', 'lambertazimuthalequalareaspherical'],
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
  },
  'oblique-stereographic': {
    make: obliqueStereographic,
    codes: [9809],
    names: ['obliquestereographic', 'doublestereographic'],
  },
  stereographic: { make: stereographic, names: ['stereographic'] },
  'azimuthal-equidistant': {
    make: azimuthalEquidistant,
    codes: [1125, 9832],
    names: ['azimuthalequidistant', 'modifiedazimuthalequidistant'],
  },
  gnomonic: { make: gnomonic, names: ['gnomonic'] },
  orthographic: { make: orthographic, codes: [9840], names: ['orthographic'] },
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
  },
  cassini: { make: cassini, codes: [9806], names: ['cassinisoldner', 'cassini'] },
  bonne: { make: bonne, codes: [9827], names: ['bonne'] },
  polyconic: { make: polyconic, codes: [9818], names: ['americanpolyconic', 'polyconic'] },
  'cylindrical-equal-area': {
    make: cylindricalEqualArea,
    codes: [9835, 9834],
    names: ['lambertcylindricalequalarea', 'cylindricalequalarea', 'lambertcylindricalequalareaellipsoidalcase'],
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
  },
  krovak: { make: krovak, codes: [1041, 9819], names: ['krovak', 'krovaknorthorientated'] },
} satisfies Record<string, MethodEntry>;

export type MethodName = keyof typeof methods;
