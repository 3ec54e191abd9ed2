package project

import (
	"encoding/json"
	"fmt"
	"regexp"
	"strings"

	"readyrail/internal/core/alarm"
	"readyrail/internal/core/formula"
	"readyrail/internal/core/screen"
	"readyrail/internal/core/tag"
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
			stored[p.bareWords(a)] = b
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
	if id != formula.Unresolved {
		return id, ok
	}
	if own, is := alarm.Names[strings.ToLower(path)]; is {
		return own, true
	}
	first, _, _ := strings.Cut(path, ".")
	if p.hasParam(first) {
		return ofScreen + path, true
	}
	return id, ok
}

// ofScreen begins what stands in wordings for a parameter of a screen and what
// lies in it: its path, so that one wording serves every screen that has a
// parameter of that name.
const ofScreen = "$:"

// paramScreen finds the screen of a parameter by its id.
func (p *Project) paramScreen(id string) *screen.Screen {
	for _, s := range p.Screens {
		if len(s.Params) == 0 {
			continue
		}
		if _, ok := s.Param(id); ok {
			return s
		}
	}
	return nil
}

func (p *Project) hasParam(name string) bool {
	for _, s := range p.Screens {
		for _, param := range s.Params {
			if strings.EqualFold(param.Name, name) {
				return true
			}
		}
	}
	return false
}

// paramPath is how people write a reference to a parameter.
func (p *Project) paramPath(id string) (string, bool) {
	if path, ok := strings.CutPrefix(id, ofScreen); ok {
		return path, true
	}
	if !strings.HasPrefix(id, "$") {
		return "", false
	}
	param, _, _ := strings.Cut(id[1:], ".")
	path, _, _, ok := p.paramScreen(param).ResolveParam(id, p.Type)
	return path, ok
}

// bareWords is bare for a text that may name parameters of its screen.
func (p *Project) bareWords(stored string) string {
	if !strings.Contains(stored, "{") {
		return stored
	}
	return formula.SubstituteTemplate(stored, func(id, _ string) (string, bool) {
		// What nothing answers to yet has nothing but its name.
		if id == formula.Unresolved {
			return "", false
		}
		if path, ok := p.paramPath(id); ok {
			id = ofScreen + path
		}
		return formula.Reference(id, ""), true
	})
}

func (p *Project) wordPath(id string) (string, bool) {
	for name, own := range alarm.Names {
		if own == id {
			return name, true
		}
	}
	if path, ok := p.paramPath(id); ok {
		return path, true
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

// StateWord is the name of a tag's state in a language, empty where it has
// none.
func (p *Project) StateWord(language string, t *tag.Tag, state int64) string {
	for _, s := range t.States {
		if s.Value != state {
			continue
		}
		if text := s.Texts[language]; text != "" {
			return text
		}
		return p.Word(language, s.Text)
	}
	return ""
}

// Word returns a stored text in a language; the text itself where it has no
// wording.
func (p *Project) Word(language, text string) string {
	w := p.Words[language]
	if w == nil {
		return text
	}
	to := w.Words[p.bareWords(text)]
	if to == "" {
		return text
	}
	if !strings.Contains(to, ofScreen) {
		return to
	}
	// A parameter of the wording is the one of the text.
	own := map[string]string{}
	formula.SubstituteTemplate(text, func(id, _ string) (string, bool) {
		if path, ok := p.paramPath(id); ok {
			own[ofScreen+path] = id
		}
		return "", false
	})
	return formula.SubstituteTemplate(to, func(id, path string) (string, bool) {
		mine, ok := own[id]
		return formula.Reference(mine, path), ok
	})
}
