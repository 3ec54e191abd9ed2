package project

import (
	"sort"
	"strings"

	"readyrail/internal/core/formula"
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
	add := func(stored, where string, own ...map[string]string) {
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
		for _, texts := range own {
			if r.Word == "" {
				r.Word = texts[language]
			}
		}
		r.Places++
	}
	for _, k := range kinds {
		k.saysTexts(p, add)
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
