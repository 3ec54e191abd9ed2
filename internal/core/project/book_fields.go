package project

import (
	"fmt"
	"strings"
	"unicode"

	"readyrail/internal/core/recipe"
	"readyrail/internal/core/tag"
	"readyrail/internal/core/value"
)

// FieldsOf makes fields of tags for a book: those that can be written and that no
// field of it goes to yet. In a book of a type those of one of its equipment
// become members, and others are left out. newID makes the fields' ids.
func (p *Project) FieldsOf(b *recipe.Book, ids []string, newID func() string) []recipe.Field {
	there, names := map[string]bool{}, map[string]bool{}
	for i := range b.Fields {
		there[b.Fields[i].Tag+b.Fields[i].Member] = true
		names[tag.Key(b.Fields[i].Name)] = true
	}
	out := []recipe.Field{}
	for _, id := range ids {
		t := p.Tags[p.Real(id)]
		if t == nil || !t.Writable() {
			continue
		}
		ref, rest, ok := p.refOf(b, t)
		if !ok || there[ref] {
			continue
		}
		there[ref] = true
		f := recipe.Field{ID: newID(), Type: t.EngineeringType(), Unit: t.Unit, Decimals: t.Decimals, Step: t.Step, States: t.States}
		if b.Type != "" {
			f.Member = ref
		} else {
			f.Tag = ref
		}
		f.Name = freeName(rest, names)
		segments := tag.Split(rest)
		f.Title = spacedName(segments[len(segments)-1])
		if n := len(segments); n > 1 {
			f.Group = spacedName(segments[n-2])
		}
		for limit, into := range map[*float64]*string{t.Low: &f.Low, t.High: &f.High} {
			if limit != nil {
				*into = value.Real(value.LREAL, *limit).Text()
			}
		}
		out = append(out, f)
	}
	return out
}

// refOf is a tag as a book refers to it, its id or the chain of a member of its
// type, and its path from there; ok is false where the book cannot refer to it.
func (p *Project) refOf(b *recipe.Book, t *tag.Tag) (ref, path string, ok bool) {
	path, _ = p.Path(t.ID)
	if b.Type == "" {
		return t.ID, path, true
	}
	g, made := p.gear.tags[t.ID]
	if e := p.Equipment[g.Instance]; !made || e == nil || e.Type != b.Type {
		return "", "", false
	}
	root := t.Folder
	for p.gear.pieces[root].Chain != "" && p.Folders[root] != nil {
		root = p.Folders[root].Parent
	}
	return g.Chain, strings.TrimPrefix(path, p.FolderPath(root)+"."), true
}

// PointOf is a tag as a book refers to it; ok is false where it cannot.
func (p *Project) PointOf(b *recipe.Book, id string) (ref string, ok bool) {
	t := p.Tags[p.Real(id)]
	if t == nil {
		return "", false
	}
	ref, _, ok = p.refOf(b, t)
	return ref, ok
}

// freeName is a path, with a number behind it where a field has it already.
func freeName(path string, taken map[string]bool) string {
	name := path
	for n := 2; taken[tag.Key(name)]; n++ {
		name = fmt.Sprintf("%s_%d", path, n)
	}
	taken[tag.Key(name)] = true
	return name
}

// spacedName is a segment of a path as people read it: DryBulb is Dry bulb, and
// Step[2] is Step 2.
func spacedName(segment string) string {
	var b strings.Builder
	runes := []rune(strings.NewReplacer("[", " ", "]", "", "_", " ").Replace(segment))
	for i, r := range runes {
		inner := i > 0 && unicode.IsUpper(r) && unicode.IsLower(runes[i-1])
		if inner {
			b.WriteByte(' ')
			if i+1 < len(runes) && unicode.IsLower(runes[i+1]) {
				r = unicode.ToLower(r)
			}
		}
		b.WriteRune(r)
	}
	return b.String()
}

// MatchingTags are the ids of the tags whose paths match a pattern, in order.
func (p *Project) MatchingTags(pattern string) []string {
	var out []string
	for _, id := range p.SortedTags() {
		if tag.Like(pattern, p.paths.of[id]) {
			out = append(out, id)
		}
	}
	return out
}
