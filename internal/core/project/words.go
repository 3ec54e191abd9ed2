package project

import (
	"strings"

	"readyrail/internal/core/alarm"
	"readyrail/internal/core/formula"
	"readyrail/internal/core/screen"
	"readyrail/internal/core/tag"
)

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

// EveryWord lists the wordings that a stored text has.
func (p *Project) EveryWord(text string) []string {
	var out []string
	for _, language := range SortedKeys(p.Words) {
		out = append(out, p.Word(language, text))
	}
	return out
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
