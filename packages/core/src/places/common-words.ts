import { foldText } from './fold.js';

/**
 * Words that many names share and that alone identify nothing: types of streets, articles and adjectives such as `old` and `new`, in several
 * languages, folded.
 */
const shared = new Set(
  `street road lane yard row way drive avenue court place square close crescent rise hill terrace walk quay alley bridge gate green
  strasse str gasse weg platz allee ring ufer damm steig markt
  rue avenue chemin boulevard quai impasse allee calle avenida camino plaza paseo carrer rua travessa largo via viale piazza vicolo corso
  straat laan plein gracht dijk gade vej vei gate gata gatan vagen torg katu tie ulica ulice aleja namesti utca
  old new great little upper lower north south east west big small saint st
  alte alter altes neue neuer neues grosse kleine obere untere vieux vieille nouveau nouvelle grand grande petit petite
  viejo vieja nuevo nueva gran vecchio vecchia nuovo nuova oude nieuwe gamle nye stara nova
  the of and am an der die das den dem im in zu zur de la le les du des el los las di da do`
    .split(/\s+/)
    .map(foldText),
);

/** Words from which it follows that house numbers come after the name of the street, and that they come before it. */
const after =
  /(?:strasse|gasse|weg|platz|allee|ufer|damm|straat|laan|plein|gracht|dijk|gade|vej|vei|gata|gatan|vagen|torg|katu|tie)$|^(?:calle|avenida|camino|plaza|paseo|carrer|rua|travessa|largo|via|viale|piazza|vicolo|corso|ulica|aleja|utca)\b|\b(?:ulica|utca|namesti)$/;
const before =
  /\b(?:street|road|lane|yard|row|way|drive|avenue|court|close|crescent|rise|terrace|walk|alley)$|^(?:rue|chemin|boulevard|quai|impasse)\b/;

/** Whether a folded word is one that many names share, by itself or because many entries of a gazetteer have it. */
export const isCommon = (word: string, entries: number, all: number): boolean =>
  shared.has(word) || (entries > 50 && entries > all / 50);

/** Order of an address: `12 Rope Row`, or `Seilergasse 12`. */
export type AddressOrder = 'number-first' | 'number-last';

/**
 * The order that the names of streets suggest: that of the majority of those whose language shows; number first where none does.
 *
 * @param names of streets
 */
export function addressOrderOf(names: Iterable<string>): AddressOrder {
  let lead = 0;
  for (const name of names) {
    const folded = foldText(name).trim();
    if (after.test(folded)) lead++;
    else if (before.test(folded)) lead--;
  }
  return lead > 0 ? 'number-last' : 'number-first';
}
