import type en from '../en/site'

const site: typeof en = {
  site: {
    journal: 'Journal',
    journalWhy: 'Was neben den Alarmen aufbewahrt wird.',
    kept: 'aufbewahrt',
    leftOut: 'weggelassen',
    line: 'Was für das ganze Projekt gilt',
    edit: 'Anlage ändern',
    name: 'Projekt',
    panel: 'Panelgröße, Pixel',
    screens: 'Bilder haben {w} × {h}: das Panel ohne Meldezeile und Navigation.',
    areas: 'Bereiche',
    areasWhy: 'Teile der Anlage. Rechte gelten je Bereich.',
    within: 'Liegt in',
    plant: 'die ganze Anlage',
    newArea: 'Bereich',
    addArea: 'Bereich hinzufügen',
  },
  words: {
    title: 'Wortlaute',
    why: 'Jeder Text der Bilder in einer anderen Sprache. Platzhalter in Klammern bleiben, wie sie sind.',
    text: 'Text',
    language: 'Sprache',
    places: 'Stellen',
    stale: 'nicht mehr verwendet',
    csv: 'CSV für Übersetzer',
    xlsx: 'XLSX',
    bring: 'Blatt holen',
    done: '{n} Zeile geholt | {n} Zeilen geholt',
    missing: '{n} ohne Wortlaut',
    languages: 'Sprachen des Projekts',
    addLanguage: 'Sprache',
    first: 'erste',
  },
}
export default site
