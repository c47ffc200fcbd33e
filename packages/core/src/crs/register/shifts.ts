import type { CrsDefinition } from '../crs.js';
import type { Helmert } from '../datum.js';
import { datumShift } from '../registry.js';

/** Geographic systems of the small registry whose shifts are known, by the plain names of their datums. */
const ofRegistry: Readonly<Record<string, number>> = {
  osgb1936: 4277,
  ordnancesurveyofgreatbritain1936: 4277,
  tm65: 4299,
  ireland1965: 4299,
  amersfoort: 4289,
  belge1972: 4313,
  reseaunationalbelge1972: 4313,
  ch1903: 4149,
  ch1903plus: 4150,
  mgi: 4312,
  militargeographischeinstitut: 4312,
  militargeographischesinstitut: 4312,
  deutscheshauptdreiecksnetz: 4314,
  sjtsk: 4156,
  systemoftheunifiedtrigonometricalcadastralnetwork: 4156,
  israel: 4141,
  hongkong1980: 4611,
};

/** Mean shifts x, y, z in meters of further datums to WGS 84 (TR8350.2, third edition, appendix B); good to some 5 to 25 meters. */
const meanShifts: Readonly<Record<string, readonly [number, number, number]>> = {
  adindan: [-166, -15, 204],
  arc1950: [-143, -90, -294],
  arc1960: [-160, -6, -302],
  australian1966: [-133, -48, 148],
  australiangeodeticdatum1966: [-133, -48, 148],
  australian1984: [-134, -48, 149],
  australiangeodeticdatum1984: [-134, -48, 149],
  bogota: [307, 304, -318],
  campoinchauspe: [-148, 136, 90],
  cape: [-136, -108, -292],
  carthage: [-263, 6, 431],
  corregoalegre: [-206, 172, -6],
  egypt1907: [-130, 110, -13],
  european1950: [-87, -98, -121],
  europeandatum1950: [-87, -98, -121],
  hjorsey1955: [-73, 46, -86],
  hutzushan: [-637, -549, -203],
  kertau: [-11, 851, 5],
  luzon1911: [-133, -77, -51],
  merchich: [31, 146, 47],
  minna: [-92, -93, 122],
  newzealand1949: [84, -22, 209],
  northamerican1927: [-8, 160, 176],
  northamericandatum1927: [-8, 160, 176],
  ntf: [-168, -60, 320],
  nouvelletriangulationfrancaise: [-168, -60, 320],
  oldhawaiian: [61, -285, -181],
  provisionalsamerican1956: [-288, 175, -376],
  pulkovo1942: [28, -130, -95],
  schwarzeck: [616, 97, -251],
  southamerican1969: [-57, 1, -41],
  timbalai1948: [-679, 669, -48],
  tokyo: [-148, 507, 685],
};

/** Names that stand for no datum in particular. */
const nameless = /^$|unknown|unspecified|notspecified|sphere|authalic/;

/**
 * A system with what its datum's name says: what tells the datum apart, and its shift to WGS 84 where the text has none.
 *
 * @param definition the system
 * @param wkt its well-known text
 * @param ours whether the small registry's shift goes before that of the text, so that all systems on a datum agree; default false
 */
export function withKnownDatum(definition: CrsDefinition, wkt: string, ours = false): CrsDefinition {
  const name = /DATUM\s*[[(]\s*"([^"]*)"/i.exec(wkt)?.[1] ?? '';
  const plain = name
    .toLowerCase()
    .replace(/\+/g, 'plus')
    .normalize('NFD')
    .replace(/^d_/, '')
    .replace(/[^a-z0-9]/g, '');
  const code = ofRegistry[plain];
  const mean = Object.hasOwn(meanShifts, plain) ? meanShifts[plain] : undefined;
  const isKnown = code !== undefined && Object.hasOwn(ofRegistry, plain);
  const datum = isKnown ? `EPSG:${code}` : plain;
  const known = { ...definition, ...(nameless.test(plain) ? {} : { datum }) };
  if (definition.toWgs84 && !(ours && isKnown)) return known;
  const shift: Helmert | undefined = isKnown ? datumShift(code) : mean && [...mean, 0, 0, 0, 0];
  return shift ? { ...known, toWgs84: shift } : known;
}
