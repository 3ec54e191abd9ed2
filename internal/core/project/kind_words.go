package project

import (
	"regexp"
	"sort"
	"strings"

	"readyrail/internal/core/formula"
	"readyrail/internal/core/say"
)

// KindWords are the wordings of one language, whose id is the language's code.
const KindWords = "words"

// Words are the wordings of one language: by the text in the project's first
// language, the text in this one. Placeholders in both are in stored form.
type Words struct {
	ID    string            `json:"id"` // the language's code
	Words map[string]string `json:"words"`
}

var languageCode = regexp.MustCompile(`^[a-z]{2,3}(-[A-Za-z0-9]{2,8})?$`)

var wordsKind = &kindOf[Words]{
	ThingKind: ThingKind{Name: KindWords, Stop: StopSite},
	of:        func(p *Project) *map[string]*Words { return &p.Words },
	read:      readWords,
	show:      (*Project).ShownWords,
	name:      func(_ *Project, id string, _ *Words) string { return id },
	// What a wording names is what its text names, so that it is no use of its own.
	editRules: editRules{
		paths: func(Op) bool { return true },
	},
}

func readWords(p *Project, id string, w *Words, shown bool) (*Words, error) {
	w.ID = id
	if !languageCode.MatchString(id) {
		return nil, at("/id", say.Errorf("%q is no code of a language, such as de or pt-BR", id))
	}
	if !shown {
		return w, nil
	}
	stored := make(map[string]string, len(w.Words))
	for from, to := range w.Words {
		a, err := formula.StoreTemplate(from, p.resolveWord, nil)
		if err != nil {
			return nil, at("/words", say.Errorf("%q: %w", from, err))
		}
		b, err := formula.StoreTemplate(to, p.resolveWord, nil)
		if err != nil {
			return nil, at("/words", say.Errorf("%q: %w", to, err))
		}
		stored[p.bareWords(a)] = b
	}
	w.Words = stored
	return w, nil
}

// ShownWords returns wordings as people read them.
func (p *Project) ShownWords(w *Words) *Words {
	out := &Words{ID: w.ID, Words: make(map[string]string, len(w.Words))}
	for from, to := range w.Words {
		out.Words[formula.ShowTemplate(from, p.wordPath)] = formula.ShowTemplate(to, p.wordPath)
	}
	return out
}

// PlanWords is the edit that gives texts their wordings in a language. An
// empty wording takes one away. A wording whose placeholders are not those of
// its text is refused: a translator moves them and alters nothing in them.
func (p *Project) PlanWords(language string, rows []SheetRow) ([]Op, error) {
	now := &Words{ID: language, Words: map[string]string{}}
	if w := p.Words[language]; w != nil {
		for from, to := range p.ShownWords(w).Words {
			now.Words[from] = to
		}
	}
	for i, r := range rows {
		switch {
		case r.Text == "":
		case strings.TrimSpace(r.Word) == "":
			delete(now.Words, r.Text)
		default:
			if a, b := holes(r.Text), holes(r.Word); a != b {
				return nil, say.Errorf("line %d: %q has the placeholders %s, its wording %q has %s", i+1, r.Text, a, r.Word, b)
			}
			now.Words[r.Text] = r.Word
		}
	}
	return []Op{{Kind: KindWords, ID: language, Value: mustJSON(now)}}, nil
}

// holes lists the placeholders of a typed template, sorted.
func holes(text string) string {
	parts, err := formula.ParseTemplate(text)
	if err != nil {
		return err.Error()
	}
	var out []string
	for _, part := range parts {
		if part.Formula != "" {
			out = append(out, "{"+part.Formula+"}")
		}
	}
	if len(out) == 0 {
		return "none"
	}
	sort.Strings(out)
	return strings.Join(out, " ")
}
