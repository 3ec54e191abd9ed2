package project

import (
	"fmt"
	"sort"
	"strings"

	"readyrail/internal/core/formula"
	"readyrail/internal/core/screen"
	"readyrail/internal/core/tag"
)

// SheetRow is one text of the project with its wording in a language, both as
// people read them.
type SheetRow struct {
	Text   string `json:"text"`
	Word   string `json:"word"`
	Places int    `json:"places" doc:"how often the text is used"`
	Where  string `json:"where" doc:"the first of its places"`
	Stale  bool   `json:"stale" doc:"nothing uses the text any more"`
}

// Sheet lists every text that people read at the Desk, with its wording in a
// language.
func (p *Project) Sheet(language string) []SheetRow {
	rows := map[string]*SheetRow{}
	add := func(stored, where string) {
		text := formula.ShowTemplate(stored, p.wordPath)
		if strings.TrimSpace(words(stored)) == "" {
			return
		}
		r := rows[text]
		if r == nil {
			r = &SheetRow{Text: text, Where: where}
			if w := p.Words[language]; w != nil {
				r.Word = formula.ShowTemplate(w.Words[p.bareWords(stored)], p.wordPath)
			}
			rows[text] = r
		}
		r.Places++
	}
	for _, id := range SortedKeys(p.Screens) {
		s := p.Screens[id]
		add(s.Name, s.Name)
		add(s.Title, s.Name)
		for _, entry := range s.Entries {
			add(entry.Name, s.Name)
		}
		for _, param := range s.Params {
			add(param.Title, s.Name)
		}
		for _, eid := range s.Sorted() {
			e := s.Elements[eid]
			where := s.Name + " › " + e.Label()
			k, ok := screen.KindOf(e.Kind)
			if !ok {
				continue
			}
			for _, prop := range k.Props {
				if prop.Type == screen.TypeTemplate && e.Bind[prop.Name] == "" {
					add(e.Text(prop.Name), where)
				}
			}
			for _, t := range e.Tabs {
				add(t.Title, where)
			}
		}
	}
	for _, a := range p.Site.Areas {
		add(a.Name, a.Name)
	}
	for _, id := range SortedKeys(p.Devices) {
		d := p.Devices[id]
		for _, c := range d.Conditions {
			add(c.Name, d.Name)
			for _, code := range c.Codes {
				add(code.Text, d.Name+" › "+c.Name)
			}
		}
	}
	for _, id := range p.SortedAlarms() {
		a := p.Alarms[id]
		for _, text := range []string{a.Name, a.Message, a.Guidance.Cause, a.Guidance.Consequence, a.Guidance.Action} {
			add(text, p.AlarmName(a))
		}
	}
	for _, id := range p.SortedTags() {
		for _, st := range p.Tags[id].States {
			add(st.Text, p.paths.of[id])
			if w := st.Texts[language]; w != "" && rows[st.Text] != nil && rows[st.Text].Word == "" {
				rows[st.Text].Word = w
			}
		}
	}
	if w := p.Words[language]; w != nil {
		for from, to := range w.Words {
			text := formula.ShowTemplate(from, p.wordPath)
			if rows[text] == nil {
				rows[text] = &SheetRow{Text: text, Word: formula.ShowTemplate(to, p.wordPath), Stale: true}
			}
		}
	}
	out := make([]SheetRow, 0, len(rows))
	for _, r := range rows {
		out = append(out, *r)
	}
	sort.Slice(out, func(i, j int) bool { return tag.Less(out[i].Text, out[j].Text) })
	return out
}

// words is what is left of a template without its placeholders, as far as it
// has letters.
func words(stored string) string {
	parts, err := formula.ParseTemplate(stored)
	if err != nil {
		return stored
	}
	var b strings.Builder
	for _, part := range parts {
		b.WriteString(strings.Map(func(r rune) rune {
			if r < 'A' {
				return -1
			}
			return r
		}, part.Text))
	}
	return b.String()
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
				return nil, fmt.Errorf("line %d: %q has the placeholders %s, its wording %q has %s", i+1, r.Text, a, r.Word, b)
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
