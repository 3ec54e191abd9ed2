package project

import (
	"encoding/json"
	"iter"
	"readyrail/internal/core/say"
	"strings"
)

// JSON pointers (RFC 6901) into documents; members of objects only.

var unescapePointer = strings.NewReplacer("~1", "/", "~0", "~")

func splitPointer(path string) ([]string, error) {
	if path == "" {
		return nil, nil
	}
	if path[0] != '/' {
		return nil, say.New("a JSON pointer starts with /")
	}
	keys := strings.Split(path[1:], "/")
	for i := range keys {
		keys[i] = unescapePointer.Replace(keys[i])
	}
	return keys, nil
}

// openDoc is a document that is read and altered at pointers. Each object on
// their way is parsed once, and written once when the whole is asked for.
type openDoc struct {
	raw     json.RawMessage
	members map[string]*openDoc // once it is parsed
}

// parse tells whether the document is an object; an absent one becomes empty.
func (d *openDoc) parse() bool {
	if d.members != nil {
		return true
	}
	m := map[string]json.RawMessage{}
	if len(d.raw) > 0 && string(d.raw) != "null" && json.Unmarshal(d.raw, &m) != nil {
		return false
	}
	d.members = make(map[string]*openDoc, len(m))
	for k, raw := range m {
		d.members[k] = &openDoc{raw: raw}
	}
	return true
}

// json returns the document as it is now; nil where it is absent.
func (d *openDoc) json() json.RawMessage {
	if d.members == nil {
		return d.raw
	}
	m := make(map[string]json.RawMessage, len(d.members))
	for k, inner := range d.members {
		m[k] = inner.json()
	}
	return mustJSON(m)
}

// at returns what stands at a pointer, nil when nothing does.
func (d *openDoc) at(path string) json.RawMessage {
	keys, err := splitPointer(path)
	if err != nil {
		return nil
	}
	for _, k := range keys {
		// What is absent or null stays as it is.
		if d.members == nil && (len(d.raw) == 0 || string(d.raw) == "null") || !d.parse() {
			return nil
		}
		inner, ok := d.members[k]
		if !ok {
			return nil
		}
		d = inner
	}
	return d.json()
}

// set puts a value at a pointer, or removes what stands there when it is nil.
// Objects on the way are made; an array on the way is refused.
func (d *openDoc) set(path string, v json.RawMessage) error {
	keys, err := splitPointer(path)
	if err != nil {
		return err
	}
	for i, k := range keys {
		if !d.parse() {
			return say.Errorf("%q lies in something that is no object", k)
		}
		if i == len(keys)-1 && v == nil {
			delete(d.members, k)
			return nil
		}
		inner, ok := d.members[k]
		if !ok {
			inner = &openDoc{}
			d.members[k] = inner
		}
		d = inner
	}
	d.raw, d.members = v, nil
	return nil
}

// valueAt returns what stands at a pointer of a document, nil when nothing does.
func valueAt(doc json.RawMessage, path string) json.RawMessage {
	return (&openDoc{raw: doc}).at(path)
}

// setValue returns a document with a value set, or removed when it is nil.
func setValue(doc json.RawMessage, path string, v json.RawMessage) (json.RawMessage, error) {
	d := &openDoc{raw: doc}
	if err := d.set(path, v); err != nil {
		return nil, err
	}
	return d.json(), nil
}

// apart are pointers of which none lies within another, so that what is set at
// them may be set in any order.
type apart struct {
	whole map[string]bool // the pointers
	above map[string]bool // everything that they lie in
}

// add takes a pointer that lies apart from those before, and tells whether it
// does.
func (a *apart) add(path string) bool {
	if path != "" && path[0] != '/' || a.meets(path) {
		return false
	}
	a.note(path)
	return true
}

// meets tells whether a pointer lies within one of those before, or one of them
// within it.
func (a *apart) meets(path string) bool {
	if a.whole[path] || a.above[path] {
		return true
	}
	for up := range upwards(path) {
		if a.whole[up] {
			return true
		}
	}
	return false
}

func (a *apart) note(path string) {
	if a.whole == nil {
		a.whole, a.above = map[string]bool{}, map[string]bool{}
	}
	a.whole[path] = true
	for up := range upwards(path) {
		a.above[up] = true
	}
}

// upwards lists what a pointer lies in, the nearest first and the whole last.
func upwards(path string) iter.Seq[string] {
	return func(yield func(string) bool) {
		for path != "" {
			path = path[:max(0, strings.LastIndexByte(path, '/'))]
			if !yield(path) {
				return
			}
		}
	}
}
