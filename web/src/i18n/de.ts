type Texts = { [key: string]: string | Texts }

// A file a stop. Elements and their properties have their English names from the
// server's catalogue; its file has those that read otherwise, or in another language.
const files = import.meta.glob<Texts>(['./de/*.json', './catalogue/de.json'], {
  eager: true,
  import: 'default',
})
const texts: Texts = Object.assign({}, ...Object.values(files))
export default texts
