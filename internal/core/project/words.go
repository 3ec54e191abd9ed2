package project

import (
	"encoding/json"
	"fmt"
	"regexp"
	"strings"

	"readyrail/internal/core/alarm"
	"readyrail/internal/core/formula"
)

// Words are the wordings of one language: by the text in the project's first
// language, the text in this one. Placeholders in both are in stored form.
type Words struct {
	ID    string            `json:"id"` // the language's code
	Words map[string]string `json:"words"`
}

// Picture is a drawing or image that screens show.
type Picture struct {
	ID   string `json:"id"`
	Name string `json:"name"`
	Type string `json:"type"` // image/svg+xml, image/png or image/jpeg
	// Data is the SVG's text, cleaned, or the image in base 64.
	Data string `json:"data"`
	W    int    `json:"w"` // pixels
	H    int    `json:"h"`
	// Parts are the ids in an SVG that can be bound.
	Parts []string `json:"parts,omitempty"`
}

// MaxPicture bounds a picture, in bytes of its data.
const MaxPicture = 2 << 20

var languageCode = regexp.MustCompile(`^[a-z]{2,3}(-[A-Za-z0-9]{2,8})?$`)

// Check refuses what cannot be a picture.
func (x *Picture) Check() (place string, err error) {
	switch {
	case x.Name == "" || len(x.Name) > 120:
		return "/name", fmt.Errorf("a picture needs a name of at most 120 characters")
	case x.Type != "image/svg+xml" && x.Type != "image/png" && x.Type != "image/jpeg":
		return "/type", fmt.Errorf("a picture is SVG, PNG or JPEG, not %q", x.Type)
	case len(x.Data) == 0 || len(x.Data) > MaxPicture:
		return "/data", fmt.Errorf("a picture has at most %d bytes", MaxPicture)
	}
	return "", nil
}

func (p *Project) putWords(id string, doc json.RawMessage, shown bool) error {
	w := &Words{}
	if err := decode(doc, w); err != nil {
		return err
	}
	w.ID = id
	if !languageCode.MatchString(id) {
		return at("/id", fmt.Errorf("%q is no code of a language, such as de or pt-BR", id))
	}
	if shown {
		stored := make(map[string]string, len(w.Words))
		for from, to := range w.Words {
			a, err := formula.StoreTemplate(from, p.resolveWord, nil)
			if err != nil {
				return at("/words", fmt.Errorf("%q: %w", from, err))
			}
			b, err := formula.StoreTemplate(to, p.resolveWord, nil)
			if err != nil {
				return at("/words", fmt.Errorf("%q: %w", to, err))
			}
			stored[bare(a)] = b
		}
		w.Words = stored
	}
	p.Words[id] = w
	return nil
}

// ShownWords returns wordings as people read them.
func (p *Project) ShownWords(w *Words) *Words {
	out := &Words{ID: w.ID, Words: make(map[string]string, len(w.Words))}
	for from, to := range w.Words {
		out.Words[formula.ShowTemplate(from, p.wordPath)] = formula.ShowTemplate(to, p.wordPath)
	}
	return out
}

// resolveWord finds what a text names: a tag, or one of the names that messages
// of alarms have for their own.
func (p *Project) resolveWord(path string) (string, bool) {
	id, ok := p.resolve(path)
	if own, is := alarm.Names[strings.ToLower(path)]; is && id == formula.Unresolved {
		return own, true
	}
	return id, ok
}

func (p *Project) wordPath(id string) (string, bool) {
	for name, own := range alarm.Names {
		if own == id {
			return name, true
		}
	}
	return p.Path(id)
}

// bare is a stored template without remembered paths, so that the same text
// is found whatever its tags were called when it was typed.
func bare(stored string) string {
	if !strings.Contains(stored, "{") {
		return stored
	}
	return formula.SubstituteTemplate(stored, func(id, _ string) (string, bool) { return formula.Reference(id, ""), true })
}

// Word returns a stored text in a language; the text itself where it has no
// wording.
func (p *Project) Word(language, text string) string {
	if w := p.Words[language]; w != nil {
		if to := w.Words[bare(text)]; to != "" {
			return to
		}
	}
	return text
}
